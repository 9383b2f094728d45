import { useQuery } from '@tanstack/react-query'
import { Button, Empty, Segmented } from 'antd'
import { get, type Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { AssetLink, KindMark, Labels } from '../shared/marks'
import { useInks } from '../shared/useInks'
import { useUrlState } from '../shared/useUrlState'
import { BrowseTree } from './BrowseTree'

const FILTERS = ['kind', 'system', 'owner', 'label'] as const

/** Finds by words with filters beside the hits, or browses by containers. */
export function FindPage() {
  const ink = useInks()
  const [read, write] = useUrlState()
  const query = {
    q: read('q'),
    kind: read('kind'),
    system: read('system'),
    owner: read('owner'),
    label: read('label'),
    limit: Number(read('limit') ?? 50),
  }
  const found = useQuery({
    queryKey: ['search', query],
    queryFn: ({ signal }) => get<Schemas['Found']>('search', query, signal),
    placeholderData: (before) => before,
  })
  const way = read('way') ?? (query.q ? 'words' : 'places')
  return (
    <div style={{ display: 'flex', gap: 20, padding: 16, maxWidth: 1400, margin: '0 auto' }}>
      <aside style={{ width: 270, flex: 'none' }} aria-label="Places and filters">
        <Segmented
          block
          size="small"
          value={way}
          onChange={(next) => write({ way: String(next) })}
          options={[
            { value: 'places', label: 'By place' },
            { value: 'words', label: 'By filter' },
          ]}
          style={{ marginBottom: 12 }}
        />
        {way === 'places' ? (
          <BrowseTree />
        ) : (
          <Answer of={found}>
            {({ facets }) =>
              FILTERS.map((name) => (
                <Filter
                  key={name}
                  name={name}
                  counts={facets[name]}
                  chosen={query[name]}
                  onChoose={(value) => write({ [name]: value, limit: undefined })}
                />
              ))
            }
          </Answer>
        )}
      </aside>
      <section style={{ flex: 1, minWidth: 0 }} aria-label="Hits">
        <Answer of={found}>
          {(answer) => (
            <>
              <p style={{ color: ink.quiet, margin: '2px 0 10px' }}>
                {answer.total} {answer.total === 1 ? 'asset' : 'assets'}
                {query.q ? ` for “${query.q}”` : ''}
              </p>
              {answer.total === 0 && (
                <Empty description="Nothing matches. Fewer or other words may; slips of the pen are forgiven." />
              )}
              {answer.hits.map((hit) => (
                <HitRow key={hit.ref} hit={hit} />
              ))}
              {answer.total > answer.hits.length && (
                <Button onClick={() => write({ limit: String(query.limit + 100) })}>Show more</Button>
              )}
            </>
          )}
        </Answer>
      </section>
    </div>
  )
}

function HitRow({ hit }: { hit: Schemas['Hit'] }) {
  const ink = useInks()
  return (
    <article
      style={{
        padding: '7px 12px',
        background: ink.panel,
        border: `1px solid ${ink.line}`,
        marginBottom: -1,
      }}
    >
      <div style={{ display: 'flex', gap: 8, alignItems: 'baseline' }}>
        <KindMark kind={hit.kind} />
        <strong style={{ fontSize: 14 }}>
          <AssetLink refText={hit.ref} name={hit.title ?? hit.name} />
        </strong>
        <span style={{ color: ink.quiet }}>{[hit.system, ...hit.container].join(' › ')}</span>
        {!hit.described && <em style={{ color: ink.quiet }}>only mentioned</em>}
        {hit.retired && <em style={{ color: ink.bad }}>retired</em>}
        <span style={{ flex: 1 }} />
        <Labels labels={hit.labels} />
        <span style={{ color: ink.quiet }}>{hit.owners.join(', ')}</span>
      </div>
      <div style={{ marginLeft: 70, color: ink.quiet }}>
        {hit.description}
        {hit.columns.length > 0 && (
          <span style={{ color: ink.thread }}> columns: {hit.columns.join(', ')}</span>
        )}
      </div>
    </article>
  )
}

type FilterProps = {
  name: string
  counts: Record<string, number>
  chosen: string | undefined
  onChoose: (value: string | undefined) => void
}

function Filter({ name, counts, chosen, onChoose }: FilterProps) {
  const ink = useInks()
  const values = Object.entries(counts).sort((a, b) => b[1] - a[1])
  if (values.length === 0) return null
  return (
    <fieldset style={{ border: 'none', margin: '0 0 12px', padding: 0 }}>
      <legend style={{ color: ink.quiet, fontSize: 12 }}>{name}</legend>
      {values.slice(0, 14).map(([value, n]) => (
        <Button
          key={value}
          size="small"
          block
          type={chosen === value ? 'primary' : 'text'}
          aria-pressed={chosen === value}
          onClick={() => onChoose(chosen === value ? undefined : value)}
          style={{ display: 'flex', justifyContent: 'space-between' }}
        >
          <span>{value}</span>
          <span style={{ opacity: 0.7 }}>{n}</span>
        </Button>
      ))}
    </fieldset>
  )
}
