import type { Box, Line } from './queries'

export const BOX_HEIGHT = 42
export const ROW_GAP = 8
const MAX_ROW_GAP = 26
const PASS_HEIGHT = 6
export const HEAD_HEIGHT = 26
const SWEEPS = 12
const TRIES = 24
const FEW_LINES = 250
const MIN_GAP = 22

export type Place = { x: number; y: number }
export type Column = { title: string; x: number; refs: string[] }
export type Layout = {
  columns: Column[]
  places: Map<string, Place>
  paths: Map<string, string>
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

/** A row of a column: a box, or the room that a line needs which passes it. */
type Row = { ref: string; column: number; isBox: boolean }

/**
 * Boxes in columns by layer, the steps by how many steps lie before them, each column ordered so that lines
 * cross little: every box near the middle of those it is linked with (barycentre heuristic). A line that
 * passes a column gets a row of its own there, so that it never runs behind a box.
 *
 * @param height how much there is to be filled; a fuller picture is higher
 * @see "Sugiyama, Tagawa, Toda: Methods for visual understanding of hierarchical system structures, 1981"
 */
export function layoutOf(boxes: Box[], lines: Line[], width: number, height = 0): Layout {
  const titled = columnsOf(boxes)
  const at = new Map<string, number>()
  titled.forEach((column, i) => {
    for (const ref of column.refs) at.set(ref, i)
  })
  const rows: Row[][] = titled.map((column, i) => column.refs.map((ref) => ({ ref, column: i, isBox: true })))
  const wires = wiresOf(lines, at, rows)
  order(rows, wires)
  const share = width / Math.max(1, titled.length)
  const boxWidth = Math.max(110, Math.min(220, share - Math.max(MIN_GAP, share * 0.16)))
  const step = titled.length > 1 ? (width - boxWidth) / (titled.length - 1) : 0
  const gap = rowGap(rows, height)
  const heights = rows.map((column) => column.reduce((sum, row) => sum + rowHeight(row) + gap, 0))
  const inner = Math.max(...heights, 0)
  const places = new Map<string, Place>()
  rows.forEach((column, i) => {
    let y = HEAD_HEIGHT + (inner - heights[i]) / 2
    for (const row of column) {
      places.set(row.ref, { x: i * step, y })
      y += rowHeight(row) + gap
    }
  })
  return {
    columns: titled.map((column, i) => ({
      title: column.title,
      x: i * step,
      refs: rows[i].filter((row) => row.isBox).map((row) => row.ref),
    })),
    places,
    paths: pathsOf(lines, at, places, boxWidth),
    boxWidth,
    width,
    height: HEAD_HEIGHT + inner,
  }
}

function rowHeight(row: Row): number {
  return row.isBox ? BOX_HEIGHT : PASS_HEIGHT
}

function rowGap(rows: Row[][], height: number): number {
  const gaps = rows.map((column) => {
    const full = column.reduce((sum, row) => sum + rowHeight(row), 0)
    return (height - HEAD_HEIGHT - full) / Math.max(1, column.length)
  })
  return Math.max(ROW_GAP, Math.min(MAX_ROW_GAP, ...gaps))
}

/** The row of a line from one box in a column that it passes; lines from one box share it. */
function passing(from: string, to: string, at: Map<string, number>, column: number): string {
  return `${from} passes ${column} ${(at.get(to) ?? 0) - (at.get(from) ?? 0) > 0 ? '' : 'back'}`
}

/** The lines between neighbouring columns; adds the rows in which lines pass others. */
function wiresOf(lines: Line[], at: Map<string, number>, rows: Row[][]): [string, string][] {
  const wires: [string, string][] = []
  const known = new Set<string>()
  for (const { from, to } of lines) {
    const start = at.get(from)
    const end = at.get(to)
    if (start === undefined || end === undefined) continue
    let before = from
    for (let column = start + 1; column < end; column++) {
      const ref = passing(from, to, at, column)
      if (!known.has(ref)) rows[column].push({ ref, column, isBox: false })
      known.add(ref)
      wires.push([before, ref])
      before = ref
    }
    wires.push([before, to])
  }
  return wires
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

function order(columns: Row[][], wires: [string, string][]) {
  const linked = new Map<string, string[]>()
  for (const [from, to] of wires) {
    linked.set(from, [...(linked.get(from) ?? []), to])
    linked.set(to, [...(linked.get(to) ?? []), from])
  }
  const at = new Map<string, number>()
  const tries = wires.length <= FEW_LINES ? TRIES : 1
  const draw = numbersFrom(1)
  const note = (column: Row[]) =>
    column.forEach((row, i) => {
      at.set(row.ref, (i + 0.5) / column.length)
    })
  columns.forEach(note)
  let best = { crossings: crossingsOf(columns, wires), orders: columns.map((column) => [...column]) }
  for (let sweep = 0; sweep < SWEEPS * tries; sweep++) {
    // The heuristic ends in the nearest good order; from other beginnings it may find a better one.
    if (sweep > 0 && sweep % SWEEPS === 0) {
      for (const column of columns) {
        const keys = new Map(column.map((row) => [row.ref, draw()]))
        column.sort((a, b) => (keys.get(a.ref) ?? 0) - (keys.get(b.ref) ?? 0))
        note(column)
      }
    }
    for (const column of sweep % 2 === 0 ? columns : [...columns].reverse()) {
      const middles = new Map(column.map((row) => [row.ref, middleOf(row.ref, linked, at)]))
      column.sort((a, b) => (middles.get(a.ref) ?? 0) - (middles.get(b.ref) ?? 0))
      note(column)
    }
    const crossings = crossingsOf(columns, wires)
    if (crossings < best.crossings) best = { crossings, orders: columns.map((column) => [...column]) }
  }
  columns.forEach((column, i) => {
    column.splice(0, column.length, ...best.orders[i])
  })
}

/** Numbers from 0 to 1 that are the same for the same seed (mulberry32), so that a picture stays as it is. */
function numbersFrom(seed: number): () => number {
  let state = seed
  return () => {
    state = (state + 0x6d2b79f5) | 0
    let t = Math.imul(state ^ (state >>> 15), 1 | state)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
}

/** How many pairs of lines between neighbouring columns cross. */
function crossingsOf(columns: Row[][], wires: [string, string][]): number {
  const at = new Map<string, { column: number; row: number }>()
  columns.forEach((rows, column) => {
    rows.forEach(({ ref }, row) => {
      at.set(ref, { column, row })
    })
  })
  const ends = wires.flatMap(([from, to]) => {
    const start = at.get(from)
    const end = at.get(to)
    return start && end && end.column === start.column + 1
      ? [{ column: start.column, from: start.row, to: end.row }]
      : []
  })
  let crossings = 0
  ends.forEach((a, i) => {
    for (const b of ends.slice(i + 1)) {
      if (a.column === b.column && (a.from - b.from) * (a.to - b.to) < 0) crossings++
    }
  })
  return crossings
}

function middleOf(ref: string, linked: Map<string, string[]>, at: Map<string, number>): number {
  const rows = (linked.get(ref) ?? []).flatMap((other) => at.get(other) ?? [])
  return rows.length === 0 ? (at.get(ref) ?? 0) : rows.reduce((a, b) => a + b, 0) / rows.length
}

/** Each line as an SVG path, by its ends. */
function pathsOf(
  lines: Line[],
  at: Map<string, number>,
  places: Map<string, Place>,
  boxWidth: number,
): Map<string, string> {
  const paths = new Map<string, string>()
  for (const { from, to } of lines) {
    const start = places.get(from)
    const end = places.get(to)
    if (!start || !end) continue
    let path = `M${start.x + boxWidth} ${start.y + BOX_HEIGHT / 2}`
    let x = start.x + boxWidth
    let y = start.y + BOX_HEIGHT / 2
    const curve = (toX: number, toY: number) => {
      const bend = toX > x ? (toX - x) / 2 : 26
      path += ` C${x + bend} ${y} ${toX - (toX > x ? bend : -bend)} ${toY} ${toX} ${toY}`
      x = toX
      y = toY
    }
    for (let column = (at.get(from) ?? 0) + 1; column < (at.get(to) ?? 0); column++) {
      const pass = places.get(passing(from, to, at, column))
      if (!pass) continue
      curve(pass.x, pass.y + PASS_HEIGHT / 2)
      path += ` L${pass.x + boxWidth} ${pass.y + PASS_HEIGHT / 2}`
      x = pass.x + boxWidth
    }
    const isBack = end.x < x
    curve(isBack ? end.x + boxWidth : end.x, end.y + BOX_HEIGHT / 2)
    paths.set(lineKey(from, to), path)
  }
  return paths
}

export function lineKey(from: string, to: string): string {
  return `${from} → ${to}`
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
