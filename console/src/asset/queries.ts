import { useQuery } from '@tanstack/react-query'
import { answered, api } from '../api/client'

const MAX_CHANGES = 500
const MAX_PARTS = 1000
const MAX_LINES = 1000

/** A job from the inside: what it writes, column by column, and what it reads. */
export function useJob(ref: string) {
  return useQuery({
    queryKey: ['job', ref],
    queryFn: ({ signal }) => answered(api.GET('/api/v1/job', { params: { query: { ref } }, signal })),
  })
}

/** The checks of an asset with their results over time. */
export function useChecks(ref: string) {
  return useQuery({
    queryKey: ['checks', ref],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/checks', { params: { query: { ref, limit: MAX_LINES } }, signal })),
  })
}

/** What changed of an asset, newest first. */
export function useHistory(ref: string) {
  return useQuery({
    queryKey: ['history', ref],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/history', { params: { query: { ref, limit: MAX_CHANGES } }, signal })),
  })
}

/** How much was read and written of a dataset, newest first. */
export function useStatistics(ref: string) {
  return useQuery({
    queryKey: ['statistics', ref],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/statistics', { params: { query: { ref, limit: MAX_LINES } }, signal })),
  })
}

/** The partitions and shards that fold into an asset. */
export function useParts(ref: string) {
  return useQuery({
    queryKey: ['parts', ref],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/parts', { params: { query: { ref, limit: MAX_PARTS } }, signal })),
  })
}
