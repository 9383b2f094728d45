import { ThreadPath } from '../shared/ThreadPath'
import styles from './labels.module.css'
import type { Leak } from './queries'

/** The way of a label to where it may not be, with the place at which a mask is missing. */
export function LeakThread({ leak }: { leak: Leak }) {
  const { unmasked } = leak
  return (
    <div className={styles.thread}>
      <ThreadPath hops={leak.thread} marked={unmasked} />
      {unmasked && (
        <p className={styles.unmasked}>
          <span aria-hidden>▲</span> A mask is missing between {unmasked.fromName} and {unmasked.toName}: it
          is the first step out of the places that a policy allows.
        </p>
      )}
      <p className={styles.there}>There: {leak.columns.map((column) => column.name).join(', ')}</p>
    </div>
  )
}
