import { Table, type TableColumnsType, Tooltip } from 'antd'
import type { Schemas } from '../api/client'
import { spoken } from '../shared/format'
import { AssetLink, KindMark, Labels, VerdictMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { ThreadPath } from '../shared/ThreadPath'
import { filtersOf, pagesOf } from '../shared/tables'

type Item = Schemas['Item']

function columnsOf(items: Item[]): TableColumnsType<Item> {
  return [
    {
      title: 'Verdict',
      width: 160,
      filters: filtersOf(
        items.map((item) => item.verdict),
        spoken,
      ),
      onFilter: (value, item) => item.verdict === value,
      render: (_, item) => <Verdicts item={item} />,
    },
    { title: 'Hops', dataIndex: 'hops', align: 'right', width: 70, sorter: (a, b) => a.hops - b.hops },
    {
      title: 'Name',
      sorter: (a, b) => a.name.localeCompare(b.name),
      filters: filtersOf(items.map((item) => item.kind)),
      onFilter: (value, item) => item.kind === value,
      render: (_, item) => (
        <>
          <KindMark kind={item.kind} /> <AssetLink refText={item.ref} name={item.name} />
        </>
      ),
    },
    {
      title: 'System',
      dataIndex: 'system',
      filters: filtersOf(items.map((item) => item.system)),
      onFilter: (value, item) => item.system === value,
    },
    {
      title: 'Owners',
      filters: filtersOf(items.flatMap((item) => item.owners)),
      onFilter: (value, item) => item.owners.includes(String(value)),
      render: (_, item) => item.owners.join(', '),
    },
    {
      title: 'Columns',
      render: (_, item) => (
        <span className={shared.quiet}>{item.columns.map((column) => column.name).join(', ')}</span>
      ),
    },
    { title: 'Terms', dataIndex: 'terms', render: (terms: string[]) => terms.join(', ') },
    { title: 'Labels', dataIndex: 'labels', render: (labels: string[]) => <Labels labels={labels} /> },
  ]
}

/** What a change touches, each with its verdict; opened, the thread by which it is reached. */
export function ImpactItems({ items }: { items: Item[] }) {
  return (
    <Table
      size="small"
      className={shared.panel}
      rowKey="ref"
      dataSource={items}
      pagination={pagesOf(items)}
      locale={{ emptyText: 'Nothing downstream is touched.' }}
      expandable={{ expandedRowRender: (item) => <ThreadPath hops={item.thread} /> }}
      columns={columnsOf(items)}
    />
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
