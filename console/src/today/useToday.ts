import { useQuery } from '@tanstack/react-query'
import { answered, api } from '../api/client'

const AGAIN = 30_000 // milliseconds

/** What needs somebody now; asked for again while the page is open. */
export function useToday(owner: string | undefined) {
  return useQuery({
    queryKey: ['today', owner],
    queryFn: ({ signal }) => answered(api.GET('/api/v1/today', { params: { query: { owner } }, signal })),
    refetchInterval: AGAIN,
  })
}
