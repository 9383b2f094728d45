import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answered, api, type Schemas } from '../api/client'

export type Account = Schemas['ListedAccount']
export type Key = Schemas['Listed']

const MAX_LISTED = 1000

/** The accounts of people. */
export function useAccounts() {
  return useQuery({
    queryKey: ['accounts'],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/accounts', { params: { query: { limit: MAX_LISTED } }, signal })),
  })
}

/** The keys of programs. */
export function useKeys() {
  return useQuery({
    queryKey: ['keys'],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/keys', { params: { query: { limit: MAX_LISTED } }, signal })),
  })
}

/** A change after which a list is asked for again. */
function useChange<Given, Answer>(list: string, change: (given: Given) => Promise<Answer>) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: change,
    onSuccess: () => queries.invalidateQueries({ queryKey: [list] }),
  })
}

export type NewAccount = { name: string; displayName?: string; role: string; password: string }

export function useMakeAccount() {
  return useChange('accounts', (body: NewAccount) => answered(api.POST('/api/v1/accounts', { body })))
}

export type AccountChange = { name: string; role?: string; disabled?: boolean }

export function useChangeAccount() {
  return useChange('accounts', ({ name, ...body }: AccountChange) =>
    answered(api.PATCH('/api/v1/accounts', { params: { query: { name } }, body })),
  )
}

export function useSetPassword(name: string) {
  return useChange('accounts', ({ password }: { password: string }) =>
    answered(api.PUT('/api/v1/accounts/password', { params: { query: { name } }, body: { password } })),
  )
}

export function useDeleteAccount() {
  return useChange('accounts', (name: string) =>
    answered(api.DELETE('/api/v1/accounts', { params: { query: { name } } })),
  )
}

export function useMakeKey() {
  return useChange('keys', (body: { name: string; role: string; expiresAt?: string }) =>
    answered(api.POST('/api/v1/keys', { body })),
  )
}

export function useRevokeKey() {
  return useChange('keys', (id: number) =>
    answered(api.DELETE('/api/v1/keys', { params: { query: { id } } })),
  )
}
