import { Alert, Empty, Table, type TableColumnsType } from 'antd'
import type { Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { ago, count, pause } from '../shared/format'
import { Since } from '../shared/Since'
import shared from '../shared/shared.module.css'
import { useEmitters } from './queries'

type Emitter = Schemas['Emitter']

const COLUMNS: TableColumnsType<Emitter> = [
  { title: 'Reports of', dataIndex: 'namespace', render: (name) => <strong>{name}</strong> },
  { title: 'Emitter', dataIndex: 'producer' },
  { title: 'Version', dataIndex: 'version', render: (version) => version ?? 'not reported' },
  { title: 'Engine', dataIndex: 'engine' },
  { title: 'Events', dataIndex: 'events', align: 'right', render: count },
  { title: 'Last event', dataIndex: 'lastEvent', render: (at) => <Since at={at} /> },
  { title: 'Usual interval', dataIndex: 'usualRest', render: pause },
  { title: 'State', render: (_, emitter) => <EmitterState emitter={emitter} /> },
]

/** Who sends, in which version, and who is silent for longer than its usual interval. */
export function EmitterTable() {
  return (
    <Answer of={useEmitters()}>
      {({ emitters, overdue }) =>
        emitters.length === 0 ? (
          <Empty description="No emitter is known. Each one appears here with its first event." />
        ) : (
          <>
            {overdue > 0 && (
              <Alert
                type="warning"
                showIcon
                className={shared.below}
                title={`${overdue} ${overdue === 1 ? 'emitter is' : 'emitters are'} silent for longer than ever before: lineage may be missing.`}
              />
            )}
            <Table
              size="small"
              className={shared.panel}
              rowKey={(emitter) => `${emitter.producer} ${emitter.namespace}`}
              pagination={false}
              dataSource={emitters}
              columns={COLUMNS}
            />
          </>
        )
      }
    </Answer>
  )
}

function EmitterState({ emitter }: { emitter: Emitter }) {
  if (emitter.overdueSince) return <span className={shared.bad}>silent, due {ago(emitter.overdueSince)}</span>
  if (emitter.usualRest === undefined) return <span className={shared.quiet}>no interval yet</span>
  return <span className={shared.good}>as usual</span>
}
