import styles from './shared.module.css'

const TAIL = 10

/**
 * A name in the room there is: if it does not fit, its middle is left out, since names differ at their
 * ends. The whole shows on hover.
 */
export function Name({ text, title }: { text: string; title?: string }) {
  const tail = text.length > 2 * TAIL ? TAIL : 0
  return (
    <span className={styles.name} title={title ?? text}>
      <span className={styles.nameHead}>{text.slice(0, text.length - tail)}</span>
      {tail > 0 && <span className={styles.nameTail}>{text.slice(-tail)}</span>}
    </span>
  )
}
