import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { answered, api } from '../api/client'

export type RunsQuery = {
  pipeline?: string
  state?: string
  system?: string
  outermost: boolean
  limit: number
}

/** Runs, newest first; the answer before stays while the next is on its way. */
export function useRuns(query: RunsQuery) {
  return useQuery({
    queryKey: ['runs', query],
    queryFn: ({ signal }) => answered(api.GET('/api/v1/runs', { params: { query }, signal })),
    placeholderData: keepPreviousData,
  })
}

/** One run with its tasks and what it read and wrote. */
export function useRun(ref: string) {
  return useQuery({
    queryKey: ['run', ref],
    queryFn: ({ signal }) => answered(api.GET('/api/v1/run', { params: { query: { ref } }, signal })),
  })
}
