import { Empty } from 'antd'
import { useEffect, useMemo, useRef, useState } from 'react'
import { healthLine } from '../health/HealthMark'
import { KindIcon } from '../shared/kinds'
import { Name } from '../shared/Name'
import type { SvgPicture } from '../shared/svgText'
import type { Box, Workspace } from './queries'
import { inTrouble, isFailed, placeWords, stateWords } from './state'
import styles from './workspace.module.css'
import { BOX_HEIGHT, layoutOf, lineKey } from './workspaceLayout'

type Props = {
  workspace: Workspace
  boxes: Box[]
  picked: string | undefined
  onPick: (ref: string) => void
}

/** Draws a workspace in layers from left to right; choosing a box narrows it to its thread. */
export function WorkspacePicture({ workspace, boxes, picked, onPick }: Props) {
  const [frame, { width, height }] = useSize()
  const shown = useMemo(() => new Set(boxes.map((box) => box.ref)), [boxes])
  const lines = useMemo(
    () => workspace.lines.filter((line) => shown.has(line.from) && shown.has(line.to)),
    [workspace, shown],
  )
  const layout = useMemo(() => layoutOf(boxes, lines, width, height), [boxes, lines, width, height])
  if (boxes.length === 0) {
    return <Empty description="Nothing is left of it. Take a filter away to see more." />
  }
  return (
    <div ref={frame} className={styles.picture}>
      <div style={{ height: layout.height }}>
        <svg className={styles.lines} width={layout.width} height={layout.height} aria-hidden>
          <title>Lines</title>
          {lines.map((line) => {
            const path = layout.paths.get(lineKey(line.from, line.to))
            const isLit = line.from === picked || line.to === picked
            return path ? (
              <path
                key={lineKey(line.from, line.to)}
                d={path}
                className={`${styles.line} ${line.holds ? styles.holds : ''} ${isLit ? styles.lit : ''}`}
              />
            ) : null
          })}
        </svg>
        {layout.columns.map((column) => (
          <div key={`${column.x}`} className={styles.columnTitle} style={{ left: column.x }}>
            {column.title}
          </div>
        ))}
        {boxes.map((box) => {
          const place = layout.places.get(box.ref)
          return place ? (
            <button
              key={box.ref}
              type="button"
              className={classOf(box, picked)}
              style={{ left: place.x, top: place.y, width: layout.boxWidth }}
              title={hoverOf(box, workspace)}
              aria-label={`${box.kind} ${box.name}`}
              aria-pressed={box.ref === picked}
              onClick={() => onPick(box.ref)}
            >
              <span className={styles.boxName}>
                <KindIcon kind={box.kind === 'step' ? 'job' : box.kind} /> <Name text={box.name} />
              </span>
              <span className={styles.boxNote}>{noteOf(box, workspace)}</span>
            </button>
          ) : null
        })}
      </div>
    </div>
  )
}

const FILE_WIDTH = 1240

/** The boxes of a workspace as a picture to take away. */
export function svgOf(workspace: Workspace, boxes: Box[]): SvgPicture {
  const refs = new Set(boxes.map((box) => box.ref))
  const lines = workspace.lines.filter((line) => refs.has(line.from) && refs.has(line.to))
  const layout = layoutOf(boxes, lines, FILE_WIDTH)
  return {
    boxes: boxes.flatMap((box) => {
      const place = layout.places.get(box.ref)
      return place
        ? [
            {
              ...place,
              width: layout.boxWidth,
              height: BOX_HEIGHT,
              title: box.name,
              lines: [noteOf(box, workspace)],
              dashed: !box.matched,
              marked: inTrouble(box),
            },
          ]
        : []
    }),
    paths: lines.flatMap((line) => {
      const d = layout.paths.get(lineKey(line.from, line.to))
      return d ? [{ d, dashed: line.holds }] : []
    }),
  }
}

function noteOf(box: Box, workspace: Workspace): string {
  const health = isFailed(box) ? undefined : healthLine(box.health)
  return health ? `${health.words} · ${plainNoteOf(box, workspace)}` : plainNoteOf(box, workspace)
}

function plainNoteOf(box: Box, workspace: Workspace): string {
  const place = placeWords(box, workspace)
  const state = stateWords(box)
  if (box.reuses) return state ? `reused · ${state}` : 'reused, not computed'
  if (place) return box.matched ? place : `${box.system} · not matched`
  return state ?? (box.layer === 'models' ? 'read at every look' : box.kind)
}

function hoverOf(box: Box, workspace: Workspace): string {
  const { health } = box
  const why = healthLine(health) && (health?.inherited?.reason ?? health?.reason)
  return [box.name, placeWords(box, workspace), stateWords(box), box.refresh?.error, why, box.ref]
    .filter(Boolean)
    .join('\n')
}

function classOf(box: Box, picked: string | undefined): string {
  const isOutside = box.layer === 'sources' || box.layer === 'beyond'
  return [
    styles.box,
    isOutside && styles.outside,
    !box.matched && styles.unmatched,
    isFailed(box) ? styles.failedBox : inTrouble(box) && styles.affected,
    box.ref === picked && styles.picked,
  ]
    .filter(Boolean)
    .join(' ')
}

/** The room there is for the picture, as it changes. */
function useSize(): [React.RefObject<HTMLDivElement | null>, { width: number; height: number }] {
  const frame = useRef<HTMLDivElement>(null)
  const [size, setSize] = useState({ width: 1200, height: 600 })
  useEffect(() => {
    const element = frame.current
    if (!element) return
    const observer = new ResizeObserver(([entry]) => {
      const { width } = entry.contentRect
      setSize({ width, height: entry.target.parentElement?.clientHeight ?? 0 })
    })
    observer.observe(element)
    return () => observer.disconnect()
  }, [])
  return [frame, size]
}
