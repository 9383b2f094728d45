import { useQuery } from '@tanstack/react-query'
import { Alert, Empty, Table } from 'antd'
import { get, type Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { ago, count, moment, rest } from '../shared/format'
import { useInks } from '../shared/useInks'

/** Who sends, in which version, and who fell silent against its own rhythm. */
export function EmitterTable() {
  const ink = useInks()
  const emitters = useQuery({
    queryKey: ['emitters'],
    queryFn: ({ signal }) => get<Schemas['Emitters']>('intake/emitters', {}, signal),
  })
  return (
    <Answer of={emitters}>
      {(answer) =>
        answer.emitters.length === 0 ? (
          <Empty description="Nobody has sent anything yet." />
        ) : (
          <>
            {answer.overdue > 0 && (
              <Alert
                type="warning"
                showIcon
                style={{ marginBottom: 8 }}
                title={`${answer.overdue} fell silent for longer than ever before: their lineage may be missing.`}
              />
            )}
            <Table
              size="small"
              style={{ background: ink.panel, border: `1px solid ${ink.line}` }}
              rowKey={(emitter) => `${emitter.producer} ${emitter.namespace}`}
              pagination={false}
              dataSource={answer.emitters}
              columns={[
                { title: 'Reports of', dataIndex: 'namespace', render: (name) => <strong>{name}</strong> },
                { title: 'Emitter', dataIndex: 'producer' },
                { title: 'Version', dataIndex: 'version', render: (version) => version ?? 'not told' },
                { title: 'Engine', dataIndex: 'engine' },
                { title: 'Events', dataIndex: 'events', align: 'right', render: count },
                {
                  title: 'Last event',
                  dataIndex: 'lastEvent',
                  render: (at) => <span title={moment(at)}>{ago(at)}</span>,
                },
                { title: 'Usual rest', dataIndex: 'usualRest', render: rest },
                {
                  title: 'State',
                  dataIndex: 'overdueSince',
                  render: (since, emitter) =>
                    since ? (
                      <span style={{ color: ink.bad }}>silent, due {ago(since)}</span>
                    ) : emitter.usualRest === undefined ? (
                      <span style={{ color: ink.quiet }}>no rhythm yet</span>
                    ) : (
                      <span style={{ color: ink.good }}>as usual</span>
                    ),
                },
              ]}
            />
          </>
        )
      }
    </Answer>
  )
}
