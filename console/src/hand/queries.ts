import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answered, api, type Schemas, visible } from '../api/client'
import { useSession } from '../session/useSession'

export type Stated = Schemas['Stated']
export type Recorded = Schemas['RecordedLink']

/** One value that a person sets; see docs/by-hand.md. */
export type Change = { set: string; [member: string]: unknown }

const MAX_LISTED = 1000

/**
 * Whether who is signed in may set values somewhere; what lies beyond their grants the service refuses
 * with the reason.
 */
export function useMaySet(): boolean {
  const session = useSession().data
  const { role, grants = [] } = session ?? {}
  return role === 'steward' || role === 'admin' || grants.some((grant) => grant.role === 'steward')
}

/** Makes changes in one statement; afterwards every list is asked for again, since any may show them. */
export function useStating() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: async ({ changes, reason }: { changes: Change[]; reason?: string }) => {
      const stated = await answered(
        api.POST('/api/v1/statements', {
          body: { reason, changes } as never,
          headers: { Prefer: 'wait=4' },
        }),
      )
      const conflict = stated.conflicts[0]
      if (conflict) {
        throw new Error(
          `The ${conflict.what} of ${conflict.of} was changed by ${conflict.by ?? 'somebody else'} meanwhile. Look at it again.`,
        )
      }
      return stated
    },
    onSuccess: async (stated) => {
      await visible(stated)
      await queries.invalidateQueries()
    },
  })
}

/** Takes a statement back. */
export function useUndo() {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (id: string) =>
      answered(
        api.POST('/api/v1/statements/undo', { params: { query: { id } }, headers: { Prefer: 'wait=4' } }),
      ),
    onSuccess: async (stated) => {
      await visible(stated)
      await queries.invalidateQueries()
    },
  })
}

/** What people recorded of lineage; with a reference, what names it. */
export function useRecorded(ref?: string) {
  return useQuery({
    queryKey: ['recorded', ref],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/recorded', { params: { query: { ref, limit: MAX_LISTED } }, signal })),
  })
}

/** What people stated, newest first. */
export function useStatements() {
  return useQuery({
    queryKey: ['statements'],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/statements', { params: { query: { limit: MAX_LISTED } }, signal })),
  })
}

/** The terms of the glossary, in the order of its tree. */
export function useTerms() {
  return useQuery({
    queryKey: ['terms'],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/terms', { params: { query: { limit: MAX_LISTED } }, signal })) as Promise<
        Schemas['TermList']
      >,
  })
}
