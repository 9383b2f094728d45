import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answered, api, type Schemas } from '../api/client'

export type Account = Schemas['ListedAccount']
export type Key = Schemas['Listed']
export type Grant = Schemas['GrantRow']
export type Group = Schemas['ListedGroup']

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

/** Who holds which role on what. */
export function useGrants() {
  return useQuery({
    queryKey: ['grants'],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/grants', { params: { query: { limit: MAX_LISTED } }, signal })),
  })
}

/** The groups of people and who is in them. */
export function useGroups() {
  return useQuery({
    queryKey: ['groups'],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/groups', { params: { query: { limit: MAX_LISTED } }, signal })),
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

export type NewGrant = {
  holderKind: string
  holder: string
  role: string
  scope: string
  value?: string
  until?: string
}

export function useGiveGrant() {
  return useChange('grants', (body: NewGrant) => answered(api.POST('/api/v1/grants', { body })))
}

export function useEndGrant() {
  return useChange('grants', (id: number) =>
    answered(api.DELETE('/api/v1/grants', { params: { query: { id } } })),
  )
}

export function usePutGroup() {
  return useChange('groups', (body: { name: string; title?: string }) =>
    answered(api.PUT('/api/v1/groups', { body })),
  )
}

export function useDeleteGroup() {
  return useChange('groups', (name: string) =>
    answered(api.DELETE('/api/v1/groups', { params: { query: { name } } })),
  )
}

export type Member = { group: string; account: string }

export function useAddMember() {
  return useChange('groups', (body: Member) => answered(api.PUT('/api/v1/groups/members', { body })))
}

export function useRemoveMember() {
  return useChange('groups', (query: Member) =>
    answered(api.DELETE('/api/v1/groups/members', { params: { query } })),
  )
}
