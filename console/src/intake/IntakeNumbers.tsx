import { Alert } from 'antd'
import type { Schemas } from '../api/client'
import { ago, count, moment } from '../shared/format'
import shared from '../shared/shared.module.css'
import styles from './intake.module.css'
import { MinuteBars } from './MinuteBars'

/** How intake stands: its counts, its queue, and the last hour. */
export function IntakeNumbers({ intake }: { intake: Schemas['Intake'] }) {
  const queued = intake.waiting > 0 ? `, ${intake.lagSeconds.toFixed(1)} s` : ''
  return (
    <>
      {intake.unreachableSince && (
        <Alert
          type="error"
          showIcon
          className={shared.below}
          title={`Database unreachable since ${moment(intake.unreachableSince)}. Events are refused until it answers; this page shows the state of then.`}
        />
      )}
      <div className={styles.head}>
        <dl className={styles.numbers}>
          <Amount name="received" value={count(intake.received)} />
          <Amount name="applied" value={count(intake.applied)} />
          <Amount name="repeated" value={count(intake.duplicates)} />
          <Amount name="refused" value={count(intake.refused)} bad={intake.refused > 0} />
          <Amount name="queued" value={count(intake.waiting) + queued} />
          <Amount name="newest" value={ago(intake.newest)} />
        </dl>
        <span className={shared.space} />
        <div className={styles.minutes}>
          <MinuteBars minutes={intake.minutes} />
        </div>
      </div>
    </>
  )
}

function Amount({ name, value, bad }: { name: string; value: string; bad?: boolean }) {
  return (
    <div>
      <dt className={styles.name}>{name}</dt>
      <dd className={`${styles.value} ${bad ? shared.bad : ''}`}>{value}</dd>
    </div>
  )
}
