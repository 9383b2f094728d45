import ELK from 'elkjs/lib/elk-api'
import workerUrl from 'elkjs/lib/elk-worker.min.js?url'
import type { Picture } from './picture'
import { BOX_WIDTH, HEAD_HEIGHT } from './sizes'

export type Places = Map<string, { x: number; y: number }>
export type Size = { width: number; height: number }

const elk = new ELK({ workerFactory: () => new Worker(workerUrl) })

/** Room between layers for the marks of both neighbours, by which more is opened, or for a word on a line. */
const BETWEEN_LAYERS = 96

const OPTIONS = {
  'elk.algorithm': 'layered',
  'elk.direction': 'RIGHT',
  'elk.edgeRouting': 'POLYLINE',
  'elk.layered.thoroughness': '4',
  'elk.layered.nodePlacement.strategy': 'NETWORK_SIMPLEX',
  'elk.layered.spacing.nodeNodeBetweenLayers': String(BETWEEN_LAYERS),
  'elk.spacing.nodeNode': '16',
  'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
}

/** From so many boxes on, what makes a small picture neat would take minutes. */
const MANY = 250
const QUICK_OPTIONS = {
  ...OPTIONS,
  'elk.layered.thoroughness': '1',
  'elk.layered.layering.strategy': 'LONGEST_PATH_SOURCE',
  'elk.layered.nodePlacement.strategy': 'BRANDES_KOEPF',
  'elk.layered.crossingMinimization.greedySwitch.type': 'OFF',
  'elk.layered.considerModelOrder.strategy': 'NONE',
}

/** So many boxes are laid out in ranks of their hops; nobody sees one crossing among thousands. */
const RANKED_FROM = 1000
const RANK_HEIGHT = 48
const ROW = HEAD_HEIGHT + 16

/** Places boxes by their hops, those of one hop side by side in columns, near what they are linked to. */
export function rankedPlaces(picture: Picture): Places {
  const ranks = new Map<number, string[]>()
  for (const box of picture.boxes) {
    const rank = ranks.get(box.hops)
    if (rank) rank.push(box.id)
    else ranks.set(box.hops, [box.id])
  }
  const others = new Map<string, string[]>()
  for (const { from, to } of picture.wires) {
    others.set(from, [...(others.get(from) ?? []).slice(0, 20), to])
    others.set(to, [...(others.get(to) ?? []).slice(0, 20), from])
  }
  const order = new Map<string, number>()
  const hops = [...ranks.keys()].sort((a, b) => Math.abs(a) - Math.abs(b))
  for (const hop of hops) {
    const rank = ranks.get(hop) ?? []
    const wanted = (id: string) => {
      const known = (others.get(id) ?? []).flatMap((other) => order.get(other) ?? [])
      return known.length === 0 ? 0.5 : known.reduce((sum, at) => sum + at, 0) / known.length
    }
    const places = new Map(rank.map((id) => [id, wanted(id)]))
    rank.sort((a, b) => (places.get(a) ?? 0) - (places.get(b) ?? 0))
    rank.forEach((id, i) => {
      order.set(id, (i + 0.5) / rank.length)
    })
  }
  const found: Places = new Map()
  let left = 0
  for (const hop of [...ranks.keys()].sort((a, b) => a - b)) {
    const rank = ranks.get(hop) ?? []
    const columns = Math.ceil(rank.length / RANK_HEIGHT)
    const rows = Math.ceil(rank.length / columns)
    rank.forEach((id, i) => {
      found.set(id, {
        x: left + (i % columns) * (BOX_WIDTH + 24),
        y: (Math.floor(i / columns) - rows / 2) * ROW,
      })
    })
    left += columns * (BOX_WIDTH + 24) + 2 * BETWEEN_LAYERS
  }
  return found
}

/** Finds a place for each box, sources left and what they feed right. */
export async function placesOf(picture: Picture, heights: Map<string, number>): Promise<Places> {
  if (picture.boxes.length > RANKED_FROM) return rankedPlaces(picture)
  const pairs = new Set(picture.wires.map((wire) => `${wire.from}\n${wire.to}`))
  const graph = await elk.layout({
    id: 'picture',
    layoutOptions: picture.boxes.length > MANY ? QUICK_OPTIONS : OPTIONS,
    children: picture.boxes.map((box) => ({
      id: box.id,
      width: BOX_WIDTH,
      height: heights.get(box.id) ?? HEAD_HEIGHT,
    })),
    edges: [...pairs].map((pair, i) => {
      const [from, to] = pair.split('\n')
      return { id: String(i), sources: [from], targets: [to] }
    }),
  })
  return new Map((graph.children ?? []).map((node) => [node.id, { x: node.x ?? 0, y: node.y ?? 0 }]))
}

/** The text of a box is 15 px high: at this zoom it is still 11 px, which can be read. */
export const READABLE_ZOOM = 0.75
const MAX_ZOOM = 1.1
const MARGIN = 24

/** Where the picture is looked at first: a point of it in the middle of the view, and the zoom. */
export type Look = { x: number; y: number; zoom: number }

/**
 * The whole picture if it can be read so; else the focus with as much around it as fits, and the ends of
 * the picture never further inside than need be.
 */
export function firstLook(
  places: Places,
  heights: Map<string, number>,
  focus: string,
  view: Size,
): Look | undefined {
  if (places.size === 0) return undefined
  const all = [...places]
  const left = Math.min(...all.map(([, at]) => at.x))
  const top = Math.min(...all.map(([, at]) => at.y))
  const right = Math.max(...all.map(([, at]) => at.x + BOX_WIDTH))
  const bottom = Math.max(...all.map(([id, at]) => at.y + (heights.get(id) ?? HEAD_HEIGHT)))
  const fits = Math.min(
    (view.width - 2 * MARGIN) / (right - left),
    (view.height - 2 * MARGIN) / (bottom - top),
  )
  const zoom = Math.min(MAX_ZOOM, Math.max(READABLE_ZOOM, fits))
  const at = places.get(focus)
  const wanted = at
    ? { x: at.x + BOX_WIDTH / 2, y: at.y + (heights.get(focus) ?? HEAD_HEIGHT) / 2 }
    : { x: (left + right) / 2, y: (top + bottom) / 2 }
  return {
    x: within(wanted.x, left, right, view.width / zoom),
    y: within(wanted.y, top, bottom, view.height / zoom),
    zoom,
  }
}

/** A middle near the one wanted, from which no more than a margin is seen beyond either end. */
function within(wanted: number, from: number, to: number, seen: number): number {
  const room = seen / 2 - MARGIN
  if (to - from <= 2 * room) return (from + to) / 2
  return Math.min(Math.max(wanted, from + room), to - room)
}
