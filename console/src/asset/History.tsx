import { Empty, Table } from 'antd'
import { Link } from 'react-router'
import { comparePath } from '../graph/TimeSlider'
import { Answer } from '../shared/Answer'
import { moment } from '../shared/format'
import shared from '../shared/shared.module.css'
import { filtersOf, pagesOf } from '../shared/tables'
import { useHistory } from './queries'

/** The moment before a change, so that the two sides of it are compared. */
function justBefore(at: string): string {
  return new Date(Date.parse(at) - 1000).toISOString()
}

/** What changed of an asset and when. */
export function History({ refText }: { refText: string }) {
  return (
    <Answer of={useHistory(refText)}>
      {({ changes }) =>
        changes.length === 0 ? (
          <Empty description="No change is known. Changes of schema, owner, code or description appear here." />
        ) : (
          <Table
            size="small"
            className={shared.panel}
            rowKey={(change) => `${change.at} ${change.part} ${change.kind}`}
            pagination={pagesOf(changes, 50)}
            dataSource={changes}
            columns={[
              { title: 'At', dataIndex: 'at', render: moment, width: 140 },
              {
                title: 'What',
                dataIndex: 'kind',
                width: 150,
                filters: filtersOf(changes.map((change) => change.kind)),
                onFilter: (kind, change) => change.kind === kind,
              },
              {
                title: 'Change',
                dataIndex: 'words',
                render: (words: string[]) => words.map((word) => <div key={word}>{word}</div>),
              },
              {
                title: '',
                width: 90,
                render: (_, change) => (
                  <Link to={comparePath(refText, justBefore(change.at), change.at)}>Compare</Link>
                ),
              },
            ]}
          />
        )
      }
    </Answer>
  )
}
