import { Button, Popover } from 'antd'
import type { Schemas } from '../api/client'
import { isRestricted, moment, shortRef, spoken } from '../shared/format'
import { AssetLink, Owners } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { ThreadPath } from '../shared/ThreadPath'
import styles from './causes.module.css'
import { SuspectActions } from './SuspectActions'

const WHAT: Record<string, string> = {
  missing: 'did not run',
  late: 'runs longer than ever',
  empty: 'wrote no rows',
  slow: 'took longer than ever',
  'fewer-rows': 'wrote fewer rows',
  'more-rows': 'wrote more rows',
  'values-shifted': 'has other values',
  'schema-changed': 'has another schema',
  'code-changed': 'has other code',
  'check-failed': 'fails a check',
}

export function whatWords(what: string): string {
  return WHAT[what] ?? spoken(what)
}

/** One cause: what is wrong there, how much it explains, whom to call, and the thread from it. */
export function SuspectCard({
  suspect,
  place,
  symptom,
}: {
  suspect: Schemas['Suspect']
  place: number
  symptom: Schemas['Symptom']
}) {
  return (
    <article aria-label={`Suspect ${place}`} className={styles.suspect}>
      <div className={styles.head}>
        <strong>
          <AssetLink refText={suspect.ref} name={suspect.name} />
        </strong>
        {suspect.column && <code>{suspect.column}</code>}
        <span className={styles.what}>{whatWords(suspect.what)}</span>
        <span>since {moment(suspect.at)}</span>
        <span className={shared.space} />
        <ScoreParts suspect={suspect} />
      </div>
      {isRestricted(suspect.ref) ? (
        <p className={styles.line}>
          Your grants do not cover it. Tell whoever runs the catalog: they see what it is and whom to call.
        </p>
      ) : (
        <p className={styles.line}>{suspect.evidence}</p>
      )}
      {suspect.error && <p className={styles.error}>{suspect.error}</p>}
      {!isRestricted(suspect.ref) && (
        <p className={styles.line}>
          Owner <Owners owners={suspect.owners} />
        </p>
      )}
      {suspect.unobserved.map((source) => (
        <p key={source.ref} className={styles.line}>
          Nothing reports what writes <AssetLink refText={source.ref} name={source.name} />; ask{' '}
          <Owners owners={source.owners} />
        </p>
      ))}
      {suspect.affects > 0 && (
        <p className={styles.line}>
          Affects {suspect.affects} {suspect.affects === 1 ? 'asset' : 'assets'} downstream
          {suspect.affected.length > 0 && `, among them ${suspect.affected.join(', ')}`}
        </p>
      )}
      {suspect.explains.length > 0 && <Effects effects={suspect.explains} />}
      {suspect.toConfirm && (
        <p className={styles.advice}>
          To confirm: {suspect.toConfirm} To rule out: {suspect.toRuleOut}
        </p>
      )}
      <div className={styles.thread}>
        <ThreadPath hops={suspect.thread} />
      </div>
      <SuspectActions suspect={suspect} symptom={symptom} />
    </article>
  )
}

/** The score on demand: what it is the product of. */
function ScoreParts({ suspect }: { suspect: Schemas['Suspect'] }) {
  const { parts } = suspect
  const rows = [
    ['fits the symptom', parts.kind],
    ['still so', parts.time],
    ['certainty of the thread', parts.thread],
    ['share that it explains', parts.explains],
    ['rare there', parts.rarity],
  ] as const
  return (
    <Popover
      trigger={['click']}
      content={
        <dl className={styles.parts}>
          {rows.map(([words, share]) => (
            <div key={words}>
              <dt>{words}</dt>
              <dd>{share.toFixed(2)}</dd>
            </div>
          ))}
        </dl>
      }
    >
      <Button size="small" type="text">
        Score {suspect.score.toFixed(2)}
      </Button>
    </Popover>
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
