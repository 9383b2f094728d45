import { Table, type TableColumnsType } from 'antd'
import type { Schemas } from '../api/client'
import { ago, count, day, duration, moment } from '../shared/format'
import { AssetLink, StateMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import { RunOpened } from './RunOpened'

type Run = Schemas['RunRow']

const COLUMNS: TableColumnsType<Run> = [
  { title: 'Started', dataIndex: 'start', render: moment, sorter: (a, b) => a.start.localeCompare(b.start) },
  { title: 'State', dataIndex: 'state', render: (_, run) => <RunState run={run} /> },
  {
    title: 'Job',
    dataIndex: 'job',
    render: (job) => <AssetLink refText={job} name={job.slice(job.indexOf('/') + 1)} />,
  },
  { title: 'For', dataIndex: 'nominal', render: day },
  { title: 'Took', dataIndex: 'seconds', align: 'right', render: duration },
  { title: 'Rows read', dataIndex: 'rowsRead', align: 'right', render: count },
  { title: 'Rows written', dataIndex: 'rowsWritten', align: 'right', render: count },
  { title: 'Error', dataIndex: 'error', render: (error) => <span className={shared.bad}>{error}</span> },
]

/** Runs, newest first; each opens into its tasks and what it read and wrote. */
export function RunTable({ runs }: { runs: Run[] }) {
  return (
    <Table
      size="small"
      rowKey={(run) => `${run.ref} ${run.job}`}
      dataSource={runs}
      pagination={pagesOf(runs, 50)}
      expandable={{ expandedRowRender: (run) => <RunOpened refText={run.ref} /> }}
      columns={COLUMNS}
    />
  )
}

/** A state, and of a run without an end whether it still reports. */
function RunState({ run }: { run: Run }) {
  return (
    <>
      <StateMark state={run.state} />
      {run.stalled && <em className={shared.wait}> stalled</em>}
      {(run.state === 'running' || run.stalled) && (
        <span className={shared.quiet} title={moment(run.lastReportedAt)}>
          {' '}
          last reported {ago(run.lastReportedAt)}
        </span>
      )}
    </>
  )
}
