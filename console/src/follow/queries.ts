import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answered, api, type Schemas, visible } from '../api/client'

const MAX_LISTED = 1000

/** A query that lists, under the name of its path. */
function useList<T>(key: unknown[], get: (signal: AbortSignal) => Promise<T>) {
  return useQuery({ queryKey: key, queryFn: ({ signal }) => get(signal) })
}

/** A call that changes something; afterwards every list is asked for again. */
function useSending<Given, Answer>(send: (given: Given) => Promise<Answer>) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: send,
    onSuccess: async (answer) => {
      await visible((answer ?? {}) as { receipt?: string })
      await queries.invalidateQueries()
    },
  })
}

const WAIT = { headers: { Prefer: 'wait=4' } }

export type NoticeState = 'active' | 'planned' | 'ended' | 'lifted' | 'all'

export function useNotices(state: NoticeState) {
  return useList(['notices', state], (signal) =>
    answered(api.GET('/api/v1/notices', { params: { query: { state, limit: MAX_LISTED } }, signal })),
  )
}

export function usePutNotice() {
  return useSending((body: Schemas['NewNotice']) =>
    answered(api.POST('/api/v1/notices', { body, ...WAIT } as never)),
  )
}

export function useLiftNotice() {
  return useSending((id: string) =>
    answered(api.POST('/api/v1/notices/lift', { params: { query: { id } }, ...WAIT })),
  )
}

export function useWatches() {
  return useList(['watches'], (signal) =>
    answered(api.GET('/api/v1/watches', { params: { query: { limit: MAX_LISTED } }, signal })),
  )
}

export function useMakeWatch() {
  return useSending((body: Schemas['NewWatch']) => answered(api.POST('/api/v1/watches', { body })))
}

export function useTryWatch() {
  return useSending((id: string) => answered(api.POST('/api/v1/watches/try', { params: { query: { id } } })))
}

export function useEndWatch() {
  return useSending((id: string) => answered(api.DELETE('/api/v1/watches', { params: { query: { id } } })))
}

export function useDeliveries() {
  return useList(['deliveries'], (signal) =>
    answered(api.GET('/api/v1/deliveries', { params: { query: { limit: MAX_LISTED } }, signal })),
  )
}

export function useRetryDelivery() {
  return useSending((id: string) =>
    answered(api.POST('/api/v1/deliveries/retry', { params: { query: { id } } })),
  )
}

export function useTickets() {
  return useList(['tickets'], (signal) =>
    answered(api.GET('/api/v1/tickets', { params: { query: { limit: MAX_LISTED } }, signal })),
  )
}

export function useOpenTicket() {
  return useSending((body: Schemas['NewTicket']) => answered(api.POST('/api/v1/tickets', { body })))
}

export function useShareLinks(ref?: string) {
  return useList(['share-links', ref], (signal) =>
    answered(api.GET('/api/v1/share-links', { params: { query: { ref, limit: MAX_LISTED } }, signal })),
  )
}

export function useMakeShareLink() {
  return useSending((body: Schemas['NewShareLink']) => answered(api.POST('/api/v1/share-links', { body })))
}

export function useRevokeShareLink() {
  return useSending((id: string) =>
    answered(api.DELETE('/api/v1/share-links', { params: { query: { id } } })),
  )
}

export function useTrail(person: string | undefined) {
  return useList(['trail', person], (signal) =>
    answered(api.GET('/api/v1/trail', { params: { query: { person, limit: MAX_LISTED } }, signal })),
  )
}

export function useAddStep() {
  return useSending((body: Schemas['NewStep']) => answered(api.POST('/api/v1/trail', { body })))
}

/** Notes that an asset was looked at; nothing on the page waits for it or shows it. */
export function useNoteStep() {
  return useMutation({
    mutationFn: (ref: string) => answered(api.POST('/api/v1/trail', { body: { ref } })),
  })
}

export function useEndLater() {
  return useSending((ref: string) => answered(api.DELETE('/api/v1/trail', { params: { query: { ref } } })))
}

export function useShareTrail() {
  return useSending((shared: boolean) => answered(api.PUT('/api/v1/trail/sharing', { body: { shared } })))
}

export function useFollowed(ref?: string) {
  return useList(['followed', ref], (signal) =>
    answered(api.GET('/api/v1/followed', { params: { query: { ref, limit: MAX_LISTED } }, signal })),
  )
}

export function useNoteFollowed() {
  return useSending((body: Schemas['NewFollowed']) =>
    answered(api.POST('/api/v1/followed', { body, ...WAIT } as never)),
  )
}
