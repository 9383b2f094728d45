import { Alert, Table, type TableColumnsType } from 'antd'
import type { Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { moment, shortRef } from '../shared/format'
import { AssetLink } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import { useParts } from './queries'

const MAX_DAYS_NAMED = 10

const COLUMNS: TableColumnsType<Schemas['AssetPart']> = [
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
    render: (jobs: string[]) => jobs.map((job) => <AssetLink key={job} refText={job} name={shortRef(job)} />),
  },
  { title: 'Read', dataIndex: 'readAt', render: moment },
]

/** The partitions and shards that fold into one asset, and which of them are missing. */
export function Parts({ refText }: { refText: string }) {
  return (
    <Answer of={useParts(refText)}>
      {(answer) => (
        <>
          <p className={shared.quiet}>
            {answer.total} names fold into this asset by the rule {answer.rules.join(', ')}.
          </p>
          {answer.missingDays.length > 0 && (
            <Alert
              type="warning"
              showIcon
              className={shared.below}
              title={`Missing: ${answer.missingDays.slice(0, MAX_DAYS_NAMED).join(', ')}${answer.missingDays.length > MAX_DAYS_NAMED ? ' …' : ''}`}
            />
          )}
          <Table
            size="small"
            rowKey="ref"
            pagination={pagesOf(answer.parts, 30)}
            dataSource={answer.parts}
            columns={COLUMNS}
          />
        </>
      )}
    </Answer>
  )
}
