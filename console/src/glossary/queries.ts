import { useQuery } from '@tanstack/react-query'
import { answered, api, type Schemas } from '../api/client'

export type Term = Schemas['ListedTerm']

/** One term with what has it. */
export function useTerm(id: string | undefined) {
  return useQuery({
    queryKey: ['term', id],
    enabled: id !== undefined,
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/term', { params: { query: { id: id ?? '' } }, signal })),
  })
}

/** Terms for columns that hold copies of one that has the term. */
export function useTermSuggestions() {
  return useQuery({
    queryKey: ['suggestions', 'terms'],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/suggestions/terms', { params: { query: { limit: 1000 } }, signal })),
  })
}
