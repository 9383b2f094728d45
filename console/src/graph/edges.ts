import { type Edge, MarkerType } from '@xyflow/react'
import type { Inks } from '../theme'
import type { Wire } from './picture'

/** Flows by which a source only decides what stands in the target, or which rows there are. */
const DECIDING = ['JOIN', 'FILTER', 'GROUP_BY', 'SORT', 'WINDOW', 'CONDITIONAL', 'INDIRECT']

/** Flows of which a line says nothing: most steps only copy, and a word on each would hide the others. */
const UNSPOKEN = ['IDENTITY', 'HOLDS']

/** A wire as a line between boxes, or between columns where both show theirs. */
export function edgeOf(
  wire: Wire,
  columns: Map<string, string[]>,
  isLit: boolean,
  anyLit: boolean,
  ink: Inks,
  names: Map<string, string>,
): Edge {
  const shows = (box: string, column: string | undefined) =>
    column !== undefined && columns.get(box)?.includes(column)
  const color = isLit ? ink.thread : changeInk(wire, ink)
  const tip = isLit ? 9 : 14
  return {
    id: wire.id,
    source: wire.from,
    target: wire.to,
    sourceHandle: shows(wire.from, wire.fromColumn) ? `out#${wire.fromColumn}` : 'out',
    targetHandle: shows(wire.to, wire.toColumn) ? `in#${wire.toColumn}` : 'in',
    ariaLabel: `${names.get(wire.from)} ${wire.how} ${names.get(wire.to)}`,
    label: labelOf(wire, isLit),
    labelStyle: { fill: wire.change ? changeInk(wire, ink) : ink.thread, fontSize: 15 },
    labelBgStyle: { fill: ink.page },
    markerEnd: { type: MarkerType.ArrowClosed, color, width: tip, height: tip },
    style: {
      stroke: color,
      strokeWidth: isLit || wire.change ? 2.2 : 1,
      opacity: anyLit && !isLit ? 0.25 : 0.85,
      strokeDasharray: dashes(wire),
    },
  }
}

const CHANGE_WORDS = { added: 'new', removed: 'ended' } as const

function changeInk(wire: Wire, ink: Inks): string {
  if (wire.change === 'added') return ink.good
  return wire.change === 'removed' ? ink.bad : ink.quiet
}

function labelOf(wire: Wire, isLit: boolean): string | undefined {
  if (wire.change) return CHANGE_WORDS[wire.change]
  return isLit && !UNSPOKEN.includes(wire.flow) ? wire.how : undefined
}

function dashes(wire: Wire): string | undefined {
  if (wire.change === 'removed') return '3 4'
  if (wire.flow === 'HOLDS') return '2 4'
  if (wire.evidence === 'recorded') return '10 3 2 3'
  return DECIDING.includes(wire.flow) || wire.evidence === 'declared' ? '6 3' : undefined
}

/** The reference of a line's end: that of the column where it was drawn from one, else of the box. */
export function endOf(box: string | null, handle: string | null | undefined): string {
  const hash = handle?.indexOf('#') ?? -1
  return hash < 0 || !handle ? (box ?? '') : `${box}#${handle.slice(hash + 1)}`
}
