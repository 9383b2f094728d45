import { Table, type TableColumnsType } from 'antd'
import { moment, spoken } from '../shared/format'
import { AssetLink } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { filtersOf, pagesOf } from '../shared/tables'
import type { Plan } from './queries'

type Found = NonNullable<Plan['outcome']>
type Row = Found['occurrences'][number]

const CLASS: Record<string, string> = { miss: shared.bad, hit: shared.good, 'false-alarm': shared.wait }

/** What was foretold against what then occurred. */
export function Outcome({ outcome }: { outcome: Found }) {
  const columns: TableColumnsType<Row> = [
    {
      title: '',
      width: 110,
      filters: filtersOf(
        outcome.occurrences.map((row) => row.kind),
        spoken,
      ),
      onFilter: (value, row) => row.kind === value,
      render: (_, row) => <span className={CLASS[row.kind] ?? shared.quiet}>{spoken(row.kind)}</span>,
    },
    { title: 'What', render: (_, row) => <AssetLink refText={row.ref} name={row.name} /> },
    { title: 'Foretold', width: 130, render: (_, row) => (row.foretold ? spoken(row.foretold) : 'nothing') },
    { title: 'Occurred', render: (_, row) => row.occurred ?? 'nothing' },
    { title: 'At', width: 150, render: (_, row) => moment(row.at) },
  ]
  return (
    <section aria-label="Foretold against occurred">
      <h2 className={shared.subheading}>
        Foretold against occurred, {moment(outcome.from)} to {moment(outcome.until)}
        {!outcome.over && ' (not over)'}: {outcome.hits} hits, {outcome.misses} misses, {outcome.falseAlarms}{' '}
        false alarms, {outcome.open} open
      </h2>
      <Table<Row>
        size="small"
        rowKey={(row) => `${row.kind} ${row.ref}`}
        dataSource={outcome.occurrences}
        columns={columns}
        pagination={pagesOf(outcome.occurrences, 20)}
      />
    </section>
  )
}
