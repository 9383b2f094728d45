import { useQuery } from '@tanstack/react-query'
import { answered, api } from '../api/client'

/** One asset, whole. */
export function useAsset(ref: string | undefined) {
  return useQuery({
    queryKey: ['asset', ref],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/asset', { params: { query: { ref: ref ?? '' } }, signal })),
    enabled: ref !== undefined && ref !== '',
  })
}
