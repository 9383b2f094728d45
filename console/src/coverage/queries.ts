import { useQuery } from '@tanstack/react-query'
import { answered, api, type Query, type Schemas } from '../api/client'

export type Spot = Schemas['BlindSpot']
export type Covered = Schemas['SystemCoverage']
export type MergeSuggestion = Schemas['MergeSuggestion']

const MAX_LISTED = 1000

/** Of how much lineage is known, by system and workspace. */
export function useCoverage() {
  return useQuery({
    queryKey: ['coverage'],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/coverage', { params: { query: { limit: MAX_LISTED } }, signal })),
  })
}

/** What is missing; or what was set aside. */
export function useBlindSpots(kind: string | undefined, ignored: boolean) {
  const query = { kind, ignored, limit: MAX_LISTED } as Query<'/api/v1/blind-spots'>
  return useQuery({
    queryKey: ['blind-spots', kind, ignored],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/blind-spots', { params: { query }, signal })) as Promise<
        Schemas['BlindSpotList']
      >,
  })
}

/** Names that are probably one asset. */
export function useMergeSuggestions() {
  return useQuery({
    queryKey: ['suggestions', 'merges'],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/suggestions/merges', { params: { query: { limit: MAX_LISTED } }, signal })),
  })
}

/** What a rule would join, before it is set. */
export function useRuleTry(rule: string) {
  return useQuery({
    queryKey: ['rule', rule],
    queryFn: ({ signal }) => answered(api.GET('/api/v1/rules/try', { params: { query: { rule } }, signal })),
  })
}

/** Tables that are copied column by column. */
export function useCopies() {
  return useQuery({
    queryKey: ['copies'],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/copies', { params: { query: { limit: MAX_LISTED } }, signal })),
  })
}
