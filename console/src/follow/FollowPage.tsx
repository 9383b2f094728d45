import type { UseQueryResult } from '@tanstack/react-query'
import { Button, Empty, Popconfirm, Table, type TableColumnsType, Tabs } from 'antd'
import type { Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { moment, shortRef, spoken } from '../shared/format'
import { AssetLink, KindMark } from '../shared/marks'
import { Since } from '../shared/Since'
import shared from '../shared/shared.module.css'
import { filtersOf, pagesOf } from '../shared/tables'
import { useUrlState } from '../shared/useUrlState'
import {
  useDeliveries,
  useEndLater,
  useEndWatch,
  useFollowed,
  useLiftNotice,
  useNotices,
  useRetryDelivery,
  useRevokeShareLink,
  useShareLinks,
  useShareTrail,
  useTickets,
  useTrail,
  useTryWatch,
  useWatches,
} from './queries'

/** What was said and sent, who is notified, what was opened elsewhere, and what I looked at. */
export function FollowPage() {
  const [read, write] = useUrlState()
  return (
    <div className={shared.page}>
      <Tabs
        activeKey={read('tab') ?? 'notices'}
        destroyOnHidden
        onChange={(tab) => write({ tab })}
        items={[
          { key: 'notices', label: 'Notices', children: <Notices /> },
          { key: 'watches', label: 'Watches', children: <Watches /> },
          { key: 'messages', label: 'Messages', children: <Messages /> },
          { key: 'tickets', label: 'Tickets', children: <Tickets /> },
          { key: 'links', label: 'Shared links', children: <ShareLinks /> },
          { key: 'followed', label: 'Threads found right', children: <Followed /> },
          { key: 'trail', label: 'My trail', children: <Trail /> },
        ]}
      />
    </div>
  )
}

function List<Row extends object>({
  of,
  none,
  rowKey,
  columns,
}: {
  of: UseQueryResult<{ items: Row[] }>
  none: string
  rowKey: (row: Row) => string
  columns: (items: Row[]) => TableColumnsType<Row>
}) {
  return (
    <Answer of={of}>
      {({ items }) =>
        items.length === 0 ? (
          <Empty description={none} />
        ) : (
          <Table
            size="small"
            className={shared.panel}
            rowKey={rowKey}
            pagination={pagesOf(items)}
            dataSource={items}
            columns={columns(items)}
          />
        )
      }
    </Answer>
  )
}

const NOTICE_CLASS: Record<string, string> = { stop: shared.bad, warning: shared.wait }

function Notices() {
  const lifting = useLiftNotice()
  return (
    <List<Schemas['Notice']>
      of={useNotices('all')}
      none="No notices. Put one from the page of an asset, or from a suspect."
      rowKey={(notice) => notice.id}
      columns={(items) => [
        {
          title: 'State',
          dataIndex: 'state',
          filters: filtersOf(items.map((one) => one.state)),
          onFilter: (state, one) => one.state === state,
          render: spoken,
        },
        {
          title: 'Level',
          dataIndex: 'level',
          render: (level) => <span className={NOTICE_CLASS[level]}>{spoken(level)}</span>,
        },
        { title: 'On', render: (_, one) => <AssetLink refText={one.ref} name={one.name} /> },
        { title: 'Text', dataIndex: 'text' },
        {
          title: 'By',
          render: (_, one) => (
            <>
              {one.by} <Since at={one.at} />
            </>
          ),
        },
        { title: 'Until', dataIndex: 'until', render: (at) => moment(at) },
        { title: 'Shown on', dataIndex: 'affects', align: 'right', render: (n) => `${n} more` },
        {
          title: '',
          align: 'right',
          render: (_, one) =>
            one.state === 'active' || one.state === 'planned' ? (
              <Popconfirm title="Lift this notice?" okText="Lift" onConfirm={() => lifting.mutate(one.id)}>
                <Button size="small">Lift</Button>
              </Popconfirm>
            ) : (
              one.liftedBy && <span className={shared.quiet}>lifted by {one.liftedBy}</span>
            ),
        },
      ]}
    />
  )
}

function Watches() {
  const trying = useTryWatch()
  const ending = useEndWatch()
  return (
    <List<Schemas['ListedWatch']>
      of={useWatches()}
      none="No watches. Make one from the page of an asset, or with longthread watch make."
      rowKey={(watch) => watch.id}
      columns={() => [
        { title: 'Watch', dataIndex: 'title' },
        { title: 'Of', dataIndex: 'targetKind' },
        { title: 'About', dataIndex: 'about', render: (about: string[]) => about.join(', ') },
        { title: 'To', render: (_, one) => `${one.channel} ${one.address}` },
        {
          title: 'When',
          render: (_, one) =>
            `${spoken(one.digest)}${one.quietFrom ? `, not ${one.quietFrom} to ${one.quietUntil}` : ''}`,
        },
        { title: 'Owner', dataIndex: 'owner' },
        {
          title: '',
          align: 'right',
          render: (_, one) => (
            <>
              <Button size="small" onClick={() => trying.mutate(one.id)}>
                Send a test
              </Button>{' '}
              <Popconfirm title="End this watch?" okText="End" onConfirm={() => ending.mutate(one.id)}>
                <Button size="small">End</Button>
              </Popconfirm>
            </>
          ),
        },
      ]}
    />
  )
}

function Messages() {
  const retrying = useRetryDelivery()
  return (
    <List<Schemas['ListedDelivery']>
      of={useDeliveries()}
      none="No messages yet. What watches send appears here, and what could not be sent."
      rowKey={(message) => message.id}
      columns={(items) => [
        { title: 'Made', dataIndex: 'madeAt', render: (at) => moment(at) },
        { title: 'Subject', dataIndex: 'subject' },
        {
          title: 'State',
          dataIndex: 'state',
          filters: filtersOf(items.map((one) => one.state)),
          onFilter: (state, one) => one.state === state,
          render: (state, one) => (
            <span className={state === 'dead' ? shared.bad : undefined}>
              {state === 'dead' ? 'given up' : state}
              {one.tries > 1 && ` after ${one.tries} tries`}
            </span>
          ),
        },
        { title: 'Problem', dataIndex: 'problem' },
        {
          title: '',
          align: 'right',
          render: (_, one) =>
            one.state === 'dead' && (
              <Button size="small" onClick={() => retrying.mutate(one.id)}>
                Send again
              </Button>
            ),
        },
      ]}
    />
  )
}

function Tickets() {
  return (
    <List<Schemas['ListedTicket']>
      of={useTickets()}
      none="No tickets. Open one from a suspect."
      rowKey={(ticket) => ticket.id}
      columns={() => [
        { title: 'Ticket', render: (_, one) => <a href={one.url}>{one.title}</a> },
        { title: 'About', render: (_, one) => <AssetLink refText={one.ref} name={one.name} /> },
        { title: 'Opened', render: (_, one) => `${one.openedBy}, ${moment(one.openedAt)}` },
        {
          title: 'State',
          render: (_, one) =>
            one.closedAt ? (
              <span className={shared.good}>closed {moment(one.closedAt)}</span>
            ) : (
              <span className={shared.wait}>open</span>
            ),
        },
        { title: 'Outcome', dataIndex: 'outcome' },
      ]}
    />
  )
}

function ShareLinks() {
  const revoking = useRevokeShareLink()
  return (
    <List<Schemas['ListedShareLink']>
      of={useShareLinks()}
      none="No links. Make one from the page of a report, to show its state to people without an account."
      rowKey={(link) => link.id}
      columns={() => [
        { title: 'Report', render: (_, one) => <AssetLink refText={one.ref} name={one.name} /> },
        { title: 'State', dataIndex: 'state' },
        { title: 'Until', dataIndex: 'until', render: (at) => moment(at) },
        { title: 'By', dataIndex: 'madeBy' },
        {
          title: '',
          align: 'right',
          render: (_, one) =>
            one.state === 'open' && (
              <Popconfirm title="Revoke this link?" okText="Revoke" onConfirm={() => revoking.mutate(one.id)}>
                <Button size="small">Revoke</Button>
              </Popconfirm>
            ),
        },
      ]}
    />
  )
}

function Followed() {
  return (
    <List<Schemas['Followed']>
      of={useFollowed()}
      none="Nobody noted that a thread is right. Do so from the causes of an asset."
      rowKey={(one) => one.id}
      columns={() => [
        { title: 'From', render: (_, one) => <AssetLink refText={one.from} name={shortRef(one.from)} /> },
        { title: 'To', render: (_, one) => <AssetLink refText={one.to} name={shortRef(one.to)} /> },
        {
          title: 'Found right by',
          render: (_, one) => (
            <>
              {one.by} <Since at={one.at} /> <span className={shared.quiet}>{one.note}</span>
            </>
          ),
        },
        {
          title: 'State',
          render: (_, one) =>
            one.state === 'holds' ? (
              <span className={shared.good}>holds</span>
            ) : (
              <span className={shared.bad}>lapsed: {one.lapsed}</span>
            ),
        },
      ]}
    />
  )
}

function Trail() {
  const [read, write] = useUrlState()
  const person = read('person')
  const trail = useTrail(person)
  const sharing = useShareTrail()
  const ending = useEndLater()
  return (
    <>
      {trail.data && (
        <div className={shared.bar}>
          {person === undefined && (
            <Button size="small" onClick={() => sharing.mutate(!trail.data.shared)}>
              {trail.data.shared ? 'Stop sharing' : 'Let others see it'}
            </Button>
          )}
          {person !== undefined && (
            <Button size="small" onClick={() => write({ person: undefined })}>
              Back to mine
            </Button>
          )}
          {trail.data.others.map((other) => (
            <Button key={other} size="small" type="link" onClick={() => write({ person: other })}>
              {other}
            </Button>
          ))}
        </div>
      )}
      <List<Schemas['TrailStep']>
        of={trail}
        none="Nothing yet. The assets that you open appear here, and those marked to be looked at later."
        rowKey={(step) => `${step.ref} ${step.later}`}
        columns={(items) => [
          { title: 'When', dataIndex: 'at', render: (at) => <Since at={at} /> },
          {
            title: 'Asset',
            render: (_, one) => (
              <>
                <KindMark kind={one.kind} /> <AssetLink refText={one.ref} name={one.name} />
              </>
            ),
          },
          {
            title: 'Mark',
            dataIndex: 'later',
            filters: filtersOf(items.map((one) => (one.later ? 'look at later' : 'looked at'))),
            onFilter: (word, one) => (one.later ? 'look at later' : 'looked at') === word,
            render: (later) => (later ? <span className={shared.thread}>look at later</span> : 'looked at'),
          },
          { title: 'Note', dataIndex: 'note' },
          {
            title: '',
            align: 'right',
            render: (_, one) =>
              one.later &&
              person === undefined && (
                <Button size="small" onClick={() => ending.mutate(one.ref)}>
                  Done
                </Button>
              ),
          },
        ]}
      />
    </>
  )
}
