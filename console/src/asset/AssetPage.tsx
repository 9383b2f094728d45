import { useQuery } from '@tanstack/react-query'
import { Button, Collapse, Empty, Table, Tabs } from 'antd'
import { Link } from 'react-router'
import { get, type Schemas } from '../api/client'
import { RunTable } from '../runs/RunTable'
import { Answer } from '../shared/Answer'
import { ago, assetPath, flowWords, moment, shortRef, stepsPath } from '../shared/format'
import { AssetLink, KindMark, Labels, Owners, StateMark } from '../shared/marks'
import { useInks } from '../shared/useInks'
import { useUrlState } from '../shared/useUrlState'
import { JobSteps } from '../sql/JobSteps'
import { CheckLines } from './CheckLines'
import { History } from './History'
import { JobMap } from './JobMap'
import { Parts } from './Parts'

type Detail = Schemas['AssetDetail']

/** One asset: what it is first, the machinery behind it on demand. */
export function AssetPage() {
  const [read, write] = useUrlState()
  const ref = read('ref') ?? ''
  const asset = useQuery({
    queryKey: ['asset', ref],
    queryFn: ({ signal }) => get<Detail>('asset', { ref }, signal),
    enabled: ref !== '',
  })
  if (!ref) return <Empty style={{ padding: 60 }} description="No asset is named; find one first." />
  return (
    <Answer of={asset}>
      {(detail) => (
        <div style={{ padding: 16, maxWidth: 1400, margin: '0 auto' }}>
          <Heading asset={detail} />
          <div style={{ display: 'flex', gap: 20, alignItems: 'flex-start' }}>
            <Tabs
              style={{ flex: 1, minWidth: 0 }}
              activeKey={read('tab') ?? tabs(detail)[0].key}
              onChange={(tab) => write({ tab })}
              items={tabs(detail)}
            />
            <aside style={{ width: 300, flex: 'none', marginTop: 8 }} aria-label="Neighbours">
              <Neighbours title="Comes from" list={detail.upstream} />
              <Neighbours title="Feeds" list={detail.downstream} />
              <Ties ties={detail.ties} />
            </aside>
          </div>
        </div>
      )}
    </Answer>
  )
}

function tabs(asset: Detail) {
  const isJob = asset.ref.startsWith('@')
  const code = asset.code
  return [
    ...(isJob
      ? [
          { key: 'map', label: 'Column map', children: <JobMap refText={asset.ref} /> },
          { key: 'steps', label: 'Steps', children: <JobSteps refText={asset.ref} /> },
        ]
      : [
          { key: 'columns', label: `Columns (${asset.columns.length})`, children: <Columns asset={asset} /> },
        ]),
    ...(code
      ? [
          {
            key: 'code',
            label: code.language.toUpperCase(),
            children: <pre className="code">{code.text}</pre>,
          },
        ]
      : []),
    { key: 'runs', label: 'Runs', children: <RunTable runs={asset.runs} /> },
    ...(asset.checks.length > 0
      ? [
          {
            key: 'checks',
            label: `Checks (${asset.checks.length})`,
            children: <CheckLines refText={asset.ref} />,
          },
        ]
      : []),
    ...(asset.folded
      ? [{ key: 'parts', label: `Parts (${asset.partCount})`, children: <Parts refText={asset.ref} /> }]
      : []),
    { key: 'history', label: 'History', children: <History asset={asset} /> },
    { key: 'facets', label: 'All facets', children: <Facets facets={asset.facets} /> },
  ]
}

