import type { Schemas } from '../api/client'
import { assetOf, isRestricted } from '../shared/format'

type View = Schemas['View']

/**
 * A place in the picture: an asset, a job or a system, with those of its columns that are shown.
 * Its hops count from the focus, negative upstream.
 */
export type Box = {
  id: string
  kind: string
  name: string
  system: string
  /** The schema, folder, workspace or pipeline it is in. */
  place: string | undefined
  description: string | undefined
  hops: number
  described: boolean
  retired: boolean
  state: string | undefined
  /** When the newest run that wrote it completed. */
  written: string | undefined
  /** How many rows that run wrote. */
  rows: number | undefined
  checks: number | undefined
  failedChecks: number | undefined
  owners: string[]
  labels: string[]
  terms: string[]
  health?: Schemas['AssetHealth']
  columns: string[]
  moreUpstream: number
  moreDownstream: number
  /** How many boxes it stands for, if it is a group. */
  count?: number
  /** Whether it is new at the moment that is shown, or ended then. */
  change?: 'added' | 'removed'
}

/** A line of the picture, between boxes or between columns of them. */
export type Wire = {
  id: string
  from: string
  to: string
  fromColumn: string | undefined
  toColumn: string | undefined
  flow: string
  how: string
  masking: boolean
  job: string | undefined
  evidence: string
  /** Whether it began at the moment that is shown, or ended then. */
  change?: 'added' | 'removed'
}

export type Picture = { boxes: Box[]; wires: Wire[] }

/** Lays several views together: each place and each line once, columns inside their assets. */
export function pictureOf(views: View[]): Picture {
  const boxes = new Map<string, Box>()
  const wires = new Map<string, Wire>()
  for (const view of views) {
    for (const node of view.nodes) addNode(boxes, node)
    for (const link of view.links) {
      const wire = wireOf(link)
      if (wire.from !== wire.to) wires.set(wire.id, wire)
    }
  }
  const all = [...wires.values()].filter((wire) => boxes.has(wire.from) && boxes.has(wire.to))
  // What was beyond one view may be shown by another: only what is still hidden may be opened.
  const shownUp = neighbours(all, 'to', 'from')
  const shownDown = neighbours(all, 'from', 'to')
  for (const box of boxes.values()) {
    if (views.length > 1) {
      box.moreUpstream = Math.max(0, box.moreUpstream - (shownUp.get(box.id)?.size ?? 0))
      box.moreDownstream = Math.max(0, box.moreDownstream - (shownDown.get(box.id)?.size ?? 0))
    }
  }
  return { boxes: [...boxes.values()], wires: withoutRepeats(all) }
}

function addNode(boxes: Map<string, Box>, node: Schemas['ViewNode']) {
  const id = assetOf(node.ref)
  const known = boxes.get(id)
  const hops = node.side === 'upstream' ? -node.hops : node.hops
  const box = known ?? {
    id,
    kind: node.kind,
    name: node.name,
    system: node.system,
    place: node.place,
    description: node.description,
    hops,
    described: node.described,
    retired: node.retired,
    state: node.state,
    written: node.written,
    rows: node.rows,
    checks: node.checks,
    failedChecks: node.failedChecks,
    owners: node.owners,
    labels: node.labels,
    terms: node.terms,
    health: node.health,
    columns: [],
    moreUpstream: node.moreUpstream,
    moreDownstream: node.moreDownstream,
  }
  if (node.column && node.column !== '*' && !box.columns.includes(node.column)) box.columns.push(node.column)
  if (Math.abs(hops) < Math.abs(box.hops)) box.hops = hops
  boxes.set(id, box)
}

function columnOf(ref: string): string | undefined {
  const hash = ref.indexOf('#')
  const column = hash < 0 || isRestricted(ref) ? undefined : ref.slice(hash + 1)
  return column === '*' ? undefined : column
}

function wireOf(link: Schemas['ViewLink']): Wire {
  return {
    id: `${link.from}→${link.to}→${link.job ?? ''}`,
    from: assetOf(link.from),
    to: assetOf(link.to),
    fromColumn: columnOf(link.from),
    toColumn: columnOf(link.to),
    flow: link.flow,
    how: link.how,
    masking: link.masking,
    job: link.job,
    evidence: link.evidence,
  }
}

/** Where columns are drawn, the line between their whole assets says nothing more. */
function withoutRepeats(wires: Wire[]): Wire[] {
  const fine = new Set(wires.filter((w) => w.fromColumn && w.toColumn).map((w) => `${w.from} ${w.to}`))
  return wires.filter((w) => w.fromColumn || w.toColumn || !fine.has(`${w.from} ${w.to}`))
}

function neighbours(wires: Wire[], at: 'from' | 'to', other: 'from' | 'to'): Map<string, Set<string>> {
  const found = new Map<string, Set<string>>()
  for (const wire of wires) {
    const set = found.get(wire[at]) ?? new Set()
    set.add(wire[other])
    found.set(wire[at], set)
  }
  return found
}

export type Lit = { columns: Set<string>; wires: Set<string> }

/** The columns and lines on every path through a column, both ways, among what is shown. */
export function litBy(picture: Picture, column: string | undefined): Lit {
  const lit: Lit = { columns: new Set(), wires: new Set() }
  if (!column) return lit
  for (const way of ['up', 'down'] as const) {
    const open = [column]
    const seen = new Set(open)
    while (open.length > 0) {
      const at = open.pop() as string
      lit.columns.add(at)
      for (const wire of picture.wires) {
        const from = `${wire.from}#${wire.fromColumn ?? ''}`
        const to = `${wire.to}#${wire.toColumn ?? ''}`
        const [here, there] = way === 'up' ? [to, from] : [from, to]
        if (here !== at) continue
        lit.wires.add(wire.id)
        if (!seen.has(there)) {
          seen.add(there)
          open.push(there)
        }
      }
    }
  }
  return lit
}

/** The columns a box shows: the lit ones first, and no more than fit unless it is opened. */
export function shownColumns(box: Box, lit: Set<string>, most: number): string[] {
  const isLit = (column: string) => lit.has(`${box.id}#${column}`)
  const ordered = [...box.columns.filter(isLit), ...box.columns.filter((column) => !isLit(column))]
  return ordered.slice(0, Math.max(most, box.columns.filter(isLit).length))
}

/** Whether words typed into the picture's search mean this box. */
export function matches(box: Box, words: string): boolean {
  const text = [box.name, box.id, box.system, box.kind, ...box.columns, ...box.owners].join(' ').toLowerCase()
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word))
}
