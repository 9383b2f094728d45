import { useQuery } from '@tanstack/react-query'
import { answered, api, type Schemas } from '../api/client'

export type Exact = Schemas['ExactAnswer']
export type Run = Schemas['ExactRun']

const MAX_RUNS = 1000

/** The runs behind what is in an asset at a moment, or behind what a run wrote. */
export function useBehind(ref: string, asOf?: string) {
  return useQuery({
    queryKey: ['behind', ref, asOf],
    queryFn: async ({ signal }) => {
      const query = { ref, exact: 'run' as const, direction: 'upstream' as const, asOf, limit: MAX_RUNS }
      const view = await answered(api.GET('/api/v1/graph', { params: { query }, signal }))
      return view.exact as Exact
    },
  })
}

/** What rests on what a run wrote. */
export function useRecall(ref: string) {
  return useQuery({
    queryKey: ['recall', ref],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/recall', { params: { query: { ref, limit: MAX_RUNS } }, signal })) as Promise<
        Schemas['RecallPage']
      >,
  })
}
