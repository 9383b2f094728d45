import { Empty, Input, Table, type TableColumnsType } from 'antd'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { moment, shortRef, workspacePath } from '../shared/format'
import { AssetLink } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import { useUrlState } from '../shared/useUrlState'
import styles from './intake.module.css'

type Event = Schemas['Recent']

const MAX_WORDS = 3

const COLUMNS: TableColumnsType<Event> = [
  { title: 'Received', dataIndex: 'receivedAt', render: moment, width: 135 },
  { title: 'Event time', dataIndex: 'eventTime', render: moment, width: 135 },
  { title: 'Type', dataIndex: 'type', width: 100 },
  {
    title: 'About',
    dataIndex: 'about',
    width: 290,
    render: (ref, event) =>
      event.type.startsWith('WORKSPACE') ? (
        <Link to={workspacePath(ref)}>{shortRef(ref)}</Link>
      ) : (
        <AssetLink refText={ref} name={shortRef(ref)} />
      ),
  },
  { title: 'What it changed', dataIndex: 'changed', render: (words) => <Changes words={words} /> },
]

/** The newest events and what each changed; a click opens one. */
export function NewestEvents({ events }: { events: Event[] }) {
  const [read, write] = useUrlState()
  if (events.length === 0 && !read('about')) {
    return (
      <Empty description="No event has come in yet. Point an emitter at POST /api/v1/lineage; docs/intake.md says how." />
    )
  }
  return (
    <>
      <Input.Search
        allowClear
        size="small"
        placeholder="Only events about or from …"
        className={styles.about}
        defaultValue={read('about')}
        onSearch={(about) => write({ about })}
      />
      <Table
        size="small"
        className={shared.panel}
        rowKey="id"
        pagination={pagesOf(events, 25)}
        dataSource={events}
        rowClassName={styles.row}
        onRow={(event) => ({ onClick: () => write({ event: event.id }) })}
        columns={COLUMNS}
      />
    </>
  )
}

function Changes({ words }: { words: string[] }) {
  if (words.length === 0) return <span className={shared.quiet}>nothing new</span>
  return (
    <span title={words.join('\n')}>
      {words.slice(0, MAX_WORDS).join(' · ')}
      {words.length > MAX_WORDS && <span className={shared.quiet}> and {words.length - MAX_WORDS} more</span>}
    </span>
  )
}
