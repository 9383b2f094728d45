import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { Button, Empty, Input, Select, Table, Tooltip } from 'antd'
import { get, type Schemas, withQuery } from '../api/client'
import { Answer } from '../shared/Answer'
import { AssetPicker } from '../shared/AssetPicker'
import { AssetLink, KindMark, Labels, VerdictMark } from '../shared/marks'
import { ThreadPath } from '../shared/ThreadPath'
import { useInks } from '../shared/useInks'
import { useUrlState } from '../shared/useUrlState'

const CHANGES = [
  ['drop', 'is dropped'],
  ['rename', 'is renamed'],
  ['retype', 'changes its type'],
  ['values', 'changes its values'],
  ['rows', 'changes its rows'],
  ['delay', 'comes late'],
] as const

const VERDICTS = ['breaks', 'goes-stale', 'values-shift', 'rows-shift'] as const

type Item = Schemas['Item']

/** What a change would do downstream: choose it, read the list, hand the list on. */
export function ImpactPage() {
  const ink = useInks()
  const [read, write] = useUrlState()
  const ref = read('ref')
  const query = {
    ref,
    change: read('change') ?? 'drop',
    to: read('to'),
    kind: read('kind'),
    owner: read('owner'),
    system: read('system'),
    verdict: read('verdict'),
  }
  const ready = ref !== undefined && !(query.change === 'retype' && !query.to)
  const impact = useQuery({
    queryKey: ['impact', query],
    queryFn: ({ signal }) => get<Schemas['ImpactAnswer']>('impact', { ...query, limit: 1000 }, signal),
    enabled: ready,
    placeholderData: keepPreviousData,
  })
  return (
    <div style={{ padding: 16, maxWidth: 1400, margin: '0 auto' }}>
      <div style={{ display: 'flex', gap: 10, alignItems: 'center', marginBottom: 12, flexWrap: 'wrap' }}>
        <span>If</span>
        <AssetPicker
          label="What changes"
          placeholder="an asset, or a column as asset#column"
          value={ref}
          width={480}
          onPick={(next) => write({ ref: next, kind: undefined, owner: undefined, verdict: undefined })}
        />
        <Select
          aria-label="Change"
          style={{ width: 170 }}
          value={query.change}
          onChange={(change) => write({ change, to: undefined })}
          options={CHANGES.map(([value, label]) => ({ value, label }))}
        />
        {(query.change === 'rename' || query.change === 'retype') && (
          <Input
            aria-label="To"
            placeholder={query.change === 'rename' ? 'new name' : 'new type'}
            style={{ width: 140 }}
            defaultValue={query.to}
            onBlur={(event) => write({ to: event.target.value })}
            onPressEnter={(event) => write({ to: event.currentTarget.value })}
          />
        )}
        <span style={{ flex: 1 }} />
        {ready && <Download query={query} />}
      </div>
      {ready ? (
        <Answer of={impact}>
          {(answer) => (
            <>
              <Summary answer={answer} chosen={query.verdict} onChoose={(verdict) => write({ verdict })} />
              <Items answer={answer} />
              <Untouched list={answer.untouched} />
            </>
          )}
        </Answer>
      ) : (
        <Empty
          style={{ padding: 60 }}
          description={
            ref
              ? 'Give the new type to judge this change.'
              : 'Name what changes, and how, to see what it would do.'
          }
        />
      )}
      <p style={{ color: ink.quiet }}>
        Possibly means that some lineage on the way is known for whole tables only, or that a value is masked.
      </p>
    </div>
  )
}

function Download({ query }: { query: Record<string, string | undefined> }) {
  const save = async () => {
    const response = await fetch(withQuery('/api/v1/impact', query), { headers: { Accept: 'text/csv' } })
    const link = document.createElement('a')
    link.href = URL.createObjectURL(await response.blob())
    link.download = `impact-${(query.ref ?? '').replace(/[^A-Za-z0-9._-]+/g, '_')}.csv`
    link.click()
    URL.revokeObjectURL(link.href)
  }
  return <Button onClick={save}>Download the list</Button>
}

type SummaryProps = {
  answer: Schemas['ImpactAnswer']
  chosen: string | undefined
  onChoose: (verdict: string | undefined) => void
}

