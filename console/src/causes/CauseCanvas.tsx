import { useMemo } from 'react'
import { useNavigate } from 'react-router'
import type { Schemas } from '../api/client'
import { LineageCanvas } from '../graph/LineageCanvas'
import { type Picture, pictureOf } from '../graph/picture'
import { useLineage } from '../graph/useLineage'
import { assetOf, assetPath, pagePath } from '../shared/format'
import styles from './causes.module.css'

const FACTS = ['freshness']
const nothing = () => {}

/** The part of the graph on which the suspects lie, with the health of each box. */
export function CauseCanvas({ answer }: { answer: Schemas['CauseAnswer'] }) {
  const navigate = useNavigate()
  const symptom = assetOf(answer.symptom.ref)
  const [view] = useLineage({
    ref: symptom,
    direction: 'upstream',
    hops: 20,
    detail: 'assets',
    opened: [],
  })
  const picture = useMemo(
    () => (view.data ? relevantTo(pictureOf([view.data]), answer) : undefined),
    [view.data, answer],
  )
  if (!picture || picture.boxes.length < 2) return null
  return (
    <section className={styles.canvas} aria-label="Relevant part of the graph">
      <LineageCanvas
        picture={picture}
        focus={symptom}
        picked={answer.suspects[0]?.ref}
        column={undefined}
        words=""
        found={undefined}
        facts={FACTS}
        whole
        onDrawn={nothing}
        onPick={nothing}
        onColumn={nothing}
        onOpen={nothing}
        onRecentre={(ref) => navigate(ref === symptom ? pagePath('graph', ref) : assetPath(ref))}
      />
    </section>
  )
}

/** Only the boxes on a suspect's thread, what follows from a suspect, and the symptom. */
export function relevantTo(picture: Picture, answer: Schemas['CauseAnswer']): Picture {
  const kept = new Set<string>([assetOf(answer.symptom.ref)])
  for (const suspect of answer.suspects) {
    kept.add(suspect.ref)
    for (const source of suspect.unobserved) kept.add(source.ref)
    for (const hop of suspect.thread) {
      kept.add(assetOf(hop.from))
      kept.add(assetOf(hop.to))
      if (hop.job) kept.add(hop.job)
    }
  }
  const boxes = picture.boxes
    .filter((box) => kept.has(box.id))
    .map((box) => ({ ...box, columns: [], moreUpstream: 0, moreDownstream: 0 }))
  const shown = new Set(boxes.map((box) => box.id))
  return { boxes, wires: picture.wires.filter((wire) => shown.has(wire.from) && shown.has(wire.to)) }
}
