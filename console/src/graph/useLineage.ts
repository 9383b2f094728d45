import { useQueries, useQuery } from '@tanstack/react-query'
import { answered, api, type Query } from '../api/client'

export type Opened = { ref: string; direction: 'upstream' | 'downstream' }

type Asked = {
  ref: string
  direction: string
  hops: number
  detail: string
  opened: Opened[]
  most?: number
  /** The moment of which to show it; now without it. */
  asOf?: string
  enabled?: boolean
}

/** So many places can still be looked over; the answer says if there are more, and they may be asked for. */
export const SOME_PLACES = 600
export const MANY_PLACES = 3000

/** The focus's view and those of the boxes opened by hand, asked for together. */
export function useLineage({
  ref,
  direction,
  hops,
  detail,
  opened,
  most = SOME_PLACES,
  asOf,
  enabled = true,
}: Asked) {
  const views = [{ ref, direction, hops }, ...opened.map((one) => ({ ...one, hops: 1 }))]
  return useQueries({
    queries: views.map((view) => ({
      queryKey: ['graph', view, detail, most, asOf],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        answered(
          api.GET('/api/v1/graph', {
            params: { query: { ...view, detail, limit: most, asOf } as Query<'/api/v1/graph'> },
            signal,
          }),
        ),
      enabled: enabled && ref !== '',
    })),
  })
}

/** The moments at which links around a focus began or ended, oldest first. */
export function useMoments(ref: string, direction: string, hops: number, enabled: boolean) {
  return useQuery({
    queryKey: ['moments', ref, direction, hops],
    queryFn: ({ signal }) =>
      answered(
        api.GET('/api/v1/moments', {
          params: { query: { ref, direction, hops, limit: MAX_MOMENTS } as Query<'/api/v1/moments'> },
          signal,
        }),
      ),
    enabled,
  })
}

const MAX_MOMENTS = 1000

const MARK = { upstream: 'u:', downstream: 'd:' } as const

/** Opened boxes as the text of an address, and back. */
export function openedText(opened: Opened[]): string {
  return JSON.stringify(opened.map((one) => MARK[one.direction] + one.ref))
}

export function openedOf(text: string | undefined): Opened[] {
  if (!text) return []
  try {
    return (JSON.parse(text) as string[]).map((part) => ({
      direction: part.startsWith('u:') ? 'upstream' : 'downstream',
      ref: part.slice(2),
    }))
  } catch {
    return []
  }
}
