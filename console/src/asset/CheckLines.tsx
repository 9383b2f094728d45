import { Table, type TableColumnsType, Tooltip } from 'antd'
import type { Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { moment, shortRef } from '../shared/format'
import { AssetLink } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { CheckSql } from '../sql/CheckSql'
import styles from './asset.module.css'
import { useChecks } from './queries'

type Check = Schemas['CheckLine']
type Result = Schemas['Result']

const MAX_RESULTS = 30
const WORDS: Record<string, string> = { pass: 'passed', fail: 'failed', skip: 'skipped' }
const TEXT_CLASS: Record<string, string> = { pass: shared.good, fail: shared.bad }
const BAR_CLASS: Record<string, string> = { pass: styles.passed, fail: styles.failed }

const COLUMNS: TableColumnsType<Check> = [
  { title: 'Check', dataIndex: 'name', render: (name) => <strong>{name}</strong> },
  { title: 'Column', dataIndex: 'column' },
  {
    title: 'Result',
    dataIndex: 'status',
    render: (status) => <span className={TEXT_CLASS[status] ?? shared.quiet}>{resultWords(status)}</span>,
  },
  {
    title: 'Over time',
    dataIndex: 'results',
    render: (results: Result[]) => <Timeline results={results} />,
  },
  {
    title: 'Newest',
    key: 'newest',
    render: (_, { results: [newest] }) => newest && `${moment(newest.at)} ${newest.detail ?? ''}`,
  },
  { title: 'By', dataIndex: 'job', render: (job) => <AssetLink refText={job} name={shortRef(job)} /> },
]

/** Each check with its results over time, the newest on the right, and the text of the check. */
export function CheckLines({ refText }: { refText: string }) {
  return (
    <Answer of={useChecks(refText)}>
      {(answer) => (
        <Table
          size="small"
          pagination={false}
          rowKey={(check) => `${check.name} ${check.column} ${check.dataset}`}
          dataSource={answer.checks}
          expandable={{
            rowExpandable: (check) => Boolean(check.content),
            expandedRowRender: (check) => <CheckText check={check} />,
          }}
          columns={COLUMNS}
        />
      )}
    </Answer>
  )
}

function resultWords(status: string): string {
  return WORDS[status] ?? status
}

function CheckText({ check }: { check: Check }) {
  const text = check.content ?? ''
  return /sql/i.test(check.contentType ?? '') ? <CheckSql text={text} /> : <pre className="code">{text}</pre>
}

function Timeline({ results }: { results: Result[] }) {
  return (
    <span className={styles.results}>
      {results
        .slice(0, MAX_RESULTS)
        .reverse()
        .map((result) => (
          <Tooltip
            key={`${result.at} ${result.run}`}
            title={`${moment(result.at)}: ${resultWords(result.status)}${result.detail ? `, ${result.detail}` : ''}`}
          >
            <span className={`${styles.result} ${BAR_CLASS[result.status] ?? ''}`} />
          </Tooltip>
        ))}
    </span>
  )
}
