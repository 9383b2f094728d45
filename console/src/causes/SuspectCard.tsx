import { Progress } from 'antd'
import type { Schemas } from '../api/client'
import { moment, shortRef, spoken } from '../shared/format'
import { AssetLink, Owners } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { ThreadPath } from '../shared/ThreadPath'
import { useInks } from '../shared/useInks'
import styles from './causes.module.css'

const WHAT: Record<string, string> = {
  missing: 'did not run',
  late: 'runs longer than ever',
  empty: 'wrote no rows',
  'check-failed': 'fails a check',
}

export function whatWords(what: string): string {
  return WHAT[what] ?? spoken(what)
}

/** One cause: what is wrong there, how much it explains, whom to call, and the thread from it. */
export function SuspectCard({ suspect, place }: { suspect: Schemas['Suspect']; place: number }) {
  const ink = useInks()
  return (
    <article aria-label={`Suspect ${place}`} className={styles.suspect}>
      <div className={styles.head}>
        <strong>
          <AssetLink refText={suspect.ref} name={suspect.name} />
        </strong>
        <span className={styles.what}>{whatWords(suspect.what)}</span>
        <span>since {moment(suspect.at)}</span>
        <span className={shared.space} />
        <span className={styles.share} title="share of the incidents on these threads that it explains">
          <Progress
            percent={Math.round(suspect.score * 100)}
            format={(share) => `${share}%`}
            size="small"
            strokeColor={ink.thread}
          />
        </span>
      </div>
      <p className={styles.line}>{suspect.evidence}</p>
      {suspect.error && <p className={styles.error}>{suspect.error}</p>}
      <p className={styles.line}>
        Owner <Owners owners={suspect.owners} />
      </p>
      {suspect.explains.length > 0 && <Effects effects={suspect.explains} />}
      <div className={styles.thread}>
        <ThreadPath hops={suspect.thread} />
      </div>
    </article>
  )
}

function Effects({ effects }: { effects: Schemas['Incident'][] }) {
  return (
    <details open className={styles.effects}>
      <summary className={styles.effectsHead}>
        explains {effects.length} {effects.length === 1 ? 'other incident' : 'other incidents'} downstream
      </summary>
      <ul className={styles.effectList}>
        {effects.map((effect) => (
          <li key={`${effect.ref} ${effect.what} ${effect.at}`}>
            <AssetLink refText={effect.ref} name={shortRef(effect.ref)} /> {whatWords(effect.what)},{' '}
            {moment(effect.at)}
            {effect.error && <span className={shared.quiet}>: {effect.error}</span>}
          </li>
        ))}
      </ul>
    </details>
  )
}
