import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answered, api, type Query, type Schemas } from '../api/client'

export type Plan = Schemas['Plan']

const MAX_LISTED = 200

export type Compared = Schemas['Compared']

/** What each of two planned changes does. */
export function useComparedPlans(id: string, other: string) {
  return useQuery({
    queryKey: ['plan', id, 'with', other],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/planned-change/compare', { params: { query: { id, with: other } }, signal })),
  })
}

export type Proposal = {
  title: string
  reason?: string
  planned?: string
  steps: { change: string; of: string; to?: string }[]
}

/** Planned changes, newest first; those that touch an asset, if one is named. */
export function usePlans(query: { state?: string; ref?: string }, enabled = true) {
  return useQuery({
    queryKey: ['plans', query],
    queryFn: ({ signal }) =>
      answered(
        api.GET('/api/v1/planned-changes', {
          params: { query: { ...query, limit: MAX_LISTED } as Query<'/api/v1/planned-changes'> },
          signal,
        }),
      ),
    enabled,
  })
}

/** One planned change, whole. */
export function usePlan(id: string) {
  return useQuery({
    queryKey: ['plan', id],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/planned-change', { params: { query: { id } }, signal })),
  })
}

/** Proposes a change; the answer has its id. */
export function usePropose() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (proposal: Proposal) =>
      answered(
        api.POST('/api/v1/planned-changes', {
          body: JSON.stringify({ format: 'longthread-change/1', ...proposal }),
          bodySerializer: (text) => text,
          headers: { 'Content-Type': 'application/yaml' },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ['plans'] }),
  })
}

type State = 'proposed' | 'agreed' | 'done' | 'withdrawn'

/** Moves a change to another state. */
export function useMove(id: string) {
  const refresh = useRefresh(id)
  return useMutation({
    mutationFn: (to: State) =>
      answered(api.POST('/api/v1/planned-changes/state', { params: { query: { id, to } } })),
    onSuccess: refresh,
  })
}

export type Answered = { owner: string; answer: 'agrees' | 'objects'; note?: string }

/** Answers in the name of an owner. */
export function useAnswer(id: string) {
  const refresh = useRefresh(id)
  return useMutation({
    mutationFn: ({ owner, answer, note }: Answered) =>
      answered(
        api.POST('/api/v1/planned-changes/answer', { params: { query: { id, owner, answer, note } } }),
      ),
    onSuccess: refresh,
  })
}

function useRefresh(id: string) {
  const client = useQueryClient()
  return (plan: Plan) => {
    client.setQueryData(['plan', id], plan)
    return client.invalidateQueries({ queryKey: ['plans'] })
  }
}
