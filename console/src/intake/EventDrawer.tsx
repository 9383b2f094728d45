import { Drawer, Table, type TableColumnsType, Tabs } from 'antd'
import type { Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { moment, shortRef } from '../shared/format'
import { AssetLink } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import styles from './intake.module.css'
import { useEvent } from './queries'

type Detail = Schemas['EventDetail']

const FACTS: TableColumnsType<Schemas['ReportedFacet']> = [
  { title: 'Facet', dataIndex: 'key', render: (key) => <strong>{key}</strong> },
  { title: 'Of', dataIndex: 'about', render: shortRef },
  { title: 'As', dataIndex: 'role' },
  {
    title: '',
    dataIndex: 'current',
    render: (current) => (
      <span className={current ? shared.good : shared.quiet}>{current ? 'current' : 'superseded'}</span>
    ),
  },
]

const LINKS: TableColumnsType<Schemas['ReportedLink']> = [
  { title: 'From', dataIndex: 'from', render: shortRef },
  { title: 'To', dataIndex: 'to', render: shortRef },
  { title: 'How', render: (_, link) => link.how + (link.masking ? ', masked' : '') },
]

/** One event opened: what it changed, the facts it gave, the assets it touched, its bytes. */
export function EventDrawer({ id, onClose }: { id: string | undefined; onClose: () => void }) {
  const event = useEvent(id)
  return (
    <Drawer open={id !== undefined} onClose={onClose} size={680} title={`Event ${id ?? ''}`}>
      <Answer of={event}>{(detail) => <Event event={detail} />}</Answer>
    </Drawer>
  )
}

function Event({ event }: { event: Detail }) {
  return (
    <>
      <p className={styles.eventHead}>
        <strong>{event.type ?? 'refused'}</strong>{' '}
        {event.job && <AssetLink refText={event.job} name={event.job} />}
        <br />
        <span className={shared.quiet}>
          happened {moment(event.eventTime)}, received {moment(event.receivedAt)}
          {event.source ? ` from ${event.source}` : ''}, {event.bytes} bytes, reported by {event.producer}
        </span>
      </p>
      {event.warnings.map((warning) => (
        <p key={warning} className={shared.bad}>
          Warning: {warning}
        </p>
      ))}
      <Tabs
        items={[
          { key: 'changed', label: 'Changes', children: <Changed event={event} /> },
          {
            key: 'facts',
            label: `Facts (${event.facets.length})`,
            children: (
              <Table
                size="small"
                pagination={false}
                rowKey={(facet) => `${facet.about} ${facet.role} ${facet.key}`}
                dataSource={event.facets}
                columns={FACTS}
              />
            ),
          },
          { key: 'lineage', label: `Lineage (${event.links.length})`, children: <Lineage event={event} /> },
          { key: 'bytes', label: 'Bytes', children: <pre className="code">{pretty(event.body)}</pre> },
        ]}
      />
    </>
  )
}

function Changed({ event }: { event: Detail }) {
  return (
    <>
      {event.problem && <p className={shared.bad}>{event.problem}</p>}
      {event.changed.length === 0 ? (
        <p className={shared.quiet}>It changed nothing, or its changes are no longer kept.</p>
      ) : (
        <ul className={styles.changes}>
          {event.changed.map((words) => (
            <li key={words}>{words}</li>
          ))}
        </ul>
      )}
      <h3 className={shared.subheading}>Assets it names</h3>
      {event.touched.map((ref) => (
        <div key={ref}>
          <AssetLink refText={ref} name={ref} />
        </div>
      ))}
    </>
  )
}

function Lineage({ event }: { event: Detail }) {
  return (
    <>
      <p className={shared.quiet}>
        reads {event.inputs.map(shortRef).join(', ') || 'nothing'}; writes{' '}
        {event.outputs.map(shortRef).join(', ') || 'nothing'}
      </p>
      <Table
        size="small"
        pagination={pagesOf(event.links, 50)}
        rowKey={(link) => `${link.from} ${link.to} ${link.flow}`}
        dataSource={event.links}
        columns={LINKS}
      />
    </>
  )
}

/** JSON with its lines indented; anything else as it came. */
function pretty(body: string | undefined): string {
  if (!body) return 'no longer kept'
  try {
    return JSON.stringify(JSON.parse(body), null, 2)
  } catch {
    return body
  }
}
