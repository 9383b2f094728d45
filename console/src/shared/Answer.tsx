import type { UseQueryResult } from '@tanstack/react-query'
import { Alert, Skeleton } from 'antd'
import type { ReactNode } from 'react'
import { Link } from 'react-router'
import { ProblemError } from '../api/client'
import styles from './shared.module.css'

/** Shows what a query came to: nothing yet, a problem with a next step, or its answer. */
export function Answer<T>({ of, children }: { of: UseQueryResult<T>; children: (answer: T) => ReactNode }) {
  if (of.isPending) return <Skeleton active paragraph={{ rows: 6 }} className={styles.loading} />
  if (of.isError) return <ProblemNotice error={of.error} />
  return <>{children(of.data)}</>
}

/** A problem in the service's own words, with the names that may have been meant. */
export function ProblemNotice({ error }: { error: Error }) {
  const problem = error instanceof ProblemError ? error.problem : undefined
  const names = problem?.candidates ?? problem?.nearest ?? []
  return (
    <Alert
      type={problem?.status === 404 || problem?.status === 409 ? 'warning' : 'error'}
      showIcon
      className={styles.notice}
      title={problem?.title ?? 'Something went wrong in this page'}
      description={
        <>
          <div>{error.message}</div>
          {names.map((name) => (
            <div key={name}>
              <Link to={`?ref=${encodeURIComponent(name)}`}>{name}</Link>
            </div>
          ))}
        </>
      }
    />
  )
}
