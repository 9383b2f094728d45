import { useQuery } from '@tanstack/react-query'
import { answered, api, type Query, type Schemas } from '../api/client'

export type Comparison = Schemas['Comparison']

const MAX_CHANGES = 500

/** What is different between two moments or versions. */
export function useComparison(
  ref: string,
  from: string,
  to: string | undefined,
  direction: string,
  hops?: number,
) {
  return useQuery({
    queryKey: ['compare', ref, from, to, direction, hops],
    queryFn: ({ signal }) =>
      answered(
        api.GET('/api/v1/compare', {
          params: { query: { ref, from, to, direction, hops } as Query<'/api/v1/compare'> },
          signal,
        }),
      ),
  })
}

/** The versions of a job, newest first. */
export function useVersions(job: string) {
  return useQuery({
    queryKey: ['versions', job],
    queryFn: async ({ signal }) => {
      const query = { ref: job, limit: MAX_CHANGES }
      const history = await answered(api.GET('/api/v1/history', { params: { query }, signal }))
      return history.changes.flatMap((change) => {
        const number = /^version (\d+)$/.exec(change.kind === 'version' ? (change.words[0] ?? '') : '')
        return number ? [{ number: Number(number[1]), at: change.at }] : []
      })
    },
  })
}
