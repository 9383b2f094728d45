import { useQuery } from '@tanstack/react-query'
import { Drawer, Table, Tabs } from 'antd'
import { get, type Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { flowWords, moment, shortRef } from '../shared/format'
import { AssetLink } from '../shared/marks'
import { useInks } from '../shared/useInks'

type Detail = Schemas['EventDetail']

/** One event opened: what it changed, the facts it gave, the assets it touched, its bytes. */
export function EventDrawer({ id, onClose }: { id: string | undefined; onClose: () => void }) {
  const event = useQuery({
    queryKey: ['event', id],
    queryFn: ({ signal }) => get<Detail>('intake/event', { id }, signal),
    enabled: id !== undefined,
  })
  return (
    <Drawer open={id !== undefined} onClose={onClose} size={680} title={`Event ${id ?? ''}`}>
      <Answer of={event}>{(detail) => <Event event={detail} />}</Answer>
    </Drawer>
  )
}

function Event({ event }: { event: Detail }) {
  const ink = useInks()
  return (
    <>
      <p style={{ marginTop: 0 }}>
        <strong>{event.type ?? 'refused'}</strong>{' '}
        {event.job && <AssetLink refText={event.job} name={event.job} />}
        <br />
        <span style={{ color: ink.quiet }}>
          happened {moment(event.eventTime)}, received {moment(event.receivedAt)}
          {event.source ? ` from ${event.source}` : ''}, {event.bytes} bytes, told by {event.producer}
        </span>
        {event.farFuture && <em style={{ color: ink.bad }}> Its time lies far ahead; it never decides.</em>}
      </p>
      <Tabs
        items={[
          { key: 'changed', label: 'What it changed', children: <Changed event={event} /> },
          { key: 'facts', label: `Facts (${event.facets.length})`, children: <Facts event={event} /> },
          { key: 'lineage', label: `Lineage (${event.links.length})`, children: <Lineage event={event} /> },
          {
            key: 'bytes',
            label: 'Bytes',
            children: <pre className="code">{pretty(event.body)}</pre>,
          },
        ]}
      />
    </>
  )
}

function Changed({ event }: { event: Detail }) {
  const ink = useInks()
  return (
    <>
      {event.problem && <p style={{ color: ink.bad }}>{event.problem}</p>}
      {event.changed.length === 0 ? (
        <p style={{ color: ink.quiet }}>Nothing that was not known before, or it is no longer listed.</p>
      ) : (
        <ul style={{ paddingLeft: 18 }}>
          {event.changed.map((words) => (
            <li key={words}>{words}</li>
          ))}
        </ul>
      )}
      <h3 style={{ fontSize: 13, color: ink.quiet }}>Touched</h3>
      {event.touched.map((ref) => (
        <div key={ref}>
          <AssetLink refText={ref} name={ref} />
        </div>
      ))}
    </>
  )
}

function Facts({ event }: { event: Detail }) {
  const ink = useInks()
  return (
    <Table
      size="small"
      pagination={false}
      rowKey={(facet) => `${facet.about} ${facet.role} ${facet.key}`}
      dataSource={event.facets}
      columns={[
        { title: 'Facet', dataIndex: 'key', render: (key) => <strong>{key}</strong> },
        { title: 'Of', dataIndex: 'about', render: shortRef },
        { title: 'As', dataIndex: 'role' },
        {
          title: '',
          dataIndex: 'stands',
          render: (stands) =>
            stands ? (
              <span style={{ color: ink.good }}>stands</span>
            ) : (
              <span style={{ color: ink.quiet }}>a newer one stands</span>
            ),
        },
      ]}
    />
  )
}

function Lineage({ event }: { event: Detail }) {
  const ink = useInks()
  return (
    <>
      <p style={{ color: ink.quiet }}>
        reads {event.inputs.map(shortRef).join(', ') || 'nothing'}; writes{' '}
        {event.outputs.map(shortRef).join(', ') || 'nothing'}
      </p>
      <Table
        size="small"
        pagination={event.links.length > 50 ? { pageSize: 50 } : false}
        rowKey={(link) => `${link.from} ${link.to} ${link.flow}`}
        dataSource={event.links}
        columns={[
          { title: 'From', dataIndex: 'from', render: shortRef },
          { title: 'To', dataIndex: 'to', render: shortRef },
          {
            title: 'How',
            dataIndex: 'flow',
            render: (flow, link) => flowWords(flow) + (link.masking ? ', masked' : ''),
          },
        ]}
      />
    </>
  )
}

/** JSON with its lines parted; anything else as it came. */
function pretty(body: string | undefined): string {
  if (!body) return 'no longer kept'
  try {
    return JSON.stringify(JSON.parse(body), null, 2)
  } catch {
    return body
  }
}
