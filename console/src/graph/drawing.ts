import type { Inks } from '../theme'
import type { Places } from './layout'
import type { Box, Picture } from './picture'
import { BOX_WIDTH, HEAD_HEIGHT } from './sizes'

/** What is seen of a picture: the point of it in the upper left corner, and the zoom. */
export type Eye = { x: number; y: number; zoom: number }

/** Below this zoom names cannot be read and are not drawn. */
const NAMES_FROM = 0.35
const CELL = 600
const MOST_MOVING = 500

/** The boxes and lines of a large picture with their places, ready to be drawn many times a second. */
export type Sheet = {
  boxes: Box[]
  at: Float64Array
  lines: Int32Array
  /** The numbers of the boxes in each cell of a grid, so that a click and a frame look at few. */
  grid: Map<string, number[]>
  numberOf: Map<string, number>
}

export function sheetOf(picture: Picture, places: Places): Sheet {
  const numberOf = new Map(picture.boxes.map((box, i) => [box.id, i]))
  const at = new Float64Array(picture.boxes.length * 2)
  const grid = new Map<string, number[]>()
  picture.boxes.forEach((box, i) => {
    const { x, y } = places.get(box.id) ?? { x: 0, y: 0 }
    at[2 * i] = x
    at[2 * i + 1] = y
    for (const cell of cellsOf(x, y, x + BOX_WIDTH, y + HEAD_HEIGHT)) {
      const there = grid.get(cell)
      if (there) there.push(i)
      else grid.set(cell, [i])
    }
  })
  const pairs = new Set<string>()
  for (const wire of picture.wires) {
    const from = numberOf.get(wire.from)
    const to = numberOf.get(wire.to)
    if (from !== undefined && to !== undefined) pairs.add(`${from} ${to}`)
  }
  const lines = Int32Array.from([...pairs].flatMap((pair) => pair.split(' ').map(Number)))
  return { boxes: picture.boxes, at, lines, grid, numberOf }
}

function cellsOf(left: number, top: number, right: number, bottom: number): string[] {
  const cells: string[] = []
  for (let x = Math.floor(left / CELL); x <= Math.floor(right / CELL); x++)
    for (let y = Math.floor(top / CELL); y <= Math.floor(bottom / CELL); y++) cells.push(`${x} ${y}`)
  return cells
}

/** The box at a point of the picture. */
export function boxAt(sheet: Sheet, x: number, y: number): Box | undefined {
  for (const i of sheet.grid.get(`${Math.floor(x / CELL)} ${Math.floor(y / CELL)}`) ?? []) {
    const inside =
      x >= sheet.at[2 * i] &&
      x <= sheet.at[2 * i] + BOX_WIDTH &&
      y >= sheet.at[2 * i + 1] &&
      y <= sheet.at[2 * i + 1] + HEAD_HEIGHT
    if (inside) return sheet.boxes[i]
  }
  return undefined
}

export type Marked = { focus: string; picked: string | undefined; found: Set<string> }

/** Draws what the eye sees; returns how many boxes that are. */
export function draw(
  context: CanvasRenderingContext2D,
  sheet: Sheet,
  eye: Eye,
  size: { width: number; height: number },
  marked: Marked,
  ink: Inks,
  moving = false,
): number {
  const scale = window.devicePixelRatio || 1
  context.setTransform(scale, 0, 0, scale, 0, 0)
  context.fillStyle = ink.page
  context.fillRect(0, 0, size.width, size.height)
  context.setTransform(
    scale * eye.zoom,
    0,
    0,
    scale * eye.zoom,
    -eye.x * eye.zoom * scale,
    -eye.y * eye.zoom * scale,
  )
  const right = eye.x + size.width / eye.zoom
  const bottom = eye.y + size.height / eye.zoom
  drawLines(context, sheet, eye, right, bottom, marked, ink, moving)
  const seen = visible(sheet, eye, right, bottom)
  const names = eye.zoom >= NAMES_FROM
  for (const i of seen) drawBox(context, sheet, i, names, marked, ink)
  return seen.length
}

