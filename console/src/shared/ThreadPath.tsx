import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { assetPath, isRestricted, shortRef, stepsPath } from './format'
import { Restricted } from './marks'
import styles from './shared.module.css'

/** A thread as a line of steps to be read from left to right, each with what was done on the way; one may be marked. */
export function ThreadPath({ hops, marked }: { hops: Schemas['Hop'][]; marked?: Schemas['Hop'] }) {
  if (hops.length === 0) return <span className={styles.quiet}>it is the changed asset itself</span>
  return (
    <ol aria-label="thread" className={styles.path}>
      <li className={styles.hop}>
        <Stop refText={hops[0].from} name={hops[0].fromName} />
      </li>
      {hops.map((hop) => (
        <li key={`${hop.from} ${hop.to} ${hop.flow}`} className={styles.hop}>
          <span className={isSame(hop, marked) ? styles.marked : undefined}>
            <How hop={hop} />
          </span>
          <Stop refText={hop.to} name={hop.toName} />
        </li>
      ))}
    </ol>
  )
}

function isSame(hop: Schemas['Hop'], marked: Schemas['Hop'] | undefined) {
  return marked !== undefined && hop.from === marked.from && hop.to === marked.to
}

/** What was done on the way; of a column, a way into the text that did it. */
function How({ hop }: { hop: Schemas['Hop'] }) {
  const words = `―${hop.how}${hop.masking ? ', masked' : ''}→`
  const isOpen = hop.job && !isRestricted(hop.job) && !isRestricted(hop.to)
  return hop.job && isOpen && hop.to.includes('#') ? (
    <Link to={stepsPath(hop.job, hop.to)} title={`Steps of ${hop.job}`} className={styles.how}>
      {words}
    </Link>
  ) : (
    <span className={styles.how} title={isOpen ? hop.job : undefined}>
      {words}
    </span>
  )
}

function Stop({ refText, name }: { refText: string; name: string }) {
  if (isRestricted(refText)) return <Restricted />
  return (
    <Link to={assetPath(refText)} title={refText} className={styles.stop}>
      {name.includes('#') || !refText.includes('#') ? name : shortRef(refText)}
    </Link>
  )
}
