import { useEffect, useMemo, useRef } from 'react'
import type { Choosing } from './Chip'
import { type Statement, stretches } from './path'
import styles from './sql.module.css'

type Props = Choosing & { text: string; statement: Statement }

/** The text, with what computes the chosen column lit; a click in it chooses what it computes. */
export function SqlText({ text, statement, path, chosen, choose }: Props) {
  const box = useRef<HTMLPreElement>(null)
  const parts = useMemo(() => stretches(text, statement, path), [text, statement, path])
  useEffect(() => {
    if (chosen) box.current?.querySelector('mark')?.scrollIntoView({ block: 'nearest' })
  }, [chosen])
  return (
    <pre ref={box} className={`code ${styles.text}`} data-part="sql">
      {parts.map(({ start, text: words, lit, keys }) => {
        if (keys.length === 0) return <span key={start}>{words}</span>
        const Tag = lit ? 'mark' : 'span'
        return (
          <Tag
            key={start}
            onClick={() => choose(keys[0])}
            className={`${styles.part} ${lit ? styles.lit : ''}`}
          >
            {words}
          </Tag>
        )
      })}
    </pre>
  )
}
