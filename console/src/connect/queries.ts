import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answered, api, type Schemas } from '../api/client'

export type Connection = Schemas['OpenConnection']
export type NewConnection = Schemas['NewConnection']

const AGAIN_MS = 10_000
const WATCH_MS = 1_500

/** The ways in that are open. */
export function useConnections() {
  return useQuery({
    queryKey: ['connections'],
    refetchInterval: AGAIN_MS,
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/connections', { params: { query: { limit: 1000 } }, signal })),
  })
}

/** Gets a key and settings. */
export function useConnect() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (body: { kind: string; name?: string }) =>
      answered(api.POST('/api/v1/connections', { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['connections'] }),
  })
}

/** What came by a new connection, looked at until it is left. */
export function useFirstEvents(name: string | undefined) {
  return useQuery({
    queryKey: ['connection', name],
    enabled: name !== undefined,
    refetchInterval: WATCH_MS,
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/connections/key', { params: { query: { name: name ?? '' } }, signal })),
  })
}
