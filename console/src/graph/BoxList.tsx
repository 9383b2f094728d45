import { Table } from 'antd'
import type { Schemas } from '../api/client'
import { KindMark, StateMark } from '../shared/marks'
import { useInks } from '../shared/useInks'
import { type Box, matches } from './picture'

type Props = {
  boxes: Box[]
  deciding: Schemas['ViewLink'][]
  words: string
  picked: string | undefined
  onPick: (id: string) => void
}

function filtersOf(values: string[]) {
  return [...new Set(values)].sort().map((value) => ({ text: value, value }))
}

/** The same picture as a list, sorted by distance and to be filtered. */
export function BoxList({ boxes, deciding, words, picked, onPick }: Props) {
  const ink = useInks()
  const rows = boxes
    .filter((box) => box.hops !== 0 && (words === '' || matches(box, words)))
    .sort((a, b) => Math.abs(a.hops) - Math.abs(b.hops) || a.name.localeCompare(b.name))
  return (
    <>
      <Table
        size="small"
        rowKey="id"
        dataSource={rows}
        pagination={rows.length > 100 ? { pageSize: 100 } : false}
        onRow={(box) => ({
          onClick: () => onPick(box.id),
          style: { cursor: 'pointer', fontWeight: box.id === picked ? 600 : undefined },
        })}
        columns={[
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
                  <small style={{ color: ink.quiet }}> {box.columns.slice(0, 4).join(', ')}</small>
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
        ]}
      />
      {deciding.length > 0 && (
        <details style={{ padding: 10 }}>
          <summary>{deciding.length} columns only decide which rows there are</summary>
          {deciding.map((link) => (
            <div key={`${link.from} ${link.to} ${link.job}`} style={{ fontSize: 12 }}>
              <code>{link.from.slice(link.from.lastIndexOf('/') + 1)}</code>{' '}
              <span style={{ color: ink.thread }}>{link.flows.join(', ').toLowerCase()}</span>{' '}
              <code>{link.to.slice(link.to.lastIndexOf('/') + 1)}</code>
            </div>
          ))}
        </details>
      )}
    </>
  )
}
