import { Button, Empty, Popconfirm, Table, type TableColumnsType } from 'antd'
import { useState } from 'react'
import { Answer } from '../shared/Answer'
import { day, shortRef, spoken } from '../shared/format'
import { AssetLink } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { filtersOf, pagesOf } from '../shared/tables'
import { type Recorded, useMaySet, useRecorded, useStating } from './queries'
import { RecordDialog } from './RecordDialog'

const STATE_CLASS: Record<string, string> = {
  confirmed: shared.good,
  questioned: shared.bad,
  ended: shared.bad,
  ending: shared.wait,
}

/** The last day on which a record holds: it ends at the moment that `until` names. */
export function lastDay(until: string | undefined): string {
  return until ? new Date(Date.parse(until) - 1).toISOString().slice(0, 10) : 'no end'
}

/** Lineage that people recorded, with what became of it. */
export function RecordedTable({ refText }: { refText?: string }) {
  const maySet = useMaySet()
  const stating = useStating()
  const [recording, setRecording] = useState(false)
  const columns = (items: Recorded[]): TableColumnsType<Recorded> => [
    {
      title: 'State',
      dataIndex: 'state',
      filters: filtersOf(items.map((one) => one.state)),
      onFilter: (state, one) => one.state === state,
      render: (state, one) => (
        <span title={one.why} className={STATE_CLASS[state] ?? shared.quiet}>
          {spoken(state)}
        </span>
      ),
    },
    {
      title: 'Comes from',
      render: (_, one) => <Ends refs={one.columns.length > 0 ? one.columns.map((c) => c.from) : one.reads} />,
    },
    {
      title: 'Goes to',
      render: (_, one) => (
        <>
          <Ends refs={one.columns.length > 0 ? one.columns.map((c) => c.to) : one.writes} />
          {one.job && (
            <small className={shared.quiet}>
              by <AssetLink refText={one.job} name={shortRef(one.job)} />
            </small>
          )}
        </>
      ),
    },
    {
      title: 'Recorded by',
      dataIndex: 'by',
      render: (by, one) => (
        <>
          {by}, {day(one.since)}
          <div className={shared.quiet}>{one.reason}</div>
        </>
      ),
    },
    { title: 'Holds until', dataIndex: 'until', render: lastDay },
    {
      title: '',
      align: 'right',
      render: (_, one) =>
        maySet &&
        one.state !== 'withdrawn' && (
          <Popconfirm
            title="Withdraw this record?"
            description="Its links end now; the history keeps them."
            okText="Withdraw"
            onConfirm={() => stating.mutate({ changes: [{ set: 'recorded', id: one.id, value: null }] })}
          >
            <Button size="small">Withdraw</Button>
          </Popconfirm>
        ),
    },
  ]
  return (
    <>
      {maySet && (
        <div className={shared.bar}>
          <Button size="small" type="primary" onClick={() => setRecording(true)}>
            Record a link
          </Button>
        </div>
      )}
      <Answer of={useRecorded(refText)}>
        {({ items }) =>
          items.length === 0 ? (
            <Empty description="Nothing is recorded by hand. Record what no program reports: a copy made by a person, a device without an emitter." />
          ) : (
            <Table
              size="small"
              className={shared.panel}
              rowKey="id"
              pagination={pagesOf(items)}
              dataSource={items}
              columns={columns(items)}
            />
          )
        }
      </Answer>
      {recording && <RecordDialog to={refText} onClose={() => setRecording(false)} />}
    </>
  )
}

function Ends({ refs }: { refs: string[] }) {
  if (refs.length === 0) return <span className={shared.quiet}>–</span>
  return refs.map((ref) => (
    <div key={ref}>
      <AssetLink refText={ref} name={shortRef(ref)} />
    </div>
  ))
}
