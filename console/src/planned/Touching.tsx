import { Link } from 'react-router'
import { moment } from '../shared/format'
import shared from '../shared/shared.module.css'
import { planPath } from './PlannedPage'
import styles from './planned.module.css'
import { type Plan, usePlans } from './queries'

/** The open changes that touch an asset, on its page. */
export function Touching({ refText }: { refText: string }) {
  const plans = usePlans({ ref: refText }).data?.items ?? []
  const open = plans.filter((plan) => plan.state === 'proposed' || plan.state === 'agreed')
  if (open.length === 0) return null
  return (
    <section aria-label="Planned changes">
      {open.map((plan) => (
        <p key={plan.id} className={styles.touching}>
          <b>Change {plan.state}:</b> <Link to={planPath(plan.id)}>{plan.title}</Link>{' '}
          <span className={shared.quiet}>
            {plan.author}
            {plan.planned && `, for ${moment(plan.planned)}`}, {verdictWords(plan)}
          </span>
        </p>
      ))}
    </section>
  )
}

function verdictWords({ verdicts }: Plan): string {
  const breaks = verdicts.breaks ?? 0
  const stale = verdicts['goes-stale'] ?? 0
  const shift = (verdicts['values-shift'] ?? 0) + (verdicts['rows-shift'] ?? 0)
  return `${breaks} break, ${stale} go stale, ${shift} shift`
}
