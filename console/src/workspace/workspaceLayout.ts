import type { Box, Line } from './queries'

export const BOX_HEIGHT = 42
export const ROW_GAP = 8
export const HEAD_HEIGHT = 26
const SWEEPS = 6
const MIN_GAP = 22

export type Place = { x: number; y: number }
export type Column = { title: string; x: number; refs: string[] }
export type Layout = {
  columns: Column[]
  places: Map<string, Place>
  boxWidth: number
  width: number
  height: number
}

const TITLES: Record<string, string> = {
  sources: 'Sources',
  steps: 'Preparation steps',
  models: 'Models',
  charts: 'Charts',
  pages: 'Reports and dashboards',
  beyond: 'Beyond',
}
const LAYERS = Object.keys(TITLES)

export function layerTitle(layer: string): string {
  return TITLES[layer] ?? layer
}

/**
 * Boxes in columns by layer, the steps by how many steps lie before them, each column ordered so that lines
 * cross little: every box near the middle of those it is linked with (barycentre heuristic).
 *
 * @see "Sugiyama, Tagawa, Toda: Methods for visual understanding of hierarchical system structures, 1981"
 */
export function layoutOf(boxes: Box[], lines: Line[], width: number): Layout {
  const columns = columnsOf(boxes)
  order(columns, lines)
  const most = Math.max(1, ...columns.map((column) => column.refs.length))
  const inner = most * (BOX_HEIGHT + ROW_GAP)
  const share = width / Math.max(1, columns.length)
  const boxWidth = Math.max(110, Math.min(220, share - Math.max(MIN_GAP, share * 0.14)))
  const gap = columns.length > 1 ? (width - boxWidth) / (columns.length - 1) : 0
  const places = new Map<string, Place>()
  columns.forEach((column, i) => {
    column.x = i * gap
    const top = HEAD_HEIGHT + (inner - column.refs.length * (BOX_HEIGHT + ROW_GAP)) / 2
    column.refs.forEach((ref, row) => {
      places.set(ref, { x: column.x, y: top + row * (BOX_HEIGHT + ROW_GAP) })
    })
  })
  return { columns, places, boxWidth, width, height: HEAD_HEIGHT + inner }
}

function columnsOf(boxes: Box[]): Column[] {
  const columns: Column[] = []
  for (const layer of LAYERS) {
    const ofLayer = boxes.filter((box) => box.layer === layer)
    const depths = [...new Set(ofLayer.map((box) => box.depth))].sort((a, b) => a - b)
    for (const depth of depths) {
      columns.push({
        title: depth === depths[0] ? layerTitle(layer) : '',
        x: 0,
        refs: ofLayer.filter((box) => box.depth === depth).map((box) => box.ref),
      })
    }
  }
  return columns
}

function order(columns: Column[], lines: Line[]) {
  const linked = new Map<string, string[]>()
  for (const { from, to } of lines) {
    linked.set(from, [...(linked.get(from) ?? []), to])
    linked.set(to, [...(linked.get(to) ?? []), from])
  }
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    const at = new Map<string, number>()
    for (const column of columns) {
      column.refs.forEach((ref, row) => {
        at.set(ref, (row + 0.5) / column.refs.length)
      })
    }
    const way = sweep % 2 === 0 ? columns : [...columns].reverse()
    for (const column of way) {
      const middle = (ref: string) => {
        const rows = (linked.get(ref) ?? []).flatMap((other) => at.get(other) ?? [])
        return rows.length === 0 ? (at.get(ref) ?? 0) : rows.reduce((a, b) => a + b, 0) / rows.length
      }
      const middles = new Map(column.refs.map((ref) => [ref, middle(ref)]))
      column.refs.sort((a, b) => (middles.get(a) ?? 0) - (middles.get(b) ?? 0))
      column.refs.forEach((ref, row) => {
        at.set(ref, (row + 0.5) / column.refs.length)
      })
    }
  }
}

/** All boxes on the threads through one, both ways, itself included. */
export function threadOf(lines: Line[], ref: string): Set<string> {
  const found = new Set([ref])
  for (const [here, there] of [
    ['to', 'from'],
    ['from', 'to'],
  ] as const) {
    const seen = new Set([ref])
    const open = [ref]
    while (open.length > 0) {
      const at = open.pop()
      for (const line of lines) {
        if (line[here] === at && !seen.has(line[there])) {
          seen.add(line[there])
          open.push(line[there])
        }
      }
    }
    for (const one of seen) found.add(one)
  }
  return found
}

/** A line from the right side of a box to the left side of another, as an SVG path. */
export function pathOf(from: Place, to: Place, boxWidth: number): string {
  const x1 = from.x + boxWidth
  const y1 = from.y + BOX_HEIGHT / 2
  const x2 = to.x
  const y2 = to.y + BOX_HEIGHT / 2
  if (x2 <= x1) {
    const bulge = 26
    return `M${x1} ${y1} C${x1 + bulge} ${y1} ${x1 + bulge} ${y2} ${from.x + boxWidth} ${y2}`
  }
  const bend = (x2 - x1) / 2
  return `M${x1} ${y1} C${x1 + bend} ${y1} ${x2 - bend} ${y2} ${x2} ${y2}`
}
