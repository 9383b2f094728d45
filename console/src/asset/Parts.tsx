import { useQuery } from '@tanstack/react-query'
import { Alert, Table } from 'antd'
import { get, type Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { moment, shortRef } from '../shared/format'
import { AssetLink } from '../shared/marks'
import { useInks } from '../shared/useInks'

/** The partitions and shards that fold into one asset, and which of them are missing. */
export function Parts({ refText }: { refText: string }) {
  const ink = useInks()
  const parts = useQuery({
    queryKey: ['parts', refText],
    queryFn: ({ signal }) => get<Schemas['Parts']>('parts', { ref: refText, limit: 1000 }, signal),
  })
  return (
    <Answer of={parts}>
      {(answer) => (
        <>
          <p style={{ color: ink.quiet, marginTop: 0 }}>
            {answer.total} names fold into this asset by the rule {answer.rules.join(', ')}.
          </p>
          {answer.missingDays.length > 0 && (
            <Alert
              type="warning"
              showIcon
              style={{ marginBottom: 8 }}
              title={`Missing: ${answer.missingDays.slice(0, 10).join(', ')}${answer.missingDays.length > 10 ? ' …' : ''}`}
            />
          )}
          <Table
            size="small"
            rowKey="ref"
            pagination={{ pageSize: 30, hideOnSinglePage: true, showSizeChanger: false }}
            dataSource={answer.parts}
            columns={[
              {
                title: 'Part',
                dataIndex: 'part',
                sorter: (a, b) => a.ref.localeCompare(b.ref),
                defaultSortOrder: 'descend',
                render: (part, row) => <span title={row.ref}>{part ?? 'the whole'}</span>,
              },
              { title: 'Written', dataIndex: 'writtenAt', render: moment },
              {
                title: 'By',
                dataIndex: 'writtenBy',
                render: (jobs: string[]) =>
                  jobs.map((job) => <AssetLink key={job} refText={job} name={shortRef(job)} />),
              },
              { title: 'Read', dataIndex: 'readAt', render: moment },
            ]}
          />
        </>
      )}
    </Answer>
  )
}
