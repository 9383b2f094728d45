import { Alert, Button, Segmented, Table, type TableColumnsType } from 'antd'
import { Link } from 'react-router'
import { useMaySet } from '../hand/queries'
import { Answer } from '../shared/Answer'
import { moment, shortRef, spoken } from '../shared/format'
import { AssetLink, KindMark, VerdictMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import { useUrlState } from '../shared/useUrlState'
import { ChooseOther, ComparePlans } from './ComparePlans'
import { Outcome } from './Outcome'
import { Owners } from './Owners'
import styles from './planned.module.css'
import { type Plan, useMove, usePlan, usePlans } from './queries'

const STATES = ['all', 'proposed', 'agreed', 'done', 'withdrawn']
const NEXT: Record<string, ['agreed' | 'done' | 'withdrawn' | 'proposed', string][]> = {
  proposed: [
    ['agreed', 'Agreed'],
    ['done', 'Done'],
    ['withdrawn', 'Withdraw'],
  ],
  agreed: [
    ['done', 'Done'],
    ['proposed', 'Propose again'],
    ['withdrawn', 'Withdraw'],
  ],
}

/** The address of a planned change. */
export function planPath(id: string): string {
  return `/planned?id=${encodeURIComponent(id)}`
}

/** All planned changes, or one of them. */
export function PlannedPage() {
  const [read] = useUrlState()
  const id = read('id')
  return id ? <OnePlan id={id} /> : <AllPlans />
}

function AllPlans() {
  const [read, write] = useUrlState()
  const state = read('state') ?? 'all'
  return (
    <div className={shared.page}>
      <header className={shared.bar}>
        <h1 className={shared.heading}>Planned changes</h1>
        <Segmented
          size="small"
          value={state}
          options={STATES}
          onChange={(next) => write({ state: next === 'all' ? undefined : next })}
        />
        <span className={shared.space} />
        <Link to="/impact">Judge a change</Link>
      </header>
      <Answer of={usePlans(state === 'all' ? {} : { state })}>
        {({ items }) => <Plans plans={items} />}
      </Answer>
    </div>
  )
}

function Plans({ plans }: { plans: Plan[] }) {
  const columns: TableColumnsType<Plan> = [
    { title: 'State', width: 100, render: (_, plan) => <StateWord state={plan.state} /> },
    { title: 'Change', render: (_, plan) => <Link to={planPath(plan.id)}>{plan.title}</Link> },
    { title: 'Planned', width: 150, render: (_, plan) => moment(plan.planned) },
    { title: 'Breaks', width: 70, align: 'right', render: (_, plan) => plan.verdicts.breaks },
    { title: 'Stale', width: 70, align: 'right', render: (_, plan) => plan.verdicts['goes-stale'] },
    {
      title: 'Shift',
      width: 70,
      align: 'right',
      render: (_, plan) => (plan.verdicts['values-shift'] ?? 0) + (plan.verdicts['rows-shift'] ?? 0),
    },
    { title: 'Answered', width: 150, render: (_, plan) => answeredWords(plan) },
    { title: 'Author', render: (_, plan) => plan.author },
  ]
  return (
    <Table<Plan>
      size="small"
      rowKey="id"
      dataSource={plans}
      columns={columns}
      pagination={pagesOf(plans)}
      locale={{ emptyText: 'No change is planned. Judge one under Impact, then plan it.' }}
    />
  )
}

function StateWord({ state }: { state: string }) {
  const style = { proposed: shared.wait, agreed: shared.thread, done: shared.good }[state] ?? shared.quiet
  return <span className={style}>{state}</span>
}

function answeredWords({ owners }: Plan): string {
  const said = owners.filter((owner) => owner.answer)
  const object = said.filter((owner) => owner.answer === 'objects').length
  return `${said.length} of ${owners.length}${object > 0 ? `, ${object} object` : ''}`
}

function OnePlan({ id }: { id: string }) {
  return <Answer of={usePlan(id)}>{(plan) => <Whole plan={plan} />}</Answer>
}

function Whole({ plan }: { plan: Plan }) {
  const maySet = useMaySet()
  const [read, write] = useUrlState()
  const other = read('with')
  const move = useMove(plan.id)
  return (
    <div className={shared.page}>
      <header className={shared.bar}>
        <h1 className={shared.heading}>{plan.title}</h1>
        <StateWord state={plan.state} />
        <span className={shared.space} />
        {maySet &&
          (NEXT[plan.state] ?? []).map(([to, words]) => (
            <Button key={to} size="small" disabled={move.isPending} onClick={() => move.mutate(to)}>
              {words}
            </Button>
          ))}
        <ChooseOther plan={plan} other={other} onOther={(id) => write({ with: id })} />
        <Link to="/planned">All planned changes</Link>
      </header>
      {move.error && <Alert type="error" showIcon title={move.error.message} />}
      <p className={styles.facts}>
        Planned by {plan.author}
        {plan.planned && <> for {moment(plan.planned)}</>}, proposed {moment(plan.madeAt)}
        {plan.doneAt && <>, done {moment(plan.doneAt)}</>}.
      </p>
      {plan.reason && <p className={styles.reason}>{plan.reason}</p>}
      <ul className={styles.steps}>
        {plan.steps.map((step) => (
          <li key={`${step.change} ${step.of}`}>
            <b>{spoken(step.change)}</b> <AssetLink refText={step.of} name={shortRef(step.of)} />
            {step.to && (
              <>
                {' '}
                to <b>{step.to}</b>
              </>
            )}
          </li>
        ))}
      </ul>
      {plan.problem && <Alert type="warning" showIcon title={`Cannot be judged again: ${plan.problem}`} />}
      {plan.since.length > 0 && (
        <Alert
          type="warning"
          className={styles.since}
          title="Judged otherwise since it was proposed"
          description={
            <ul className={styles.list}>
              {plan.since.map((words) => (
                <li key={words}>{words}</li>
              ))}
            </ul>
          }
        />
      )}
      {other && <ComparePlans id={plan.id} other={other} />}
      {plan.outcome && <Outcome outcome={plan.outcome} />}
      <div className={styles.sides}>
        <Items plan={plan} />
        <Owners plan={plan} />
      </div>
    </div>
  )
}

function Items({ plan }: { plan: Plan }) {
  type Item = Plan['items'][number]
  const columns: TableColumnsType<Item> = [
    {
      title: 'Verdict',
      width: 190,
      render: (_, item) => <VerdictMark verdict={item.verdict} certainty={item.certainty} />,
    },
    {
      title: 'What',
      render: (_, item) => (
        <>
          <KindMark kind={item.kind} /> <AssetLink refText={item.ref} name={item.name} />
        </>
      ),
    },
    { title: 'Owners', width: 160, render: (_, item) => item.owners.join(', ') },
    { title: 'Hops', width: 60, align: 'right', dataIndex: 'hops' },
  ]
  return (
    <section aria-label="What it does">
      <h2 className={shared.subheading}>What it does ({plan.items.length})</h2>
      <Table<Item>
        size="small"
        rowKey="ref"
        dataSource={plan.items}
        columns={columns}
        pagination={pagesOf(plan.items, 50)}
        locale={{ emptyText: 'It touches nothing.' }}
      />
    </section>
  )
}