function visible(sheet: Sheet, eye: Eye, right: number, bottom: number): number[] {
  const seen: number[] = []
  for (let i = 0; i < sheet.boxes.length; i++) {
    const x = sheet.at[2 * i]
    const y = sheet.at[2 * i + 1]
    if (x < right && x + BOX_WIDTH > eye.x && y < bottom && y + HEAD_HEIGHT > eye.y) seen.push(i)
  }
  return seen
}

function drawLines(
  context: CanvasRenderingContext2D,
  { at, lines, numberOf }: Sheet,
  eye: Eye,
  right: number,
  bottom: number,
  { picked }: Marked,
  ink: Inks,
  moving: boolean,
) {
  const chosen = picked === undefined ? -1 : (numberOf.get(picked) ?? -1)
  const middle = HEAD_HEIGHT - 12
  // While the picture moves a share of the lines will do; all are drawn when it stands.
  const step = moving ? 2 * Math.ceil(lines.length / 2 / MOST_MOVING) : 2
  for (const lit of [false, true]) {
    context.beginPath()
    let drawn = 0
    for (let i = 0; i < lines.length; i += step) {
      const [from, to] = [lines[i], lines[i + 1]]
      if ((from === chosen || to === chosen) !== lit) continue
      const x1 = at[2 * from] + BOX_WIDTH
      const y1 = at[2 * from + 1] + middle
      const x2 = at[2 * to]
      const y2 = at[2 * to + 1] + middle
      const outside =
        Math.max(x1, x2) < eye.x ||
        Math.min(x1, x2) > right ||
        Math.max(y1, y2) < eye.y ||
        Math.min(y1, y2) > bottom
      if (outside) continue
      drawn++
      context.moveTo(x1, y1)
      if (step > 2) {
        context.lineTo(x2, y2)
        continue
      }
      const half = (x1 + x2) / 2
      context.bezierCurveTo(half, y1, half, y2, x2, y2)
    }
    // Many lines are each the fainter, so that they do not cover the picture.
    const faint = Math.min(1, Math.max(0.08, 60 / Math.max(1, drawn)))
    context.strokeStyle = lit ? ink.thread : ink.quiet
    context.globalAlpha = (lit ? 1 : 0.4) * faint
    context.lineWidth = (lit ? 2 : 1) / Math.min(1, eye.zoom)
    context.stroke()
  }
  context.globalAlpha = 1
}

function drawBox(
  context: CanvasRenderingContext2D,
  sheet: Sheet,
  i: number,
  names: boolean,
  marked: Marked,
  ink: Inks,
) {
  const box = sheet.boxes[i]
  const x = sheet.at[2 * i]
  const y = sheet.at[2 * i + 1]
  const failed = box.state === 'failed' || box.state === 'aborted'
  const strong = box.id === marked.focus || box.id === marked.picked || marked.found.has(box.id)
  context.fillStyle = ink.panel
  context.fillRect(x, y, BOX_WIDTH, HEAD_HEIGHT)
  context.strokeStyle =
    box.id === marked.focus ? ink.thread : strong ? ink.accent : failed ? ink.bad : ink.line
  context.lineWidth = strong ? 3 : 1
  context.strokeRect(x, y, BOX_WIDTH, HEAD_HEIGHT)
  if (!names) return
  context.save()
  context.beginPath()
  context.rect(x, y, BOX_WIDTH - 6, HEAD_HEIGHT)
  context.clip()
  context.fillStyle = failed ? ink.bad : ink.quiet
  context.font = '12px sans-serif'
  context.fillText(failed ? `${box.kind} ■ ${box.state}` : `${box.kind} ${box.system}`, x + 8, y + 17)
  context.fillStyle = ink.text
  context.font = '15px sans-serif'
  context.fillText(box.name, x + 8, y + HEAD_HEIGHT - 10)
  context.restore()
}
