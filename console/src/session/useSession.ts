import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { get, type Schemas, send } from '../api/client'

/** Who is signed in; also fetches the token that the next change must carry. */
export function useSession() {
  return useQuery({
    queryKey: ['session'],
    queryFn: () => get<Schemas['Session']>('session'),
    staleTime: Number.POSITIVE_INFINITY,
  })
}

export function useSignIn() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (given: { name: string; password: string }) =>
      send<Schemas['Session']>('POST', 'session', given),
    onSuccess: (session) => queries.setQueryData(['session'], session),
  })
}

export function useSignOut() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: () => send<Schemas['Session']>('DELETE', 'session'),
    onSuccess: (session) => {
      queries.setQueryData(['session'], session)
      queries.removeQueries({ predicate: (query) => query.queryKey[0] !== 'session' })
    },
  })
}
