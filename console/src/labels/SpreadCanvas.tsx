import { useMemo } from 'react'
import { useNavigate } from 'react-router'
import { LineageCanvas } from '../graph/LineageCanvas'
import { assetPath } from '../shared/format'
import styles from './labels.module.css'
import type { LabelledPlace } from './queries'
import { spreadOf } from './spread'

const nothing = () => {}

/** How far a label travelled, from where it is set to what has it. */
export function SpreadCanvas({ places }: { places: LabelledPlace[] }) {
  const navigate = useNavigate()
  const picture = useMemo(() => spreadOf(places), [places])
  if (picture.boxes.length < 2) return null
  return (
    <section className={styles.canvas} aria-label="Spread of the label">
      <LineageCanvas
        picture={picture}
        focus={picture.boxes[0].id}
        picked={undefined}
        column={undefined}
        words=""
        found={undefined}
        facts={[]}
        whole
        onDrawn={nothing}
        onPick={(id) => navigate(assetPath(id))}
        onColumn={nothing}
        onOpen={nothing}
        onRecentre={nothing}
      />
    </section>
  )
}
