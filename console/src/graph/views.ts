import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answered, api, type Schemas } from '../api/client'

export type Settings = Record<string, string>
export type SavedView = Schemas['SavedGraphView']

/** What a view sets, as the address names it; a dash is nothing, chosen on purpose. */
export const SETTINGS = ['direction', 'hops', 'detail', 'group', 'hide', 'facts'] as const

/** The views that come with the console. */
export const SHIPPED: { name: string; settings: Settings }[] = [
  // For who reads reports: no jobs, descriptions on.
  {
    name: 'Overview',
    settings: { detail: 'assets', group: 'alike', hide: 'job,pipeline', facts: 'description' },
  },
  // For who builds them: every job, every object for itself.
  {
    name: 'Technical',
    settings: { detail: 'steps', group: 'none', hide: '-', facts: 'owner,freshness' },
  },
]

const MAX_LISTED = 1000

export function useViews() {
  return useQuery({
    queryKey: ['views'],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/views', { params: { query: { limit: MAX_LISTED } }, signal })),
  })
}

export function useSaveView() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: Schemas['NewView']) => answered(api.PUT('/api/v1/views', { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['views'] }),
  })
}

export function useDeleteView() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (name: string) => answered(api.DELETE('/api/v1/views', { params: { query: { name } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['views'] }),
  })
}

/** The settings with which assets of a kind open: by one's own view, else by a shared one. */
export function defaultsFor(views: SavedView[], kind: string | undefined): Settings {
  if (!kind) return {}
  const fitting = views.filter((view) => view.defaultFor.includes(kind))
  return (fitting.find((view) => view.mine) ?? fitting[0])?.settings ?? {}
}

/** The name of the view whose settings these are; none if they were changed since. */
export function nameOf(views: { name: string; settings: Settings }[], now: Settings): string | undefined {
  return views.find((view) => Object.entries(view.settings).every(([key, value]) => now[key] === value))?.name
}
