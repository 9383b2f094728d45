import { Handle, type NodeProps, Position } from '@xyflow/react'
import { healthLine } from '../health/HealthMark'
import { KindIcon } from '../shared/kinds'
import { Name } from '../shared/Name'
import styles from './graph.module.css'
import type { Box } from './picture'
import { HEAD_HEIGHT } from './sizes'

export type BoxData = {
  box: Box
  columns: string[]
  hidden: number
  facts: string[]
  focus: boolean
  picked: boolean
  found: boolean
  dim: boolean
  lit: Set<string>
  onOpen: (direction: 'upstream' | 'downstream') => void
  onColumn: (column: string) => void
  onMore: () => void
}

/** A place in the picture: what it is, its name, the columns shown, and what may be opened beyond it. */
export function BoxNode({ data }: NodeProps & { data: BoxData }) {
  const { box } = data
  const failed = box.state === 'failed' || box.state === 'aborted'
  const health = healthLine(box.health)
  return (
    <div className={boxClass(data)}>
      <Handle type="target" position={Position.Left} id="in" style={{ top: HEAD_HEIGHT - 12 }} />
      <Handle type="source" position={Position.Right} id="out" style={{ top: HEAD_HEIGHT - 12 }} />
      <div className={styles.head}>
        <div className={styles.meta}>
          <KindIcon kind={box.kind} />
          <span className={styles.metaName}>
            <Name text={box.kind === 'restricted' ? 'not in your grants' : box.system} />
          </span>
          {health ? (
            <span
              className={health.bad ? styles.failed : styles.doubtful}
              title={box.health?.inherited?.reason ?? box.health?.reason}
            >
              {health.words}
            </span>
          ) : (
            failed && <span className={styles.failed}>■ {box.state}</span>
          )}
          {!box.described && <em>only mentioned</em>}
        </div>
        <div className={box.retired ? `${styles.boxName} ${styles.retired}` : styles.boxName}>
          <Name text={box.name} title={box.id} />
        </div>
      </div>
      {data.facts.map((fact) => (
        <div key={fact} className={styles.fact} title={fact}>
          {fact}
        </div>
      ))}
      {data.columns.map((column) => (
        <ColumnRow key={column} data={data} column={column} />
      ))}
      {data.hidden > 0 && (
        <button type="button" className={`nodrag ${styles.column} ${styles.more}`} onClick={data.onMore}>
          {data.hidden} more columns
        </button>
      )}
      <OpenMark side="left" n={box.moreUpstream} onOpen={() => data.onOpen('upstream')} />
      <OpenMark side="right" n={box.moreDownstream} onOpen={() => data.onOpen('downstream')} />
    </div>
  )
}

function boxClass({ box, focus, picked, found, dim }: BoxData): string {
  const job = box.kind === 'job' || box.kind === 'pipeline'
  return [
    styles.box,
    job && styles.jobBox,
    box.count && styles.groupBox,
    !box.described && styles.mentioned,
    picked && styles.picked,
    found && styles.found,
    focus && styles.focus,
    box.change === 'added' && styles.added,
    box.change === 'removed' && styles.removed,
    dim && styles.dim,
  ]
    .filter(Boolean)
    .join(' ')
}

function ColumnRow({ data, column }: { data: BoxData; column: string }) {
  const lit = data.lit.has(`${data.box.id}#${column}`)
  return (
    <div className={styles.columnRow}>
      <Handle type="target" position={Position.Left} id={`in#${column}`} />
      <button
        type="button"
        className={`nodrag ${styles.column} ${lit ? styles.lit : ''}`}
        aria-pressed={lit}
        onClick={(event) => {
          event.stopPropagation()
          data.onColumn(column)
        }}
      >
        <Name text={column} />
      </button>
      <Handle type="source" position={Position.Right} id={`out#${column}`} />
    </div>
  )
}

function OpenMark({ side, n, onOpen }: { side: 'left' | 'right'; n: number; onOpen: () => void }) {
  if (n === 0) return null
  return (
    <button
      type="button"
      className={`nodrag ${styles.open} ${side === 'left' ? styles.openLeft : styles.openRight}`}
      aria-label={`open ${n} more ${side === 'left' ? 'upstream' : 'downstream'}`}
      onClick={(event) => {
        event.stopPropagation()
        onOpen()
      }}
    >
      +{n}
    </button>
  )
}
