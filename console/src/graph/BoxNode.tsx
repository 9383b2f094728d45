import { Handle, type NodeProps, Position } from '@xyflow/react'
import { useInks } from '../shared/useInks'
import { BOX_WIDTH, HEAD_HEIGHT, ROW_HEIGHT } from './layout'
import type { Box } from './picture'

export type BoxData = {
  box: Box
  columns: string[]
  hidden: number
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
  const ink = useInks()
  const { box } = data
  const bad = box.state === 'failed' || box.state === 'aborted'
  const job = box.kind === 'job' || box.kind === 'pipeline'
  return (
    <div
      style={{
        width: BOX_WIDTH,
        background: job ? ink.page : ink.panel,
        border: `1px ${box.described ? 'solid' : 'dashed'} ${data.picked ? ink.accent : ink.line}`,
        boxShadow: data.found
          ? `0 0 0 3px ${ink.thread}`
          : data.picked
            ? `0 0 0 1px ${ink.accent}`
            : undefined,
        borderTop: data.focus ? `4px solid ${ink.thread}` : undefined,
        opacity: data.dim ? 0.35 : 1,
        borderRadius: 3,
        color: ink.text,
        fontSize: 15,
      }}
    >
      <Handle type="target" position={Position.Left} id="in" style={{ top: HEAD_HEIGHT / 2 }} />
      <Handle type="source" position={Position.Right} id="out" style={{ top: HEAD_HEIGHT / 2 }} />
      <div style={{ height: HEAD_HEIGHT - 1, padding: '4px 8px', overflow: 'hidden' }} title={box.id}>
        <div style={{ display: 'flex', color: ink.quiet, fontSize: 11, lineHeight: '14px' }}>
          <span>
            {box.kind} · {box.system}
          </span>
          <span style={{ flex: 1 }} />
          {bad && <span style={{ color: ink.bad }}>■ {box.state}</span>}
          {!box.described && <em>only mentioned</em>}
        </div>
        <div
          style={{
            fontWeight: 600,
            lineHeight: '21px',
            whiteSpace: 'nowrap',
            textOverflow: 'ellipsis',
            overflow: 'hidden',
            textDecoration: box.retired ? 'line-through' : undefined,
          }}
        >
          {box.name}
        </div>
      </div>
      {data.columns.map((column) => (
        <ColumnRow key={column} data={data} column={column} />
      ))}
      {data.hidden > 0 && (
        <button type="button" className="nodrag" onClick={data.onMore} style={rowStyle(ink.quiet, ink.line)}>
          {data.hidden} more columns
        </button>
      )}
      <OpenMark side="left" n={box.moreUpstream} onOpen={() => data.onOpen('upstream')} />
      <OpenMark side="right" n={box.moreDownstream} onOpen={() => data.onOpen('downstream')} />
    </div>
  )
}

function rowStyle(color: string, line: string): React.CSSProperties {
  return {
    display: 'block',
    width: '100%',
    height: ROW_HEIGHT,
    border: 'none',
    borderTop: `1px solid ${line}`,
    background: 'transparent',
    color,
    padding: '0 8px',
    fontSize: 13,
    textAlign: 'left',
    cursor: 'pointer',
    position: 'relative',
    whiteSpace: 'nowrap',
    overflow: 'hidden',
    textOverflow: 'ellipsis',
  }
}

function ColumnRow({ data, column }: { data: BoxData; column: string }) {
  const ink = useInks()
  const lit = data.lit.has(`${data.box.id}#${column}`)
  return (
    <div style={{ position: 'relative' }}>
      <Handle type="target" position={Position.Left} id={`in#${column}`} />
      <button
        type="button"
        className="nodrag"
        aria-pressed={lit}
        onClick={(event) => {
          event.stopPropagation()
          data.onColumn(column)
        }}
        style={{
          ...rowStyle(lit ? ink.thread : ink.text, ink.line),
          fontWeight: lit ? 700 : 400,
          background: lit ? `${ink.thread}1c` : 'transparent',
        }}
        title={column}
      >
        {column}
      </button>
      <Handle type="source" position={Position.Right} id={`out#${column}`} />
    </div>
  )
}

function OpenMark({ side, n, onOpen }: { side: 'left' | 'right'; n: number; onOpen: () => void }) {
  const ink = useInks()
  if (n === 0) return null
  return (
    <button
      type="button"
      className="nodrag"
      aria-label={`open ${n} more ${side === 'left' ? 'upstream' : 'downstream'}`}
      onClick={(event) => {
        event.stopPropagation()
        onOpen()
      }}
      style={{
        position: 'absolute',
        top: 14,
        [side]: -15,
        minWidth: 26,
        height: 18,
        border: `1px solid ${ink.thread}`,
        background: ink.panel,
        color: ink.thread,
        borderRadius: 9,
        fontSize: 10,
        padding: '0 4px',
        cursor: 'pointer',
      }}
    >
      +{n}
    </button>
  )
}
