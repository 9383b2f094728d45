import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { answered, api, type Query } from '../api/client'

export type SearchQuery = {
  q?: string
  kind?: string
  system?: string
  owner?: string
  label?: string
  limit?: number
}

/** What a search finds; the answer before stays while the next is on its way. */
export function useSearch(query: SearchQuery, enabled = true) {
  return useQuery({
    queryKey: ['search', query],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/search', { params: { query: query as Query<'/api/v1/search'> }, signal })),
    placeholderData: keepPreviousData,
    enabled,
  })
}
