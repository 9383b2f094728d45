import { Link } from 'react-router'
import styles from './labels.module.css'

const LEVELS = ['', 'public within the house', 'internal', 'sensitive', 'very sensitive']

/** A label with as many bars as its level: the level is not shown by colour alone. */
export function LabelMark({ label, level }: { label: string; level: number }) {
  return (
    <Link
      to={`/labels?tab=label&label=${encodeURIComponent(label)}`}
      className={styles.mark}
      title={`Level ${level} of 4: ${LEVELS[level] ?? ''}`}
    >
      <span className={styles.level} aria-hidden>
        {'▮'.repeat(level)}
        <span className={styles.rest}>{'▯'.repeat(4 - level)}</span>
      </span>{' '}
      {label}
    </Link>
  )
}
