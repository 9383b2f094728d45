import { Button, Slider, Spin } from 'antd'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { moment } from '../shared/format'
import styles from './graph.module.css'

export type Moment = Schemas['Moment']

type Props = {
  moments: Moment[] | undefined
  /** The place of the moment shown; behind the last of them is now. */
  at: number
  refText: string
  onAt: (moment: Moment | undefined) => void
  onClose: () => void
}

/** The moments at which links changed, as a slider; the picture shows the chosen one. */
export function TimeSlider({ moments, at, refText, onAt, onClose }: Props) {
  if (!moments) return <Spin size="small" />
  if (moments.length === 0) {
    return (
      <div className={styles.time}>
        No link around it has begun or ended yet.
        <Button size="small" onClick={onClose}>
          Close
        </Button>
      </div>
    )
  }
  const shown = moments[at]
  const before = moments[at - 1]
  return (
    <section className={styles.time} aria-label="Time">
      <Button
        size="small"
        aria-label="Moment before"
        disabled={at === 0}
        onClick={() => onAt(moments[at - 1])}
      >
        ◂
      </Button>
      <Slider
        className={styles.timeSlider}
        min={0}
        max={moments.length}
        value={at}
        step={1}
        tooltip={{ formatter: (value) => wordsAt(moments, value) }}
        ariaLabelForHandle="Moment"
        ariaValueTextFormatterForHandle={(value) => wordsAt(moments, value)}
        onChange={(value) => onAt(moments[value])}
      />
      <Button
        size="small"
        aria-label="Moment after"
        disabled={at >= moments.length}
        onClick={() => onAt(moments[at + 1])}
      >
        ▸
      </Button>
      <span className={styles.timeWords}>{momentWords(shown)}</span>
      {shown && before && (
        <Link to={comparePath(refText, before.at, shown.at)}>Compare with the moment before</Link>
      )}
      <Button size="small" onClick={onClose}>
        Close
      </Button>
    </section>
  )
}

function wordsAt(moments: Moment[], at: number | undefined): string {
  const shown = at === undefined ? undefined : moments[at]
  return shown ? moment(shown.at) : 'now'
}

/** What happened at a moment, in words. */
export function momentWords(shown: Moment | undefined): string {
  if (!shown) return 'now'
  const what = [shown.added > 0 && `${shown.added} new`, shown.ended > 0 && `${shown.ended} ended`].filter(
    Boolean,
  )
  const others = shown.by.length - 1
  return `${moment(shown.at)}: ${what.join(', ')}, by ${shown.by[0]}${others > 0 ? ` and ${others} more` : ''}`
}

/** The address of the page that compares two moments around an asset. */
export function comparePath(ref: string, from: string, to?: string): string {
  const query = new URLSearchParams({ ref, from })
  if (to) query.set('to', to)
  return `/compare?${query}`
}
