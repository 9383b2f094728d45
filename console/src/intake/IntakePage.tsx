import { useQuery } from '@tanstack/react-query'
import { Alert, Empty, Input, Table, Tabs } from 'antd'
import { get, type Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { ago, count, moment, shortRef } from '../shared/format'
import { AssetLink } from '../shared/marks'
import { useInks } from '../shared/useInks'
import { useUrlState } from '../shared/useUrlState'
import { EmitterTable } from './EmitterTable'
import { EventDrawer } from './EventDrawer'
import { FileTable } from './FileTable'
import { MinuteBars } from './MinuteBars'
import { Refusals } from './Refusals'

type Intake = Schemas['Intake']

/** What comes in, what it changed, what was refused and why, who sends and who fell silent. */
export function IntakePage() {
  const [read, write] = useUrlState()
  const about = read('about')
  const intake = useQuery({
    queryKey: ['intake', about],
    queryFn: ({ signal }) => get<Intake>('intake', { limit: 200, about }, signal),
    refetchInterval: 3_000,
    placeholderData: (before) => before,
  })
  return (
    <Answer of={intake}>
      {(answer) => (
        <div style={{ padding: 16, maxWidth: 1400, margin: '0 auto' }}>
          <Figures intake={answer} />
          <Tabs
            activeKey={read('tab') ?? 'events'}
            onChange={(tab) => write({ tab })}
            items={[
              { key: 'events', label: 'Newest events', children: <Newest intake={answer} /> },
              { key: 'refused', label: `Refused (${answer.refused})`, children: <Refusals /> },
              { key: 'emitters', label: 'Emitters', children: <EmitterTable /> },
              { key: 'files', label: 'Files', children: <FileTable /> },
            ]}
          />
          <EventDrawer id={read('event')} onClose={() => write({ event: undefined })} />
        </div>
      )}
    </Answer>
  )
}

function Figures({ intake }: { intake: Intake }) {
  const ink = useInks()
  return (
    <>
      {intake.awaySince && (
        <Alert
          type="error"
          showIcon
          style={{ marginBottom: 10 }}
          title={`The database is away since ${moment(intake.awaySince)}: events are turned away, and what is shown is as of then.`}
        />
      )}
      <div style={{ display: 'flex', gap: 24, alignItems: 'flex-end' }}>
        <dl style={{ display: 'flex', gap: 30, margin: 0 }}>
          <Figure name="received" value={count(intake.received)} />
          <Figure name="applied" value={count(intake.applied)} />
          <Figure name="repeated" value={count(intake.duplicates)} />
          <Figure name="refused" value={count(intake.refused)} bad={intake.refused > 0} />
          <Figure
            name="waiting"
            value={count(intake.waiting) + (intake.waiting > 0 ? `, ${intake.lagSeconds.toFixed(1)} s` : '')}
          />
          <Figure name="newest" value={ago(intake.newest)} />
        </dl>
        <span style={{ flex: 1 }} />
        <div style={{ color: ink.quiet }}>
          <MinuteBars minutes={intake.minutes} />
        </div>
      </div>
    </>
  )
}

function Figure({ name, value, bad }: { name: string; value: string; bad?: boolean }) {
  const ink = useInks()
  return (
    <div>
      <dt style={{ color: ink.quiet }}>{name}</dt>
      <dd style={{ margin: 0, fontSize: 20, color: bad ? ink.bad : ink.text, whiteSpace: 'nowrap' }}>
        {value}
      </dd>
    </div>
  )
}

function Newest({ intake }: { intake: Intake }) {
  const ink = useInks()
  const [read, write] = useUrlState()
  if (intake.recent.length === 0 && !read('about')) {
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
        style={{ width: 320, marginBottom: 8 }}
        defaultValue={read('about')}
        onSearch={(about) => write({ about })}
      />
      <Table
        size="small"
        style={{ background: ink.panel, border: `1px solid ${ink.line}` }}
        rowKey="id"
        pagination={{ pageSize: 25, hideOnSinglePage: true, showSizeChanger: false }}
        dataSource={intake.recent}
        onRow={(event) => ({
          onClick: () => write({ event: event.id }),
          style: { cursor: 'pointer' },
        })}
        columns={[
          { title: 'Received', dataIndex: 'receivedAt', render: moment, width: 135 },
          { title: 'Event time', dataIndex: 'eventTime', render: moment, width: 135 },
          { title: 'Type', dataIndex: 'type', width: 100 },
          {
            title: 'About',
            dataIndex: 'about',
            width: 290,
            render: (ref) => <AssetLink refText={ref} name={shortRef(ref)} />,
          },
          {
            title: 'What it changed',
            dataIndex: 'changed',
            render: (words: string[]) =>
              words.length === 0 ? (
                <span style={{ color: ink.quiet }}>nothing but the time it was seen</span>
              ) : (
                <span title={words.join('\n')}>
                  {words.slice(0, 3).join(' · ')}
                  {words.length > 3 && <span style={{ color: ink.quiet }}> and {words.length - 3} more</span>}
                </span>
              ),
          },
        ]}
      />
    </>
  )
}
