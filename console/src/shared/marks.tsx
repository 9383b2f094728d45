import { Tag } from 'antd'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { assetPath, isRestricted, pagePath, shortRef, spoken } from './format'
import styles from './shared.module.css'

export { KindIcon, KindMark } from './kinds'

/** A link to an asset's page, with its whole reference on hover. */
export function AssetLink({ refText, name }: { refText: string; name: string }) {
  if (isRestricted(refText)) return <Restricted />
  return (
    <Link to={assetPath(refText)} title={refText}>
      {name}
    </Link>
  )
}

/** What the caller's grants do not cover: it is there, and that is all there is to see. */
export function Restricted() {
  return (
    <span className={styles.quiet} title="Your grants do not cover this.">
      restricted
    </span>
  )
}

const STATE_CLASS: Record<string, string> = {
  completed: styles.good,
  failed: styles.bad,
  aborted: styles.bad,
  running: styles.wait,
}
const STATE_SIGN: Record<string, string> = { completed: '●', running: '◌', unknown: '?' }

/** How a run stands, as a word and not by colour alone. */
export function StateMark({ state }: { state: string | undefined }) {
  if (!state) return <span className={styles.quiet}>–</span>
  return (
    <span className={`${styles.state} ${STATE_CLASS[state] ?? styles.quiet}`}>
      <span aria-hidden className={styles.stateSign}>
        {STATE_SIGN[state] ?? '■'}
      </span>
      {state}
    </span>
  )
}

const VERDICT_CLASS: Record<string, string> = {
  breaks: styles.bad,
  'goes-stale': styles.wait,
  'values-shift': styles.thread,
  'rows-shift': styles.thread,
  untouched: styles.good,
}

export function VerdictMark({ verdict, certainty }: { verdict: string; certainty: string }) {
  return (
    <span className={`${styles.verdict} ${VERDICT_CLASS[verdict] ?? styles.quiet}`}>
      {spoken(verdict)}
      {certainty === 'possible' && <span className={styles.doubt}> (possible)</span>}
    </span>
  )
}

/** Glossary terms, each with its definition on hover. */
export function Terms({ terms }: { terms: Schemas['AssetTerm'][] }) {
  return terms.map((term) => (
    <Link
      key={term.id}
      to={`/glossary?term=${encodeURIComponent(term.id)}`}
      title={term.definition}
      className={styles.term}
    >
      {term.name}
    </Link>
  ))
}

export function Labels({ labels }: { labels: string[] }) {
  return labels.map((label) => (
    <Tag key={label} variant="outlined" className={styles.label}>
      {label}
    </Tag>
  ))
}

/** Labels that came along lineage, or by a rule: each says from where, and leads there. */
export function Inherited({ labels }: { labels: Schemas['Labelled'][] }) {
  return labels.map(({ label, how, from, setBy }) =>
    from ? (
      <Link key={label} to={pagePath('graph', from)} title={`Set on ${from}, and came along lineage`}>
        <Tag variant="outlined" className={styles.inherited}>
          {how === 'perhaps' ? `perhaps ${label}` : label} from {shortRef(from)}
        </Tag>
      </Link>
    ) : (
      <Tag key={label} variant="outlined" className={styles.label}>
        {label} by {setBy}
      </Tag>
    ),
  )
}

export function Owners({ owners }: { owners: Schemas['Owner'][] }) {
  if (owners.length === 0) return <span className={styles.quiet}>no owner</span>
  return owners.map((owner, i) => (
    <span key={`${owner.name} ${owner.role}`}>
      {i > 0 && ', '}
      {owner.address ? <a href={`mailto:${owner.address}`}>{owner.name}</a> : owner.name}
      {owner.what !== 'text' && <small> ({owner.what})</small>}
    </span>
  ))
}
