import { Table, type TableColumnsType } from 'antd'
import type { Schemas } from '../api/client'
import { AssetLink, KindMark, VerdictMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import styles from './impact.module.css'

const COLUMNS: TableColumnsType<Schemas['Untouched']> = [
  {
    title: 'Verdict',
    width: 170,
    render: (_, one) => <VerdictMark verdict="untouched" certainty={one.certainty} />,
  },
  {
    title: 'Name',
    render: (_, one) => (
      <>
        <KindMark kind={one.kind} /> <AssetLink refText={one.ref} name={one.name} />
      </>
    ),
  },
  {
    title: 'Why not certain',
    dataIndex: 'missing',
    render: (missing) => missing ?? <span className={shared.quiet}>it is certain</span>,
  },
]

/** What lies near and is not touched, and how certain that is. */
export function UntouchedItems({ list }: { list: Schemas['UntouchedList'] }) {
  if (list.count === 0) return null
  return (
    <section className={styles.untouched}>
      <h2 className={shared.heading}>Untouched, though it lies downstream or reads the same data</h2>
      <Table
        size="small"
        className={shared.panel}
        rowKey="ref"
        dataSource={list.items}
        pagination={pagesOf(list.items, 50)}
        columns={COLUMNS}
      />
    </section>
  )
}
