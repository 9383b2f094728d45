import { useQuery } from '@tanstack/react-query'
import { answered, api } from '../api/client'

/** The lineage of a text of SQL. */
export function useSqlLineage(sql: string) {
  return useQuery({
    queryKey: ['sql', sql],
    queryFn: ({ signal }) =>
      answered(api.POST('/api/v1/sql/lineage', { body: { sql, dialect: 'postgres' }, signal })),
  })
}

/** The steps by which a job computes what it writes. */
export function useJobSteps(ref: string) {
  return useQuery({
    queryKey: ['steps', ref],
    queryFn: ({ signal }) => answered(api.GET('/api/v1/job/steps', { params: { query: { ref } }, signal })),
  })
}
