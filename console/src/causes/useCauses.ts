import { useQuery } from '@tanstack/react-query'
import { answered, api } from '../api/client'

export const SYMPTOMS = ['any', 'late', 'wrong-values', 'missing-rows', 'failed-check'] as const

export type SymptomWord = (typeof SYMPTOMS)[number]

export type CauseQuestion = { ref?: string; symptom?: SymptomWord; at?: string; good?: string }

/** Why something is wrong or late, now or at a time before. */
export function useCauses({ ref, symptom, at, good }: CauseQuestion) {
  return useQuery({
    queryKey: ['causes', ref, symptom, at, good],
    queryFn: ({ signal }) =>
      answered(
        api.GET('/api/v1/causes', { params: { query: { ref: ref ?? '', symptom, at, good } }, signal }),
      ),
    enabled: ref !== undefined,
  })
}