function Summary({ answer, chosen, onChoose }: SummaryProps) {
  const ink = useInks()
  return (
    <div
      style={{
        display: 'flex',
        gap: 1,
        marginBottom: 12,
        background: ink.line,
        border: `1px solid ${ink.line}`,
      }}
    >
      {VERDICTS.map((verdict) => (
        <button
          key={verdict}
          type="button"
          aria-pressed={chosen === verdict}
          onClick={() => onChoose(chosen === verdict ? undefined : verdict)}
          style={{
            flex: 1,
            border: 'none',
            borderBottom: `3px solid ${chosen === verdict ? ink.thread : 'transparent'}`,
            background: ink.panel,
            color: ink.text,
            padding: '8px 12px 5px',
            textAlign: 'left',
            cursor: 'pointer',
          }}
        >
          <span style={{ fontSize: 22, marginRight: 8 }}>{answer.summary.verdicts[verdict] ?? 0}</span>
          <VerdictMark verdict={verdict} certainty="certain" />
        </button>
      ))}
      <div style={{ flex: 1, background: ink.panel, padding: '8px 12px 5px' }}>
        <span style={{ fontSize: 22, marginRight: 8 }}>{answer.untouched.count}</span>
        <VerdictMark verdict="untouched" certainty="certain" />
        <small style={{ color: ink.quiet }}> {answer.untouched.certain} certainly</small>
      </div>
    </div>
  )
}

function filtersOf(values: string[]) {
  return [...new Set(values)].sort().map((value) => ({ text: value, value }))
}

function Items({ answer }: { answer: Schemas['ImpactAnswer'] }) {
  const ink = useInks()
  const items = answer.items
  return (
    <Table
      size="small"
      style={{ background: ink.panel, border: `1px solid ${ink.line}` }}
      rowKey="ref"
      dataSource={items}
      pagination={items.length > 100 ? { pageSize: 100 } : false}
      locale={{ emptyText: 'Nothing downstream is touched.' }}
      expandable={{ expandedRowRender: (item) => <ThreadPath hops={item.thread} /> }}
      columns={[
        {
          title: 'Verdict',
          dataIndex: 'verdict',
          width: 140,
          filters: filtersOf(items.map((item) => item.verdict)),
          onFilter: (value, item) => item.verdict === value,
          render: (_, item) => <Verdicts item={item} />,
        },
        { title: 'Hops', dataIndex: 'hops', align: 'right', width: 70, sorter: (a, b) => a.hops - b.hops },
        {
          title: 'Name',
          dataIndex: 'name',
          sorter: (a, b) => a.name.localeCompare(b.name),
          render: (name, item) => (
            <>
              <KindMark kind={item.kind} /> <AssetLink refText={item.ref} name={name} />
            </>
          ),
          filters: filtersOf(items.map((item) => item.kind)),
          onFilter: (value, item) => item.kind === value,
        },
        {
          title: 'System',
          dataIndex: 'system',
          filters: filtersOf(items.map((item) => item.system)),
          onFilter: (value, item) => item.system === value,
        },
        {
          title: 'Owners',
          dataIndex: 'owners',
          render: (owners: string[]) => owners.join(', '),
          filters: filtersOf(items.flatMap((item) => item.owners)),
          onFilter: (value, item) => item.owners.includes(String(value)),
        },
        {
          title: 'Columns',
          dataIndex: 'columns',
          render: (columns: Schemas['TouchedColumn'][]) => (
            <span style={{ color: ink.quiet }}>{columns.map((column) => column.name).join(', ')}</span>
          ),
        },
        { title: 'Labels', dataIndex: 'labels', render: (labels: string[]) => <Labels labels={labels} /> },
      ]}
    />
  )
}

function Verdicts({ item }: { item: Item }) {
  const others = item.verdicts.filter((judged) => judged.verdict !== item.verdict)
  return (
    <Tooltip title={others.map((judged) => `${judged.verdict} ${judged.certainty}`).join(', ')}>
      <span>
        <VerdictMark verdict={item.verdict} certainty={item.certainty} />
      </span>
    </Tooltip>
  )
}

function Untouched({ list }: { list: Schemas['UntouchedList'] }) {
  const ink = useInks()
  if (list.count === 0) return null
  return (
    <section style={{ marginTop: 16 }}>
      <h2 style={{ fontSize: 14 }}>Untouched, though it lies downstream or reads the same data</h2>
      <Table
        size="small"
        style={{ background: ink.panel, border: `1px solid ${ink.line}` }}
        rowKey="ref"
        dataSource={list.items}
        pagination={list.items.length > 50 ? { pageSize: 50 } : false}
        columns={[
          {
            title: 'Verdict',
            width: 160,
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
            render: (missing) => missing ?? <span style={{ color: ink.quiet }}>it is certain</span>,
          },
        ]}
      />
    </section>
  )
}
