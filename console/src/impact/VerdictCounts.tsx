import type { Schemas } from '../api/client'
import { count } from '../shared/format'
import { VerdictMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import styles from './impact.module.css'

const VERDICTS = ['breaks', 'goes-stale', 'values-shift', 'rows-shift'] as const

type Props = {
  answer: Schemas['ImpactAnswer']
  chosen: string | undefined
  onChoose: (verdict: string | undefined) => void
}

/** How many assets get which verdict; choosing one lists only these. */
export function VerdictCounts({ answer, chosen, onChoose }: Props) {
  return (
    <div className={styles.counts}>
      {VERDICTS.map((verdict) => (
        <button
          key={verdict}
          type="button"
          aria-pressed={chosen === verdict}
          onClick={() => onChoose(chosen === verdict ? undefined : verdict)}
          className={`${styles.count} ${chosen === verdict ? styles.chosen : ''}`}
        >
          <span className={styles.number}>{count(answer.summary.verdicts[verdict] ?? 0)}</span>
          <VerdictMark verdict={verdict} certainty="certain" />
        </button>
      ))}
      <div className={styles.count}>
        <span className={styles.number}>{count(answer.untouched.count)}</span>
        <VerdictMark verdict="untouched" certainty="certain" />
        <small className={shared.quiet}> {count(answer.untouched.certain)} certain</small>
      </div>
    </div>
  )
}
