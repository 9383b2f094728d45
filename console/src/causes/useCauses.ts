import { useQuery } from '@tanstack/react-query'
import { answered, api } from '../api/client'

/** Why something is wrong or late, now or at a time before. */
export function useCauses(ref: string | undefined, at: string | undefined) {
  return useQuery({
    queryKey: ['causes', ref, at],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/causes', { params: { query: { ref: ref ?? '', at } }, signal })),
    enabled: ref !== undefined,
  })
}
