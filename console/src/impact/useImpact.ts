import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query'
import { answered, api, type Query, type Schemas } from '../api/client'

/** A change to be judged, and which of what it touches to list. */
export type ImpactQuery = {
  ref: string
  change: string
  to?: string
  kind?: string
  owner?: string
  system?: string
  verdict?: string
}

const MAX_ITEMS = 1000

/** What a change would do downstream. */
export function useImpact(query: ImpactQuery, enabled: boolean) {
  return useQuery({
    queryKey: ['impact', query],
    queryFn: async ({ signal }) => {
      const params = { query: { ...query, limit: MAX_ITEMS } as Query<'/api/v1/impact'> }
      // The address also answers as CSV, which only the download asks for.
      return (await answered(api.GET('/api/v1/impact', { params, signal }))) as Schemas['ImpactAnswer']
    },
    enabled,
    placeholderData: keepPreviousData,
  })
}

/** Saves the list as CSV, to be handed on. */
export function useImpactCsv(query: ImpactQuery) {
  return useMutation({
    mutationFn: async () => {
      // As bytes: read as text it would lose the mark by which spreadsheets know its encoding.
      const sheet = await answered(
        api.GET('/api/v1/impact', {
          params: { query: query as Query<'/api/v1/impact'> },
          headers: { Accept: 'text/csv' },
          parseAs: 'blob',
        }),
      )
      save(sheet as Blob, `impact-${query.ref.replace(/[^A-Za-z0-9._-]+/g, '_')}.csv`)
    },
  })
}

function save(sheet: Blob, name: string) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(sheet)
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}
