import { Table, type TableColumnsType } from 'antd'
import type { Schemas } from '../api/client'
import { shortRef, spoken } from '../shared/format'
import { KindMark, StateMark } from '../shared/marks'
import { filtersOf, pagesOf } from '../shared/tables'
import styles from './graph.module.css'
import { type Box, matches } from './picture'

type Props = {
  boxes: Box[]
  deciding: Schemas['ViewLink'][]
  words: string
  picked: string | undefined
  onPick: (id: string) => void
}

const MAX_COLUMNS_NAMED = 4

function columnsOf(boxes: Box[]): TableColumnsType<Box> {
  return [
    {
      title: 'Hops',
      dataIndex: 'hops',
      width: 64,
      sorter: (a, b) => a.hops - b.hops,
      render: (hops: number) => (hops < 0 ? `${-hops} up` : `${hops} down`),
    },
    {
      title: 'Name',
      dataIndex: 'name',
      sorter: (a, b) => a.name.localeCompare(b.name),
      filters: filtersOf(boxes.map((box) => box.kind)),
      onFilter: (value, box) => box.kind === value,
      render: (name, box) => (
        <>
          <KindMark kind={box.kind} />
          <br />
          {name}
          {box.columns.length > 0 && (
            <small className={styles.quiet}> {box.columns.slice(0, MAX_COLUMNS_NAMED).join(', ')}</small>
          )}
        </>
      ),
    },
    {
      title: 'System',
      dataIndex: 'system',
      filters: filtersOf(boxes.map((box) => box.system)),
      onFilter: (value, box) => box.system === value,
    },
    { title: 'State', dataIndex: 'state', render: (state) => <StateMark state={state} /> },
  ]
}

/** The same picture as a list, sorted by distance and to be filtered. */
export function BoxList({ boxes, deciding, words, picked, onPick }: Props) {
  const rows = boxes
    .filter((box) => box.hops !== 0 && (words === '' || matches(box, words)))
    .sort((a, b) => Math.abs(a.hops) - Math.abs(b.hops) || a.name.localeCompare(b.name))
  return (
    <>
      <Table
        size="small"
        rowKey="id"
        dataSource={rows}
        pagination={pagesOf(rows)}
        rowClassName={(box) => (box.id === picked ? styles.pickedRow : styles.row)}
        onRow={(box) => ({ onClick: () => onPick(box.id) })}
        columns={columnsOf(boxes)}
      />
      {deciding.length > 0 && <Deciding links={deciding} />}
    </>
  )
}

/** Columns that filter, join or group, apart from those whose values go on. */
function Deciding({ links }: { links: Schemas['ViewLink'][] }) {
  return (
    <details className={styles.deciding}>
      <summary>{links.length} columns that filter, join or group</summary>
      {links.map((link) => (
        <div key={`${link.from} ${link.to} ${link.job}`} className={styles.decidingLink}>
          <code>{shortRef(link.from)}</code>{' '}
          <span className={styles.how}>{link.flows.map(spoken).join(', ')}</span>{' '}
          <code>{shortRef(link.to)}</code>
        </div>
      ))}
    </details>
  )
}
