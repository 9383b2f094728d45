import { useQuery } from '@tanstack/react-query'
import { answered, api, type Schemas } from '../api/client'

export type Leak = Schemas['Leak']
export type Label = Schemas['LabelCounts']
export type LabelledPlace = Schemas['LabelledPlace']

const MAX_LISTED = 1000

/** The labels with how far each travelled. */
export function useLabels() {
  return useQuery({
    queryKey: ['labels'],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/labels', { params: { query: { limit: MAX_LISTED } }, signal })),
  })
}

/** One label and what has it, the nearest to where it was set first. */
export function useLabel(id: string | undefined) {
  return useQuery({
    queryKey: ['label', id],
    enabled: id !== undefined,
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/label', { params: { query: { id: id ?? '', limit: MAX_LISTED } }, signal })),
  })
}

/** Leaks, open and accepted; of one label or at one asset where that is named. */
export function useLeaks(of: { label?: string; ref?: string } = {}) {
  return useQuery({
    queryKey: ['leaks', of.label, of.ref],
    queryFn: ({ signal }) =>
      answered(
        api.GET('/api/v1/leaks', { params: { query: { ...of, state: 'all', limit: MAX_LISTED } }, signal }),
      ) as Promise<Schemas['LeakList']>,
  })
}

type Listed =
  | 'rules'
  | 'stops'
  | 'policies'
  | 'masks'
  | 'coverage'
  | 'suggestions'
  | 'disagreements'
  | 'reviews'

/** What stewards set of labels, and what is left for them to do, by the last word of the call. */
function useListed<Item>(what: Listed) {
  return useQuery({
    queryKey: ['labels', what],
    queryFn: ({ signal }) =>
      answered(
        api.GET(`/api/v1/labels/${what}`, { params: { query: { limit: MAX_LISTED } }, signal }),
      ) as unknown as Promise<{ items: Item[] }>,
  })
}

export const useRules = () => useListed<Schemas['ListedRule']>('rules')
export const useStops = () => useListed<Schemas['ListedStop']>('stops')
export const usePolicies = () => useListed<Schemas['ListedPolicy']>('policies')
export const useMasks = () => useListed<Schemas['ListedMask']>('masks')
export const useLabelCoverage = () => useListed<Schemas['LabelledSystem']>('coverage')
export const useSuggestions = () => useListed<Schemas['LabelSuggestion']>('suggestions')
export const useDisagreements = () => useListed<Schemas['Disagreement']>('disagreements')
export const useReviews = () => useListed<Schemas['Review']>('reviews')
