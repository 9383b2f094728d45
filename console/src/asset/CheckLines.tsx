import { useQuery } from '@tanstack/react-query'
import { Table, Tooltip } from 'antd'
import { get, type Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { moment, shortRef } from '../shared/format'
import { AssetLink } from '../shared/marks'
import { useInks } from '../shared/useInks'
import { CheckSql } from '../sql/CheckSql'

const SHOWN = 30
const WORDS: Record<string, string> = { pass: 'passed', fail: 'failed', skip: 'skipped' }

/** Each check with its results over time, the newest on the right, and the text of the check. */
export function CheckLines({ refText }: { refText: string }) {
  const checks = useQuery({
    queryKey: ['checks', refText],
    queryFn: ({ signal }) => get<Schemas['Checks']>('checks', { ref: refText }, signal),
  })
  return (
    <Answer of={checks}>
      {(answer) => (
        <Table
          size="small"
          pagination={false}
          rowKey={(check) => `${check.name} ${check.column} ${check.dataset}`}
          dataSource={answer.checks}
          expandable={{
            rowExpandable: (check) => Boolean(check.content),
            expandedRowRender: (check) =>
              /sql/i.test(check.contentType ?? '') ? (
                <CheckSql text={check.content ?? ''} />
              ) : (
                <pre className="code">{check.content}</pre>
              ),
          }}
          columns={[
            { title: 'Check', dataIndex: 'name', render: (name) => <strong>{name}</strong> },
            { title: 'Column', dataIndex: 'column' },
            {
              title: 'Result',
              dataIndex: 'status',
              render: (status) => <Result status={status} />,
            },
            {
              title: 'Over time',
              dataIndex: 'results',
              render: (results: Schemas['Result'][]) => <Timeline results={results} />,
            },
            {
              title: 'Newest',
              dataIndex: 'results',
              key: 'newest',
              render: (results: Schemas['Result'][]) => (
                <>
                  {moment(results[0].at)} {results[0].detail}
                </>
              ),
            },
            {
              title: 'By',
              dataIndex: 'job',
              render: (job) => <AssetLink refText={job} name={shortRef(job)} />,
            },
          ]}
        />
      )}
    </Answer>
  )
}

function Result({ status }: { status: string }) {
  const ink = useInks()
  const colour = status === 'pass' ? ink.good : status === 'fail' ? ink.bad : ink.quiet
  return <span style={{ color: colour }}>{WORDS[status] ?? status}</span>
}

function Timeline({ results }: { results: Schemas['Result'][] }) {
  const ink = useInks()
  return (
    <span style={{ display: 'inline-flex', gap: 2, alignItems: 'flex-end', height: 16 }}>
      {results
        .slice(0, SHOWN)
        .reverse()
        .map((result) => (
          <Tooltip
            key={`${result.at} ${result.run}`}
            title={`${moment(result.at)}: ${WORDS[result.status] ?? result.status}${result.detail ? `, ${result.detail}` : ''}`}
          >
            <span
              style={{
                width: 6,
                height: result.status === 'fail' ? 16 : result.status === 'pass' ? 8 : 3,
                background:
                  result.status === 'fail' ? ink.bad : result.status === 'pass' ? ink.good : ink.quiet,
              }}
            />
          </Tooltip>
        ))}
    </span>
  )
}
