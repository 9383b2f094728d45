import type { Schemas } from '../api/client'
import { moment, shortRef } from '../shared/format'
import styles from './causes.module.css'
import { whatWords } from './SuspectCard'

const MARGIN = 0.02 // of the width, left free at both ends

type Mark = { at: string; ref: string; what: string; suspect?: number }

/** Everything that deviated, in its order in time; suspects carry their number, effects a small mark. */
export function Timeline({ answer }: { answer: Schemas['CauseAnswer'] }) {
  const marks = marksOf(answer)
  const first = Math.min(...marks.map((mark) => Date.parse(mark.at)))
  const last = Date.parse(answer.at)
  const left = (at: string) =>
    `${100 * (MARGIN + (1 - 2 * MARGIN) * ((Date.parse(at) - first) / Math.max(1, last - first)))}%`
  return (
    <figure className={styles.timeline} aria-label="What deviated, in order">
      <div className={styles.track}>
        {marks.map((mark) => (
          <span
            key={`${mark.ref} ${mark.what} ${mark.at}`}
            className={mark.suspect ? styles.cause : styles.effect}
            style={{ left: left(mark.at) }}
            title={`${moment(mark.at)}: ${shortRef(mark.ref)} ${whatWords(mark.what)}`}
          >
            {mark.suspect}
          </span>
        ))}
        <span className={styles.now} style={{ left: left(answer.at) }} title={moment(answer.at)} />
      </div>
      <figcaption className={styles.caption}>
        <span>{moment(marks[0].at)}</span>
        <span>{moment(answer.at)}</span>
      </figcaption>
    </figure>
  )
}

/** Suspects and what follows from them, the earliest first. */
export function marksOf(answer: Schemas['CauseAnswer']): Mark[] {
  return [
    ...answer.suspects.map((suspect, i) => ({
      at: suspect.at,
      ref: suspect.ref,
      what: suspect.what,
      suspect: i + 1,
    })),
    ...answer.explained.map(({ at, ref, what }) => ({ at, ref, what })),
  ].sort((a, b) => a.at.localeCompare(b.at))
}
