import { Table, type TableColumnsType } from 'antd'
import type { Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { moment, spoken } from '../shared/format'
import { AssetLink, KindMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { filtersOf, pagesOf } from '../shared/tables'
import styles from './behind.module.css'
import { useRecall } from './queries'

type Item = Schemas['RecallItem']

const STATE_CLASS: Record<string, string> = {
  holds: shared.bad,
  'may-hold': shared.wait,
  replaced: shared.good,
}

/** What rests on what a run wrote: what holds it still, and what was written anew since. */
export function Recall({ refText }: { refText: string }) {
  return (
    <Answer of={useRecall(refText)}>
      {(list) => (
        <section aria-label="What rests on it">
          <p className={styles.summary}>
            {list.holds} hold its data, {list.mayHold} may, {list.replaced} replaced since.
            {list.truncated && ' More than 2,000 runs rest on it; those beyond were not looked at.'}
          </p>
          <Items items={list.items} />
        </section>
      )}
    </Answer>
  )
}

function Items({ items }: { items: Item[] }) {
  const columns: TableColumnsType<Item> = [
    {
      title: 'State',
      width: 110,
      filters: filtersOf(
        items.map((item) => item.state),
        spoken,
      ),
      onFilter: (value, item) => item.state === value,
      render: (_, item) => <span className={STATE_CLASS[item.state]}>{spoken(item.state)}</span>,
    },
    {
      title: 'Asset',
      render: (_, item) => (
        <>
          <KindMark kind={item.kind} /> <AssetLink refText={item.ref} name={item.name} />{' '}
          <span className={shared.quiet}>{item.system}</span>
        </>
      ),
    },
    { title: 'Owners', render: (_, item) => item.owners.join(', ') },
    { title: 'Written', width: 150, render: (_, item) => moment(item.newestAt) },
    { title: 'Replaced', width: 150, render: (_, item) => moment(item.replacedAt) },
    { title: 'Hops', width: 60, align: 'right', dataIndex: 'hops' },
  ]
  return (
    <Table<Item>
      size="small"
      rowKey="ref"
      dataSource={items}
      columns={columns}
      pagination={pagesOf(items)}
      locale={{ emptyText: 'Nothing rests on it.' }}
    />
  )
}
