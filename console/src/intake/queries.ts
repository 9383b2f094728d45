import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answered, api } from '../api/client'

const NEWEST = 200
const MAX_REFUSALS = 500
const MAX_LISTED = 1000
const REFRESH_MILLIS = 3_000

/** What came in, kept up to date while the page is open. */
export function useIntake(about: string | undefined) {
  return useQuery({
    queryKey: ['intake', about],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/intake', { params: { query: { limit: NEWEST, about } }, signal })),
    refetchInterval: REFRESH_MILLIS,
    placeholderData: keepPreviousData,
  })
}

/** One event, opened. */
export function useEvent(id: string | undefined) {
  return useQuery({
    queryKey: ['event', id],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/intake/event', { params: { query: { id: id ?? '' } }, signal })),
    enabled: id !== undefined,
  })
}

/** Who sends, in which version, and who is silent. */
export function useEmitters() {
  return useQuery({
    queryKey: ['emitters'],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/intake/emitters', { params: { query: { limit: MAX_LISTED } }, signal })),
  })
}

/** The files that were picked up. */
export function useFiles() {
  return useQuery({
    queryKey: ['files'],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/intake/files', { params: { query: { limit: MAX_LISTED } }, signal })),
  })
}

/** What was refused, newest first. */
export function useRefusals() {
  return useQuery({
    queryKey: ['refusals'],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/intake/refused', { params: { query: { limit: MAX_REFUSALS } }, signal })),
  })
}

/** One refusal with its bytes. */
export function useRefusal(id: number | undefined) {
  return useQuery({
    queryKey: ['refusal', id],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/intake/refused/{id}', { params: { path: { id: id ?? 0 } }, signal })),
    enabled: id !== undefined,
  })
}

/** Tries one refusal again, or all of them. */
export function useRetry() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (id: number | undefined) =>
      answered(
        id === undefined
          ? api.POST('/api/v1/intake/refused/retry')
          : api.POST('/api/v1/intake/refused/{id}/retry', { params: { path: { id } } }),
      ),
    onSuccess: () => {
      client.invalidateQueries({ queryKey: ['refusals'] })
      client.invalidateQueries({ queryKey: ['intake'] })
    },
  })
}
