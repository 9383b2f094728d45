import { Select, Table, type TableColumnsType } from 'antd'
import { Answer } from '../shared/Answer'
import { AssetLink, KindMark, VerdictMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import styles from './planned.module.css'
import { type Compared, type Plan, useComparedPlans, usePlans } from './queries'

type ChooseProps = { plan: Plan; other?: string; onOther: (id: string | undefined) => void }

/** Chooses another planned change to be held against this one. */
export function ChooseOther({ plan, other, onOther }: ChooseProps) {
  const plans = usePlans({}).data?.items ?? []
  const options = plans
    .filter((one) => one.id !== plan.id)
    .map((one) => ({ value: one.id, label: `${one.title} (${one.state})` }))
  return (
    <Select
      size="small"
      allowClear
      aria-label="Compare with another change"
      placeholder="compare with another change"
      className={styles.other}
      value={other}
      options={options}
      notFoundContent="No other change is planned."
      onChange={onOther}
    />
  )
}

/** What each of two planned changes does to everything that either touches. */
export function ComparePlans({ id, other }: { id: string; other: string }) {
  return <Answer of={useComparedPlans(id, other)}>{(found) => <Sides found={found} />}</Answer>
}

function Sides({ found }: { found: Compared }) {
  type Row = Compared['items'][number]
  const columns: TableColumnsType<Row> = [
    {
      title: 'What',
      render: (_, row) => (
        <>
          <KindMark kind={row.kind} /> <AssetLink refText={row.ref} name={row.name} />
        </>
      ),
    },
    { title: found.title, render: (_, row) => <Verdict verdict={row.verdict} certainty={row.certainty} /> },
    {
      title: found.otherTitle,
      render: (_, row) => <Verdict verdict={row.otherVerdict} certainty={row.otherCertainty} />,
    },
    { title: '', width: 100, render: (_, row) => (row.same ? 'same' : <b>different</b>) },
  ]
  return (
    <section aria-label="Two changes">
      <h2 className={shared.subheading}>
        {found.different} of {found.items.length} are different
      </h2>
      <Table<Row>
        size="small"
        rowKey="ref"
        dataSource={found.items}
        columns={columns}
        pagination={pagesOf(found.items, 50)}
      />
    </section>
  )
}

function Verdict({ verdict, certainty }: { verdict?: string; certainty?: string }) {
  if (!verdict) return <span className={shared.quiet}>not touched</span>
  return <VerdictMark verdict={verdict} certainty={certainty ?? 'certain'} />
}
