import { useQuery } from '@tanstack/react-query'
import { answered, api } from '../api/client'

/** What a field or chart is and where it comes from, in plain words. */
export function useReader(ref: string) {
  return useQuery({
    queryKey: ['reader', ref],
    queryFn: ({ signal }) => answered(api.GET('/api/v1/reader', { params: { query: { ref } }, signal })),
  })
}
