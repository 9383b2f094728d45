import { Button, Empty, Segmented } from 'antd'
import { Answer } from '../shared/Answer'
import { count } from '../shared/format'
import { useSearch } from '../shared/useSearch'
import { useUrlState } from '../shared/useUrlState'
import { BrowseTree } from './BrowseTree'
import { FilterList } from './FilterList'
import styles from './find.module.css'
import { HitRow } from './HitRow'

const FILTERS = ['kind', 'system', 'owner', 'label'] as const
const FIRST_HITS = 50
const MORE_HITS = 100

/** Finds by words with filters beside the hits, or browses by containers. */
export function FindPage() {
  const [read, write] = useUrlState()
  const query = {
    q: read('q'),
    kind: read('kind'),
    system: read('system'),
    owner: read('owner'),
    label: read('label'),
    limit: Number(read('limit') ?? FIRST_HITS),
  }
  const found = useSearch(query)
  const way = read('way') ?? (query.q ? 'words' : 'places')
  return (
    <div className={styles.page}>
      <aside className={styles.side} aria-label="Places and filters">
        <Segmented
          block
          size="small"
          value={way}
          onChange={(next) => write({ way: next })}
          options={[
            { value: 'places', label: 'By place' },
            { value: 'words', label: 'By filter' },
          ]}
          className={styles.choice}
        />
        {way === 'places' ? (
          <BrowseTree />
        ) : (
          <Answer of={found}>
            {({ facets }) =>
              FILTERS.map((name) => (
                <FilterList
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
      <section className={styles.hits} aria-label="Hits">
        <Answer of={found}>
          {(answer) => (
            <>
              <p className={styles.count}>
                {count(answer.total)} {answer.total === 1 ? 'asset' : 'assets'}
                {query.q ? ` for “${query.q}”` : ''}
                {answer.restricted > 0 &&
                  `; ${count(answer.restricted)} more are restricted and were not searched`}
              </p>
              {answer.total === 0 && (
                <Empty description="No asset matches. Try fewer or other words; spelling mistakes are tolerated." />
              )}
              {answer.hits.map((hit) => (
                <HitRow key={hit.ref} hit={hit} />
              ))}
              {answer.total > answer.hits.length && (
                <Button onClick={() => write({ limit: String(query.limit + MORE_HITS) })}>Show more</Button>
              )}
            </>
          )}
        </Answer>
      </section>
    </div>
  )
}
