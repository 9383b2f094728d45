import { useQuery } from '@tanstack/react-query'
import { Empty, Table } from 'antd'
import { get, type Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { ago, count, moment } from '../shared/format'
import { AssetLink } from '../shared/marks'
import { useInks } from '../shared/useInks'

/** What came in, and what was refused and exactly why. */
export function IntakePage() {
  const ink = useInks()
  const intake = useQuery({
    queryKey: ['intake'],
    queryFn: ({ signal }) => get<Schemas['Intake']>('intake', { limit: 100 }, signal),
    refetchInterval: 3_000,
  })
  return (
    <Answer of={intake}>
      {(answer) => (
        <div style={{ padding: 16, maxWidth: 1400, margin: '0 auto' }}>
          <dl style={{ display: 'flex', gap: 34, margin: '0 0 14px' }}>
            <Figure name="received" value={count(answer.received)} />
            <Figure name="applied" value={count(answer.applied)} />
            <Figure name="duplicates" value={count(answer.duplicates)} />
            <Figure name="refused" value={count(answer.refused)} bad={answer.refused > 0} />
            <Figure name="waiting" value={count(answer.waiting)} />
            <Figure name="newest" value={ago(answer.newest)} />
          </dl>
          {answer.refusals.length > 0 && (
            <>
              <h2 style={{ fontSize: 14 }}>Refused</h2>
              <Table
                size="small"
                style={{ background: ink.panel, border: `1px solid ${ink.line}`, marginBottom: 16 }}
                rowKey="id"
                pagination={{ pageSize: 10, hideOnSinglePage: true }}
                dataSource={answer.refusals}
                columns={[
                  { title: 'Received', dataIndex: 'receivedAt', render: moment, width: 140 },
                  { title: 'Problem', dataIndex: 'problem', width: 160 },
                  { title: 'Reason', dataIndex: 'reason' },
                ]}
              />
            </>
          )}
          <h2 style={{ fontSize: 14 }}>Newest events</h2>
          {answer.recent.length === 0 ? (
            <Empty description="No event has come in yet. Point an emitter at POST /api/v1/lineage." />
          ) : (
            <Table
              size="small"
              style={{ background: ink.panel, border: `1px solid ${ink.line}` }}
              rowKey={(event) => `${event.receivedAt} ${event.about} ${event.type} ${event.eventTime}`}
              pagination={{ pageSize: 50, hideOnSinglePage: true }}
              dataSource={answer.recent}
              columns={[
                { title: 'Received', dataIndex: 'receivedAt', render: moment, width: 140 },
                { title: 'Event time', dataIndex: 'eventTime', render: moment, width: 140 },
                { title: 'Type', dataIndex: 'type', width: 120 },
                {
                  title: 'About',
                  dataIndex: 'about',
                  render: (ref) => <AssetLink refText={ref} name={ref} />,
                },
                { title: 'Told by', dataIndex: 'producer' },
              ]}
            />
          )}
        </div>
      )}
    </Answer>
  )
}

function Figure({ name, value, bad }: { name: string; value: string; bad?: boolean }) {
  const ink = useInks()
  return (
    <div>
      <dt style={{ color: ink.quiet }}>{name}</dt>
      <dd style={{ margin: 0, fontSize: 20, color: bad ? ink.bad : ink.text }}>{value}</dd>
    </div>
  )
}
