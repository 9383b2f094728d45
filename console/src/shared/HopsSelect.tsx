import { Select } from 'antd'
import shared from './shared.module.css'

/** More hops than any thread has. */
export const ALL_THE_WAY = 100

const HOPS = [1, 2, 3, 5, ALL_THE_WAY].map((n) => ({ value: n, label: hopWords(n) }))

function hopWords(n: number): string {
  if (n === ALL_THE_WAY) return 'all the way'
  return n === 1 ? '1 hop' : `${n} hops`
}

type Props = { value: number; onChange: (hops: number) => void }

/** How far to look, in links. */
export function HopsSelect({ value, onChange }: Props) {
  return (
    <Select
      size="small"
      aria-label="How far"
      className={shared.hops}
      value={value}
      onChange={onChange}
      options={HOPS}
    />
  )
}