function Heading({ asset }: { asset: Detail }) {
  const ink = useInks()
  const at = `ref=${encodeURIComponent(asset.ref)}`
  const failing = asset.checks.filter((check) => !check.passed).length
  return (
    <header style={{ background: ink.panel, border: `1px solid ${ink.line}`, padding: '12px 16px' }}>
      <div style={{ display: 'flex', gap: 10, alignItems: 'baseline' }}>
        <KindMark kind={asset.kind} />
        <h1 style={{ margin: 0, fontSize: 20 }}>{asset.title ?? asset.name}</h1>
        <span style={{ color: ink.quiet }}>{[asset.system, ...asset.container].join(' › ')}</span>
        {!asset.described && <em style={{ color: ink.quiet }}>only mentioned: no event described it</em>}
        {asset.retired && <em style={{ color: ink.bad }}>retired</em>}
        <span style={{ flex: 1 }} />
        <Link to={`/graph?${at}`}>
          <Button size="small">Graph</Button>
        </Link>
        {!asset.ref.startsWith('@') && (
          <Link to={`/impact?${at}`}>
            <Button size="small">Impact</Button>
          </Link>
        )}
        <Link to={`/causes?${at}`}>
          <Button size="small">Causes</Button>
        </Link>
      </div>
      {asset.gap && <p style={{ color: ink.wait, margin: '8px 0' }}>{asset.gap}</p>}
      {asset.description && <p style={{ fontSize: 15, margin: '8px 0' }}>{asset.description}</p>}
      <dl style={{ display: 'flex', flexWrap: 'wrap', gap: '4px 26px', margin: '8px 0 0' }}>
        <Fact name="Owner">
          <Owners owners={asset.owners} />
        </Fact>
        <Fact name="Written">
          <span title={moment(asset.freshness.written)}>{ago(asset.freshness.written)}</span>
        </Fact>
        <Fact name="Last run">
          <StateMark state={asset.freshness.state} />
        </Fact>
        {failing > 0 && (
          <Fact name="Checks">
            <span style={{ color: ink.bad }}>{failing} failing</span>
          </Fact>
        )}
        {asset.labels.length > 0 && (
          <Fact name="Labels">
            <Labels labels={asset.labels} />
          </Fact>
        )}
        <Fact name="Evidence">{evidenceWords(asset.evidence)}</Fact>
        {asset.url && (
          <Fact name="In its tool">
            <a href={asset.url}>{asset.url.replace(/^https?:\/\//, '')}</a>
          </Fact>
        )}
        <Fact name="Reference">
          <code style={{ fontSize: 12 }}>{asset.ref}</code>
        </Fact>
        {asset.details.map((detail) => (
          <Fact key={detail.name} name={detail.name}>
            {detail.value}
          </Fact>
        ))}
        {asset.folded && (
          <Fact name="Folded from">
            <Link to={`/asset?ref=${encodeURIComponent(asset.ref)}&tab=parts`}>{asset.partCount} parts</Link>
          </Fact>
        )}
        {asset.formerly.length > 0 && (
          <Fact name="Formerly">
            {asset.formerly.map((former) => (
              <span key={former.ref} title={`until ${moment(former.until)}`}>
                {shortRef(former.ref)}{' '}
              </span>
            ))}
          </Fact>
        )}
        {!asset.folded && asset.parts.length > 1 && (
          <Fact name="Merged from">
            {asset.parts.map((part) => (
              <code key={part} style={{ fontSize: 12, display: 'block' }}>
                {part}
              </code>
            ))}
          </Fact>
        )}
      </dl>
    </header>
  )
}

/** How many links into the asset are believed for which reason. */
function evidenceWords(evidence: Schemas['Evidence']): string {
  const parts: string[] = []
  if (evidence.observed > 0) parts.push(`${evidence.observed} observed`)
  if (evidence.confirmed > 0) parts.push(`${evidence.confirmed} of them confirmed by SQL`)
  if (evidence.derived > 0) parts.push(`${evidence.derived} derived from SQL`)
  if (evidence.declared > 0) parts.push(`${evidence.declared} declared`)
  return parts.length > 0 ? `links: ${parts.join(', ')}` : 'no links'
}

function Fact({ name, children }: { name: string; children: React.ReactNode }) {
  const ink = useInks()
  return (
    <div style={{ display: 'flex', gap: 6 }}>
      <dt style={{ color: ink.quiet }}>{name}</dt>
      <dd style={{ margin: 0 }}>{children}</dd>
    </div>
  )
}

function Columns({ asset }: { asset: Detail }) {
  const ink = useInks()
  if (asset.columns.length === 0) {
    return <Empty description="No event told of its columns; its lineage is known for the whole only." />
  }
  return (
    <Table
      size="small"
      pagination={asset.columns.length > 100 ? { pageSize: 100 } : false}
      rowKey="name"
      dataSource={asset.columns}
      columns={[
        {
          title: 'Column',
          dataIndex: 'name',
          sorter: (a, b) => a.name.localeCompare(b.name),
          render: (name, column) => (
            <Link to={`/graph?ref=${encodeURIComponent(column.ref)}`} title="Follow this column">
              <strong>{name}</strong>
              {!column.listed && <em style={{ color: ink.quiet }}> unlisted</em>}
            </Link>
          ),
        },
        {
          title: 'Type',
          dataIndex: 'type',
          render: (type) => <span style={{ color: ink.quiet }}>{type}</span>,
        },
        {
          title: 'Meaning',
          dataIndex: 'description',
          render: (words, column) => (
            <>
              {words} <Labels labels={column.labels} />
            </>
          ),
        },
        {
          title: 'Comes from',
          dataIndex: 'sources',
          render: (sources: Schemas['Source'][], column) => (
            <Sources sources={sources} column={column.name} constants={column.constants} />
          ),
        },
        { title: 'Feeds', dataIndex: 'feeds', align: 'right', sorter: (a, b) => a.feeds - b.feeds },
      ]}
    />
  )
}

function Sources({
  sources,
  column,
  constants,
}: {
  sources: Schemas['Source'][]
  column: string
  constants: Schemas['ConstantBranch'][]
}) {
  const ink = useInks()
  return (
    <>
      {sources.map((source) => (
        <div key={`${source.ref} ${source.flow} ${source.by}`}>
          <Link to={assetPath(source.ref)} title={`${source.ref} by ${source.by}`}>
            {shortRef(source.ref)}
          </Link>{' '}
          {source.by.startsWith('@') ? (
            <Link
              to={stepsPath(source.by, `#${column}`)}
              title={`How ${source.by} does it`}
              style={{ color: ink.thread }}
            >
              {flowWords(source.flow)}
              {source.masking && ', masked'}
            </Link>
          ) : (
            <span style={{ color: ink.thread }}>
              {flowWords(source.flow)}
              {source.masking && ', masked'}
            </span>
          )}
        </div>
      ))}
      {constants.map((constant) => (
        <div key={`${constant.by} ${constant.text}`}>
          <code>{constant.text}</code>{' '}
          <Link
            to={stepsPath(constant.by, `#${column}`)}
            title={`A branch of ${constant.by} that carries no data from upstream`}
            style={{ color: ink.quiet }}
          >
            constant
          </Link>
        </div>
      ))}
    </>
  )
}

function Facets({ facets }: { facets: Schemas['FacetValue'][] }) {
  if (facets.length === 0) return <Empty description="No event carried a facet of it." />
  return (
    <Collapse
      size="small"
      items={facets.map((facet) => ({
        key: `${facet.part} ${facet.key}`,
        label: facet.key,
        extra: moment(facet.at),
        children: <pre className="code">{JSON.stringify(facet.value, null, 2)}</pre>,
      }))}
    />
  )
}

function Neighbours({ title, list }: { title: string; list: Schemas['Neighbour'][] }) {
  const ink = useInks()
  return (
    <section style={{ marginBottom: 18 }}>
      <h2 style={{ fontSize: 13, color: ink.quiet, margin: '0 0 4px' }}>
        {title} {list.length > 0 && `(${list.length})`}
      </h2>
      {list.length === 0 && <span style={{ color: ink.quiet }}>nothing that is known</span>}
      {list.map((one) => (
        <div
          key={one.ref}
          style={{
            background: ink.panel,
            border: `1px solid ${ink.line}`,
            padding: '3px 8px',
            marginBottom: -1,
          }}
        >
          <KindMark kind={one.kind} /> <AssetLink refText={one.ref} name={one.name} />{' '}
          <small style={{ color: ink.quiet }}>{one.holds ? 'holds' : one.system}</small>
        </div>
      ))}
    </section>
  )
}

/** The jobs before and after a job by control flow: apart from where data flows. */
function Ties({ ties }: { ties: Schemas['Tied'][] }) {
  const ink = useInks()
  if (ties.length === 0) return null
  return (
    <section>
      <h2 style={{ fontSize: 13, color: ink.quiet, margin: '0 0 4px' }}>
        Runs before and after ({ties.length})
      </h2>
      {ties.map((tie) => (
        <div key={`${tie.ref} ${tie.before} ${tie.data}`} style={{ padding: '2px 0' }}>
          <span style={{ color: ink.quiet }}>{tie.before ? 'after ' : 'before '}</span>
          <AssetLink refText={tie.ref} name={tie.name} />{' '}
          <small style={{ color: ink.quiet }}>
            {tie.data ? 'takes its data' : 'control flow'}
            {tie.rule ? `, ${tie.rule}` : ''}
          </small>
        </div>
      ))}
    </section>
  )
}
