import type { Schemas } from '../api/client'
import { moment, spoken } from '../shared/format'
import { AssetLink } from '../shared/marks'
import shared from '../shared/shared.module.css'
import styles from './health.module.css'

export type Health = Schemas['AssetHealth']

const CLASS: Record<string, string> = {
  healthy: shared.good,
  unusual: shared.wait,
  late: shared.wait,
  overdue: shared.bad,
  'check-failed': shared.bad,
  failed: shared.bad,
}
const SIGN: Record<string, string> = { healthy: '●', unknown: '?', unusual: '◆', late: '◆' }

/** A health word with its sign, and the reason on hover. */
export function StateWord({ state, reason }: { state: string; reason?: string }) {
  return (
    <span className={`${styles.word} ${CLASS[state] ?? shared.quiet}`} title={reason}>
      <span aria-hidden className={styles.sign}>
        {SIGN[state] ?? '■'}
      </span>
      {spoken(state)}
    </span>
  )
}

/** How an asset does: its own state, and apart from it what it inherits; notices count too. */
export function HealthMark({ health }: { health: Health | undefined }) {
  if (!health) return null
  const { inherited, notices } = health
  const plain = health.state === 'healthy' || health.state === 'unknown'
  return (
    <span className={styles.mark}>
      {!(inherited && plain) && <StateWord state={health.state} reason={health.reason} />}
      {inherited && (
        <span title={inherited.reason} className={CLASS[inherited.state]}>
          ↳ source {spoken(inherited.state)}
        </span>
      )}
      {notices.length > 0 && (
        <span className={notices[0].level === 'stop' ? shared.bad : shared.wait} title={notices[0].text}>
          ✎ {notices.length === 1 ? 'notice' : `${notices.length} notices`}
        </span>
      )}
    </span>
  )
}

/** The same in one short line, for a box of a picture; nothing where all is well. */
export function healthLine(health: Health | undefined): { words: string; bad: boolean } | undefined {
  if (!health) return undefined
  if (health.notices.some((notice) => notice.level === 'stop')) return { words: '✎ do not use', bad: true }
  const own = health.state
  if (own !== 'healthy' && own !== 'unknown')
    return { words: `${SIGN[own] ?? '■'} ${spoken(own)}`, bad: CLASS[own] === shared.bad }
  if (health.inherited) return { words: `↳ source ${spoken(health.inherited.state)}`, bad: false }
  return health.notices.length > 0 ? { words: '✎ notice', bad: false } : undefined
}

/** The reasons in full, for an asset's page. */
export function HealthReasons({ health, name }: { health: Health; name: string }) {
  const { inherited, notices } = health
  const own = health.state !== 'healthy' && health.state !== 'unknown'
  return (
    <>
      {notices.map((notice) => (
        <p
          key={notice.id}
          className={notice.level === 'stop' ? `${styles.notice} ${styles.stop}` : styles.notice}
        >
          <strong>{notice.level === 'stop' ? 'Do not use' : 'Notice'}</strong> {notice.text}{' '}
          <span className={shared.quiet}>
            {notice.by}
            {notice.name !== name && (
              <>
                , on <AssetLink refText={notice.of} name={notice.name} />
              </>
            )}
            {notice.until && `, until ${moment(notice.until)}`}
          </span>
          {notice.ticket && (
            <>
              {' '}
              <a href={notice.ticket}>Ticket</a>
            </>
          )}
        </p>
      ))}
      {own && (
        <p className={styles.reason}>
          <StateWord state={health.state} />: {health.reason}
          {health.since && <span className={shared.quiet}>, since {moment(health.since)}</span>}
        </p>
      )}
      {inherited && (
        <p className={styles.reason}>
          <StateWord state={inherited.state} /> upstream:{' '}
          <AssetLink refText={inherited.ref} name={inherited.name} />
          {inherited.reason.slice(inherited.name.length)}
          <span className={shared.quiet}>, since {moment(inherited.since)}</span>
        </p>
      )}
    </>
  )
}
