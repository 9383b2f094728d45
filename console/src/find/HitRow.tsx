import type { Schemas } from '../api/client'
import { HealthMark } from '../health/HealthMark'
import { count } from '../shared/format'
import { AssetLink, KindMark, Labels } from '../shared/marks'
import shared from '../shared/shared.module.css'
import styles from './find.module.css'

/** One asset found, with what of it matched. */
export function HitRow({ hit }: { hit: Schemas['Hit'] }) {
  return (
    <article className={styles.hit}>
      <div className={styles.hitHead}>
        <KindMark kind={hit.kind} />
        <strong className={styles.hitName}>
          <AssetLink refText={hit.ref} name={hit.title ?? hit.name} />
        </strong>
        <span className={shared.quiet}>{[hit.system, ...hit.container].join(' › ')}</span>
        {!hit.described && <em className={shared.quiet}>only mentioned</em>}
        {hit.retired && <em className={shared.bad}>retired</em>}
        <span className={shared.space} />
        {hit.dependents > 0 && (
          <span className={shared.quiet} title="assets that rest on it, near or far">
            {count(hit.dependents)} rest on it
          </span>
        )}
        <HealthMark health={hit.health} />
        <Labels labels={hit.labels} />
        <span className={shared.quiet}>{hit.owners.join(', ')}</span>
      </div>
      <div className={styles.hitWords}>
        {hit.description}
        {hit.columns.length > 0 && <span className={shared.thread}> columns: {hit.columns.join(', ')}</span>}
      </div>
    </article>
  )
}
