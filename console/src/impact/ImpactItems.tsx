import { Table, type TableColumnsType, Tooltip } from 'antd'
import type { UIEvent } from 'react'
import type { Schemas } from '../api/client'
import { count, spoken } from '../shared/format'
import { AssetLink, KindMark, Labels, VerdictMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { ThreadPath } from '../shared/ThreadPath'
import styles from './impact.module.css'

type Item = Schemas['Item']

/** From so many items on only the rows in view are drawn. */
const DRAWN_WHOLE = 100
const WIDTH = 905
const HEIGHT = 520
/** So near the end, in pixels, the next page is asked for. */
const NEAR = 1500

const COLUMNS: TableColumnsType<Item> = [
  { title: 'Verdict', width: 130, render: (_, item) => <Verdicts item={item} /> },
  { title: 'Hops', dataIndex: 'hops', align: 'right', width: 50 },
  {
    title: 'Name',
    width: 215,
    ellipsis: true,
    render: (_, item) => (
      <>
        <KindMark kind={item.kind} /> <AssetLink refText={item.ref} name={item.name} />
      </>
    ),
  },
  {
    title: 'Fails first',
    width: 140,
    ellipsis: true,
    render: (_, { failsFirst, ref }) =>
      failsFirst &&
      (failsFirst.ref === ref ? (
        <span className={shared.quiet}>itself</span>
      ) : (
        <AssetLink refText={failsFirst.ref} name={failsFirst.name} />
      )),
  },
  { title: 'Owners', width: 110, ellipsis: true, render: (_, item) => item.owners.join(', ') },
  {
    title: 'Columns',
    width: 80,
    ellipsis: true,
    render: (_, item) => (
      <span className={shared.quiet}>{item.columns.map((column) => column.name).join(', ')}</span>
    ),
  },
  {
    title: 'Rests on',
    dataIndex: 'dependents',
    align: 'right',
    width: 75,
    render: (dependents: number) => (dependents > 0 ? count(dependents) : ''),
  },
  {
    title: 'Labels, terms',
    width: 105,
    ellipsis: true,
    render: (_, item) => (
      <>
        <Labels labels={item.labels} /> {item.terms.join(', ')}
      </>
    ),
  },
]

type Props = {
  items: Item[]
  total: number
  loading: boolean
  /** Asks for the next page; absent when all is there. */
  onMore?: () => void
}

/** What a change touches, each with its verdict; opened, the thread by which it is reached. */
export function ImpactItems({ items, total, loading, onMore }: Props) {
  const long = total > DRAWN_WHOLE
  const nearEnd = (event: UIEvent<HTMLDivElement>) => {
    const list = event.currentTarget
    if (list.scrollHeight - list.scrollTop - list.clientHeight < NEAR) onMore?.()
  }
  return (
    <section className={styles.items} aria-label="Touched">
      <Table
        size="small"
        className={shared.panel}
        rowKey="ref"
        dataSource={items}
        loading={loading && items.length === 0}
        pagination={false}
        virtual={long}
        scroll={long ? { y: HEIGHT, x: WIDTH } : { x: WIDTH }}
        onScroll={long ? nearEnd : undefined}
        locale={{ emptyText: 'Nothing downstream is touched.' }}
        expandable={{ expandedRowRender: (item) => <ThreadPath hops={item.thread} /> }}
        columns={COLUMNS}
      />
      {items.length < total && (
        <p className={shared.quiet}>
          {count(items.length)} of {count(total)}; scroll for more
        </p>
      )}
    </section>
  )
}

function Verdicts({ item }: { item: Item }) {
  const others = item.verdicts.filter((judged) => judged.verdict !== item.verdict)
  return (
    <Tooltip title={others.map((judged) => `${spoken(judged.verdict)} (${judged.certainty})`).join(', ')}>
      <span>
        <VerdictMark verdict={item.verdict} certainty={item.certainty} />
      </span>
    </Tooltip>
  )
}
