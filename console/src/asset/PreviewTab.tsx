import { useQuery } from '@tanstack/react-query'
import { Button, Empty, Table } from 'antd'
import { answered, api, ProblemError, type Schemas } from '../api/client'
import styles from '../labels/labels.module.css'
import { Answer } from '../shared/Answer'
import { moment } from '../shared/format'
import shared from '../shared/shared.module.css'

const WORDS: Record<string, string> = {
  shown: '',
  generalised: 'generalised',
  partial: 'partly shown',
  hashed: 'hashed',
  hidden: 'hidden',
}

function usePreview(ref: string) {
  return useQuery({
    queryKey: ['preview', ref],
    retry: false,
    gcTime: 0, // rows are not kept, here neither
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/preview', { params: { query: { ref } }, signal })) as Promise<
        Schemas['PreviewRows']
      >,
  })
}

/** A few rows as they are at the source now; what a label protects is masked before it gets here. */
export function PreviewTab({ refText }: { refText: string }) {
  const preview = usePreview(refText)
  const { error } = preview
  if (error instanceof ProblemError && /no-preview-source|no-columns/.test(error.problem.type)) {
    return <Empty description={`${error.problem.title}: ${error.problem.detail}.`} />
  }
  return (
    <Answer of={preview}>
      {(rows) => (
        <>
          <div className={shared.bar}>
            <span className={shared.quiet}>
              {rows.rows.length} rows of {rows.part}, read {moment(rows.readAt)}
              {rows.isCut && '; there are more'}. Masked for the role {rows.role}; that you looked is in the
              audit log.
            </span>
            <span className={shared.space} />
            <Button size="small" onClick={() => preview.refetch()}>
              Read again
            </Button>
          </div>
          <Table
            size="small"
            pagination={false}
            scroll={{ x: 'max-content' }}
            rowKey={(row) => row.at}
            dataSource={rows.rows.map((values, at) => ({ at, values }))}
            columns={rows.columns.map((column, i) => ({
              title: (
                <>
                  {column.name}
                  <span className={styles.shownHow}>
                    {column.labels.length > 0
                      ? `${column.labels.join(', ')}${WORDS[column.shown] ? `: ${WORDS[column.shown]}` : ''}`
                      : '\u00a0'}
                  </span>
                </>
              ),
              key: column.name,
              render: (_: unknown, row: { values: (string | undefined)[] }) =>
                row.values[i] === undefined || row.values[i] === null ? (
                  <span className={shared.quiet}>none</span>
                ) : (
                  <span className={styles.value}>{row.values[i]}</span>
                ),
            }))}
          />
          {rows.missing.length > 0 && (
            <p className={shared.quiet}>Not at the source: {rows.missing.join(', ')}</p>
          )}
        </>
      )}
    </Answer>
  )
}
