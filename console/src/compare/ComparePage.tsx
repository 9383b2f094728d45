import { DatePicker, Empty, Segmented, Select, Table, type TableColumnsType } from 'antd'
import dayjs from 'dayjs'
import { Answer } from '../shared/Answer'
import { AssetPicker } from '../shared/AssetPicker'
import { isJob, moment, shortRef, spoken } from '../shared/format'
import { ALL_THE_WAY, HopsSelect } from '../shared/HopsSelect'
import { AssetLink, KindMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { filtersOf, pagesOf } from '../shared/tables'
import { useUrlState } from '../shared/useUrlState'
import { CodeSides } from './CodeSides'
import styles from './compare.module.css'
import { type Comparison, useComparison, useVersions } from './queries'

const DAY = 86_400_000

/** Two moments, or two versions of a job, side by side. */
export function ComparePage() {
  const [read, write] = useUrlState()
  const ref = read('ref')
  const from = read('from') ?? new Date(Date.now() - DAY).toISOString()
  const to = read('to')
  const direction = read('direction') ?? 'both'
  const hops = Number(read('hops') ?? ALL_THE_WAY)
  return (
    <div className={shared.page}>
      <header className={shared.bar}>
        <h1 className={shared.heading}>Compare</h1>
        <AssetPicker
          label="Around"
          placeholder="an asset, a column or a job"
          value={ref}
          width={300}
          onPick={(next) => write({ ref: next, from: undefined, to: undefined })}
        />
        {ref && isJob(ref) && <Versions job={ref} from={from} to={to} write={write} />}
        <Moment label="From" value={from} onChange={(at) => write({ from: at })} />
        <Moment label="To" value={to} onChange={(at) => write({ to: at })} />
        <Segmented
          size="small"
          value={direction}
          onChange={(next) => write({ direction: next })}
          options={['upstream', 'both', 'downstream']}
        />
        <HopsSelect value={hops} onChange={(next) => write({ hops: String(next) })} />
      </header>
      {ref ? (
        <Found refText={ref} from={from} to={to} direction={direction} hops={hops} />
      ) : (
        <Empty className={shared.empty} description="Name an asset or a job, and two moments." />
      )}
    </div>
  )
}

type MomentProps = { label: string; value?: string; onChange: (at: string | undefined) => void }

function Moment({ label, value, onChange }: MomentProps) {
  const time = value && !value.startsWith('version:') ? dayjs(value) : null
  return (
    <DatePicker
      size="small"
      showTime={{ format: 'HH:mm' }}
      format="YYYY-MM-DD HH:mm"
      aria-label={label}
      placeholder={label === 'To' ? 'now' : label}
      value={time}
      onChange={(at) => onChange(at ? at.toISOString() : undefined)}
    />
  )
}

type VersionProps = {
  job: string
  from: string
  to?: string
  write: (changes: Record<string, string | undefined>) => void
}

/** The versions of a job, to be compared instead of moments. */
function Versions({ job, from, to, write }: VersionProps) {
  const versions = useVersions(job).data ?? []
  const options = versions.map((version) => ({
    value: `version:${version.number}`,
    label: `version ${version.number}, ${moment(version.at)}`,
  }))
  const chosen = (text: string | undefined) => (text?.startsWith('version:') ? text : undefined)
  return (
    <>
      <Select
        size="small"
        aria-label="From version"
        placeholder="a version"
        className={styles.version}
        value={chosen(from)}
        options={options}
        onChange={(next) => write({ from: next })}
      />
      <Select
        size="small"
        aria-label="To version"
        placeholder="and another"
        className={styles.version}
        value={chosen(to)}
        options={options}
        onChange={(next) => write({ to: next })}
      />
    </>
  )
}

type FoundProps = { refText: string; from: string; to?: string; direction: string; hops: number }

function Found({ refText, from, to, direction, hops }: FoundProps) {
  return (
    <Answer of={useComparison(refText, from, to, direction, hops < ALL_THE_WAY ? hops : undefined)}>
      {(found) => (
        <div className={styles.found}>
          <p className={styles.summary}>
            {sideWords(found.from)} → {sideWords(found.to)}: {found.summary}
          </p>
          {found.note && <p className={shared.quiet}>{found.note}</p>}
          {found.code.map((code) => (
            <CodeSides key={code.job} code={code} />
          ))}
          {found.assets.length > 0 && <Assets found={found} />}
          {found.links.length > 0 && <Links found={found} />}
        </div>
      )}
    </Answer>
  )
}

function sideWords(side: Comparison['from']): string {
  if (side.version) return `version ${side.version}`
  return side.words === 'now' ? 'now' : moment(side.at)
}

const SIGN: Record<string, string> = { added: '+', removed: '−', changed: '~', renamed: '~', retyped: '~' }
const CLASS: Record<string, string> = { added: shared.good, removed: shared.bad }

function ChangeMark({ change }: { change: string }) {
  return (
    <span className={CLASS[change] ?? shared.thread}>
      <b aria-hidden>{SIGN[change]}</b> {change}
    </span>
  )
}

function Assets({ found }: { found: Comparison }) {
  type Row = Comparison['assets'][number]
  const columns: TableColumnsType<Row> = [
    { title: 'Change', width: 120, render: (_, row) => <ChangeMark change={row.change} /> },
    {
      title: 'Asset',
      width: 380,
      render: (_, row) => (
        <>
          <KindMark kind={row.kind} /> <AssetLink refText={row.ref} name={row.name} />
        </>
      ),
    },
    {
      title: 'Columns',
      render: (_, row) =>
        row.columns.map((column) => (
          <div key={`${column.name} ${column.change}`}>
            <ChangeMark change={column.change} /> <b>{column.name}</b>{' '}
            <span className={shared.quiet}>{columnWords(column)}</span>
          </div>
        )),
    },
    { title: 'Owners', render: (_, row) => row.owners.join(', ') },
  ]
  return (
    <section aria-label="Assets">
      <h2 className={shared.subheading}>Assets and columns</h2>
      <Table<Row>
        size="small"
        rowKey="ref"
        dataSource={found.assets}
        columns={columns}
        pagination={pagesOf(found.assets)}
      />
    </section>
  )
}

function columnWords({ change, before, after }: Comparison['assets'][number]['columns'][number]): string {
  if (change === 'renamed') return `was ${before}`
  if (change === 'retyped') return `${before ?? 'no type'} → ${after ?? 'no type'}`
  return before ?? after ?? ''
}

function Links({ found }: { found: Comparison }) {
  type Row = Comparison['links'][number]
  const columns: TableColumnsType<Row> = [
    {
      title: 'Change',
      width: 110,
      filters: filtersOf(found.links.map((link) => link.change)),
      onFilter: (value, row) => row.change === value,
      render: (_, row) => <ChangeMark change={row.change} />,
    },
    { title: 'From', render: (_, row) => <AssetLink refText={row.from} name={shortRef(row.from)} /> },
    { title: 'To', render: (_, row) => <AssetLink refText={row.to} name={shortRef(row.to)} /> },
    { title: 'How', width: 130, render: (_, row) => row.how },
    {
      title: 'Reported by',
      render: (_, row) => (
        <>
          <AssetLink refText={row.by} name={row.byName} />
          {row.version && <span className={shared.quiet}>, version {row.version}</span>}{' '}
          <span className={shared.quiet}>{spoken(row.evidence)}</span>
        </>
      ),
    },
    { title: 'When', width: 150, render: (_, row) => moment(row.at) },
  ]
  return (
    <section aria-label="Links">
      <h2 className={shared.subheading}>
        Links: {found.linksAdded} added, {found.linksRemoved} removed
      </h2>
      <Table<Row>
        size="small"
        rowKey={(row) => `${row.change} ${row.from} ${row.to} ${row.flow} ${row.by}`}
        dataSource={found.links}
        columns={columns}
        pagination={pagesOf(found.links)}
      />
    </section>
  )
}
