import { Tooltip } from 'antd'
import type { ReactNode } from 'react'
import { keyOf, type Path } from './path'
import styles from './sql.module.css'

/** The column that was chosen, what carries or decides it, and the way to choose another. */
export type Choosing = { path: Path; chosen: string | undefined; choose: (key: string) => void }

type Props = Choosing & { of: string; column: string; hint: string; children?: ReactNode }

/** One column of a step: lit if it carries the chosen one's values, dashed if it only decides. */
export function Chip({ of, column, hint, path, chosen, choose, children }: Props) {
  const key = keyOf(of, column)
  const part = path.carries.has(key) ? 'carries' : path.decides.has(key) ? 'decides' : undefined
  const look = part ? styles[part] : chosen ? styles.aside : ''
  return (
    <Tooltip title={hint}>
      <button
        type="button"
        aria-pressed={key === chosen}
        data-lit={part}
        onClick={() => choose(key)}
        className={`${styles.column} ${look}`}
      >
        {column}
        {children}
      </button>
    </Tooltip>
  )
}
