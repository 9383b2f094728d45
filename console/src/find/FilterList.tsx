import { Button } from 'antd'
import styles from './find.module.css'

const MAX_VALUES = 14

type Props = {
  name: string
  counts: Record<string, number>
  chosen: string | undefined
  onChoose: (value: string | undefined) => void
}

/** The values of one filter with how many hits each leaves; a second click takes the choice back. */
export function FilterList({ name, counts, chosen, onChoose }: Props) {
  const values = Object.entries(counts).sort((a, b) => b[1] - a[1])
  if (values.length === 0) return null
  return (
    <fieldset className={styles.filter}>
      <legend className={styles.filterName}>{name}</legend>
      {values.slice(0, MAX_VALUES).map(([value, n]) => (
        <Button
          key={value}
          size="small"
          block
          type={chosen === value ? 'primary' : 'text'}
          aria-pressed={chosen === value}
          onClick={() => onChoose(chosen === value ? undefined : value)}
          className={styles.filterValue}
        >
          <span>{value}</span>
          <span className={styles.filterCount}>{n}</span>
        </Button>
      ))}
    </fieldset>
  )
}
