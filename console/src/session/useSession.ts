import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answered, api, type Schemas } from '../api/client'

/** Who is signed in; also fetches the token that the next change must carry. */
export function useSession() {
  return useQuery({
    queryKey: ['session'],
    queryFn: () => answered(api.GET('/api/v1/session')),
    staleTime: Number.POSITIVE_INFINITY,
  })
}

/** Whether somebody sees only what their grants cover. */
export function isLimited(session: Schemas['Session'] | undefined): boolean {
  return session?.role === 'limited'
}

/** Whether who is signed in sees only what their grants cover. */
export function useLimited(): boolean {
  return isLimited(useSession().data)
}

export function useSignIn() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (given: { name: string; password: string }) =>
      answered(api.POST('/api/v1/session', { body: given })),
    onSuccess: (session) => queries.setQueryData(['session'], session),
  })
}

/** Changes the password of who is signed in. */
export function useChangePassword() {
  return useMutation({
    mutationFn: ({ current, password }: { current: string; password: string }) =>
      answered(api.PUT('/api/v1/session/password', { body: { current, password } })),
  })
}

export function useSignOut() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: () => answered(api.DELETE('/api/v1/session')),
    onSuccess: (session) => {
      // Who signed in at a provider is signed out there too.
      if (session.continueAt) globalThis.location.assign(session.continueAt)
      queries.setQueryData(['session'], session)
      queries.removeQueries({ predicate: (query) => query.queryKey[0] !== 'session' })
    },
  })
}
