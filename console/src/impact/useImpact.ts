import { keepPreviousData, useInfiniteQuery, useMutation, useQuery } from '@tanstack/react-query'
import { answered, api, type Query, type Schemas } from '../api/client'

/** A change to be judged, and which of what it touches to list. */
export type ImpactQuery = {
  ref: string
  change: string
  to?: string
  kind?: string
  owner?: string
  system?: string
  workspace?: string
  label?: string
  verdict?: string
}

export const GROUPS = ['owner', 'system', 'workspace', 'kind', 'label'] as const
export type GroupBy = (typeof GROUPS)[number]

const PAGE = 200

async function judged(query: object, signal: AbortSignal) {
  const params = { query: query as Query<'/api/v1/impact'> }
  // The address also answers as a sheet, which only the download asks for.
  return (await answered(api.GET('/api/v1/impact', { params, signal }))) as Schemas['ImpactAnswer']
}

/** How much a change touches, and whose it is: the whole, whatever is listed of it. */
export function useImpact({ ref, change, to }: ImpactQuery, groupBy: GroupBy, enabled: boolean) {
  return useQuery({
    queryKey: ['impact', ref, change, to, groupBy],
    queryFn: ({ signal }) => judged({ ref, change, to, groupBy, limit: 100 }, signal),
    enabled,
    placeholderData: keepPreviousData,
  })
}

/** What a change touches, page by page. */
export function useImpactItems(query: ImpactQuery, enabled: boolean) {
  return useInfiniteQuery({
    queryKey: ['impact', 'items', query],
    queryFn: ({ signal, pageParam }) => judged({ ...query, limit: PAGE, cursor: pageParam }, signal),
    initialPageParam: undefined as string | undefined,
    getNextPageParam: (page) => page.cursor,
    enabled,
    placeholderData: keepPreviousData,
  })
}

export const FILES = {
  csv: { name: 'CSV sheet', accept: 'text/csv', ending: 'csv' },
  contacts: { name: 'Contacts as CSV', accept: 'text/csv', ending: 'contacts.csv' },
  xlsx: {
    name: 'Workbook with contacts and groups',
    accept: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
    ending: 'xlsx',
  },
  report: { name: 'Report in Markdown', accept: 'text/markdown', ending: 'md' },
}
export type FileKind = keyof typeof FILES

/** Saves the list as a file, to be handed on. */
export function useImpactFile(query: ImpactQuery) {
  return useMutation({
    mutationFn: async (kind: FileKind) => {
      const { accept, ending } = FILES[kind]
      const groupBy = kind === 'contacts' ? 'owner' : undefined
      // As bytes: read as text it would lose the mark by which spreadsheets know its encoding.
      const file = await answered(
        api.GET('/api/v1/impact', {
          params: { query: { ...query, groupBy } as Query<'/api/v1/impact'> },
          headers: { Accept: accept },
          parseAs: 'blob',
        }),
      )
      save(file as Blob, `impact-${query.ref.replace(/[^A-Za-z0-9._-]+/g, '_')}.${ending}`)
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
