import { useQuery } from '@tanstack/react-query'
import { Collapse, Table } from 'antd'
import { get, type Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { ago, count, duration, moment, shortRef } from '../shared/format'
import { AssetLink, KindMark, StateMark } from '../shared/marks'
import { useInks } from '../shared/useInks'

type Run = Schemas['RunRow']

/** Runs, newest first; each opens into its tasks and what it read and wrote. */
export function RunTable({ runs }: { runs: Run[] }) {
  const ink = useInks()
  return (
    <Table
      size="small"
      rowKey={(run) => `${run.ref} ${run.job}`}
      dataSource={runs}
      pagination={runs.length > 50 ? { pageSize: 50 } : false}
      expandable={{ expandedRowRender: (run) => <RunOpened refText={run.ref} /> }}
      columns={[
        {
          title: 'Started',
          dataIndex: 'start',
          render: moment,
          sorter: (a, b) => a.start.localeCompare(b.start),
        },
        {
          title: 'State',
          dataIndex: 'state',
          render: (state, run) => (
            <>
              <StateMark state={state} />
              {run.noEnd && <em style={{ color: ink.wait }}> no end reported</em>}
              {state === 'running' && !run.noEnd && (
                <span style={{ color: ink.quiet }} title={moment(run.heard)}>
                  {' '}
                  heard {ago(run.heard)}
                </span>
              )}
            </>
          ),
        },
        {
          title: 'Job',
          dataIndex: 'job',
          render: (job) => <AssetLink refText={job} name={job.slice(job.indexOf('/') + 1)} />,
        },
        { title: 'For', dataIndex: 'nominal', render: (at) => (at ? moment(at).slice(0, 10) : '–') },
        { title: 'Took', dataIndex: 'seconds', align: 'right', render: duration },
        { title: 'Rows read', dataIndex: 'rowsRead', align: 'right', render: count },
        { title: 'Rows written', dataIndex: 'rowsWritten', align: 'right', render: count },
        {
          title: 'Error',
          dataIndex: 'error',
          render: (error) => <span style={{ color: ink.bad }}>{error}</span>,
        },
      ]}
    />
  )
}

function RunOpened({ refText }: { refText: string }) {
  const ink = useInks()
  const run = useQuery({
    queryKey: ['run', refText],
    queryFn: ({ signal }) => get<Schemas['RunDetail']>('run', { ref: refText }, signal),
  })
  return (
    <Answer of={run}>
      {(detail) => (
        <div style={{ padding: '4px 8px' }}>
          <code style={{ fontSize: 11, color: ink.quiet }}>{detail.run.ref}</code>
          {detail.noEndReported && <em style={{ color: ink.wait }}> no end reported</em>}
          {detail.tasks.length > 0 && <RunTable runs={detail.tasks} />}
          {detail.parts.map((part) => (
            <div key={`${part.ref} ${part.written}`}>
              <span style={{ color: ink.quiet, display: 'inline-block', width: 54 }}>
                {part.written ? 'wrote' : 'read'}
              </span>
              <KindMark kind={part.kind} /> <AssetLink refText={part.ref} name={shortRef(part.ref)} />{' '}
              {part.rows !== undefined && <span>{count(part.rows)} rows</span>}{' '}
              {part.bytes !== undefined && <span>{count(part.bytes)} bytes</span>}{' '}
              {part.subset && <span style={{ color: ink.quiet }}>only {part.subset}</span>}
            </div>
          ))}
          {Object.keys(detail.facets).length > 0 && (
            <Collapse
              size="small"
              style={{ marginTop: 6 }}
              items={[
                {
                  key: 'facets',
                  label: `What the run told of itself: ${Object.keys(detail.facets).join(', ')}`,
                  children: <pre className="code">{JSON.stringify(detail.facets, null, 2)}</pre>,
                },
              ]}
            />
          )}
        </div>
      )}
    </Answer>
  )
}
