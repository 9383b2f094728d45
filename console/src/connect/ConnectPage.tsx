import { Alert, Button, Form, Input, Spin, Table, type TableColumnsType, Typography } from 'antd'
import { Link } from 'react-router'
import { useMaySet } from '../hand/queries'
import { Answer } from '../shared/Answer'
import { count } from '../shared/format'
import { Since } from '../shared/Since'
import shared from '../shared/shared.module.css'
import { useUrlState } from '../shared/useUrlState'
import styles from './connect.module.css'
import { type Connection, type NewConnection, useConnect, useConnections, useFirstEvents } from './queries'

/** The kinds of sources, from the least work to the most, with what each gives. */
const KINDS = [
  ['http', 'Emitter of the standard', 'tables, columns and runs, as the emitter reports them'],
  ['postgres', 'PostgreSQL database', 'tables, columns, views and functions with lineage, readers'],
  ['wrap', 'Any command', 'runs with exit code and errors; with its SQL, columns too'],
  ['workspace', 'BI workspace', 'models, charts, reports and dashboards, field by field'],
  ['java', 'Java program', 'runs, tables, row counts, columns where it states them'],
  ['python', 'Python program', 'the same, by a decorator over the standard’s client'],
  ['kafka', 'Events from Kafka', 'whatever the events report'],
  ['files', 'Events or checks as files', 'whatever the files report'],
  ['by-hand', 'By hand', 'a link that no program reports'],
] as const

const WITHOUT_KEY = ['kafka', 'files', 'by-hand']

/** Connect a source, watch its first event arrive, and see how all connections do. */
export function ConnectPage() {
  const [read, write] = useUrlState()
  const maySet = useMaySet()
  const kind = read('kind')
  return (
    <div className={shared.page}>
      {maySet && (
        <>
          <h2 className={shared.heading}>What is to be connected?</h2>
          <div className={styles.kinds}>
            {KINDS.map(([word, name, gives]) => (
              <button
                key={word}
                type="button"
                className={styles.kind}
                aria-pressed={word === kind}
                onClick={() => write({ kind: word === kind ? undefined : word })}
              >
                <strong>{name}</strong>
                <div className={styles.gives}>{gives}</div>
              </button>
            ))}
          </div>
          {kind && <Steps key={kind} kind={kind} />}
        </>
      )}
      <h2 className={shared.heading}>Connections</h2>
      <Connections />
    </div>
  )
}

function Steps({ kind }: { kind: string }) {
  const connect = useConnect()
  const needsKey = !WITHOUT_KEY.includes(kind)
  const made = connect.data
  if (!made) {
    return (
      <>
        <Form
          layout="inline"
          className={shared.bar}
          requiredMark={false}
          onFinish={({ name }: { name?: string }) => connect.mutate({ kind, name: name?.trim() })}
        >
          {needsKey && (
            <Form.Item name="name" label="Its name" rules={[{ required: true, message: 'It is needed' }]}>
              <Input placeholder="nightshift" autoComplete="off" aria-label="Name of the connection" />
            </Form.Item>
          )}
          <Button type="primary" htmlType="submit" loading={connect.isPending}>
            {needsKey ? 'Get a key and settings' : 'Show the settings'}
          </Button>
        </Form>
        {connect.error && (
          <Alert type="error" showIcon className={shared.below} title={connect.error.message} />
        )}
      </>
    )
  }
  return (
    <div className={styles.steps}>
      <Settings made={made} />
      {made.name && needsKey && <FirstEvents name={made.name} />}
    </div>
  )
}

function Settings({ made }: { made: NewConnection }) {
  return (
    <section aria-label="Settings">
      {made.token && (
        <p className={shared.quiet}>The key in these settings can only send. It is shown this once.</p>
      )}
      {made.settings.map((snippet) => (
        <div key={snippet.title}>
          <strong>{snippet.title}</strong>{' '}
          <Typography.Text copyable={{ text: snippet.text }} aria-label={`Copy: ${snippet.title}`} />
          <pre className={styles.snippet}>{snippet.text}</pre>
        </div>
      ))}
    </section>
  )
}

/** Waits for what comes by the key, and says what it gave and what was refused. */
function FirstEvents({ name }: { name: string }) {
  const progress = useFirstEvents(name).data
  const events = progress?.events ?? []
  return (
    <section className={styles.first} aria-label="First events">
      {events.length === 0 ? (
        <p>
          <Spin size="small" /> Waiting for the first event of <strong>{name}</strong> …
        </p>
      ) : (
        <Alert
          type="success"
          showIcon
          title={`${name} is connected: ${count(progress?.accepted)} events came in`}
        />
      )}
      {progress?.refusal && (
        <Alert
          type="warning"
          showIcon
          className={shared.below}
          title={`${count(progress.refused)} refused`}
          description={progress.refusal}
        />
      )}
      {events.slice(0, 5).map((event) => (
        <div key={event.id} className={shared.below}>
          <Link to={`/intake?event=${event.id}`}>{event.type}</Link> {event.about}
          <ul>
            {event.changed.map((word) => (
              <li key={word}>{word}</li>
            ))}
          </ul>
        </div>
      ))}
    </section>
  )
}

const STATE_CLASS: Record<string, string> = {
  working: shared.good,
  failing: shared.bad,
  waiting: shared.wait,
}

const COLUMNS: TableColumnsType<Connection> = [
  { title: 'Connection', dataIndex: 'name', render: (name) => <strong>{name}</strong> },
  { title: 'Kind', dataIndex: 'kind' },
  {
    title: 'State',
    dataIndex: 'state',
    render: (state) => <span className={STATE_CLASS[state] ?? shared.quiet}>{state}</span>,
  },
  { title: 'Last contact', dataIndex: 'lastAt', render: (at) => <Since at={at} never="never" /> },
  { title: 'Events', dataIndex: 'accepted', align: 'right', render: count },
  {
    title: 'Refused',
    dataIndex: 'refused',
    align: 'right',
    render: (n) =>
      n === 0 ? <span className={shared.quiet}>–</span> : <span className={shared.bad}>{count(n)}</span>,
  },
  { title: 'Covers', dataIndex: 'covers', render: (covers: string[]) => covers.join(', ') },
  { title: 'Newest error', dataIndex: 'problem' },
]

function Connections() {
  return (
    <Answer of={useConnections()}>
      {({ items }) => (
        <Table
          size="small"
          className={shared.panel}
          rowKey={(one) => `${one.kind} ${one.name}`}
          pagination={false}
          dataSource={items}
          columns={COLUMNS}
          locale={{ emptyText: 'Nothing is connected yet. Choose what is to be connected above.' }}
        />
      )}
    </Answer>
  )
}
