import { Table, type TableColumnsType } from 'antd'
import { Answer } from '../shared/Answer'
import { Since } from '../shared/Since'
import shared from '../shared/shared.module.css'
import styles from './coverage.module.css'
import { type Covered, useCoverage } from './queries'

const COLUMNS: TableColumnsType<Covered> = [
  {
    title: 'System',
    dataIndex: 'system',
    render: (system, one) =>
      one.workspace ? (
        <span className={styles.within}>{one.workspace}</span>
      ) : (
        <strong title={system}>{system}</strong>
      ),
  },
  { title: 'Assets', dataIndex: 'assets', align: 'right' },
  {
    title: 'Origin known',
    dataIndex: 'share',
    align: 'right',
    render: (share) => `${Math.round(100 * share)} %`,
  },
  { title: '', render: (_, one) => <Share of={one} /> },
  {
    title: 'Read, but not written',
    dataIndex: 'onlyRead',
    align: 'right',
    render: (n) => (n === 0 ? <span className={shared.quiet}>–</span> : n),
  },
  {
    title: 'Evidence',
    dataIndex: 'evidence',
    render: (evidence: Record<string, number>) =>
      Object.entries(evidence)
        .map(([word, n]) => `${n} ${word}`)
        .join(', '),
  },
  { title: 'Last seen', dataIndex: 'newest', render: (at) => <Since at={at} never="–" /> },
  { title: 'In 90 days', render: (_, one) => trendWords(one) },
]

/** Of how many assets the origin is known, system by system. */
export function BySystem() {
  return (
    <Answer of={useCoverage()}>
      {({ items }) => (
        <>
          <div className={styles.key}>
            <span>
              <i className={`${styles.swatch} ${styles.byColumn}`} />
              known column by column
            </span>
            <span>
              <i className={`${styles.swatch} ${styles.byTable}`} />
              known for the whole asset only
            </span>
            <span>
              <i className={styles.swatch} />
              not known
            </span>
          </div>
          <Table
            size="small"
            className={shared.panel}
            rowKey={(one) => `${one.system} ${one.workspace ?? ''}`}
            pagination={false}
            dataSource={items}
            columns={COLUMNS}
          />
        </>
      )}
    </Answer>
  )
}

function Share({ of }: { of: Covered }) {
  const part = (n: number) => `${of.assets === 0 ? 0 : (100 * n) / of.assets}%`
  const words = `${of.columnLevel} by column, ${of.tableLevel} by table, ${of.noLineage} not known`
  return (
    <div className={styles.share} role="img" aria-label={words} title={words}>
      <span className={styles.byColumn} style={{ width: part(of.columnLevel) }} />
      <span className={styles.byTable} style={{ width: part(of.tableLevel) }} />
    </div>
  )
}

/** How the known share moved since the oldest day that was noted. */
export function trendWords(one: Pick<Covered, 'trend' | 'share'>): string {
  const first = one.trend[0]
  if (!first || first.assets === 0) return '–'
  const then = (first.columnLevel + first.tableLevel) / first.assets
  const points = Math.round(100 * (one.share - then))
  return points === 0 ? 'as before' : `${points > 0 ? '+' : '−'}${Math.abs(points)} points`
}
