import ELK from 'elkjs/lib/elk-api'
import workerUrl from 'elkjs/lib/elk-worker.min.js?url'
import type { Picture } from './picture'

export const BOX_WIDTH = 184
export const HEAD_HEIGHT = 46
export const ROW_HEIGHT = 22

export type Places = Map<string, { x: number; y: number }>

const elk = new ELK({ workerFactory: () => new Worker(workerUrl) })

const OPTIONS = {
  'elk.algorithm': 'layered',
  'elk.direction': 'RIGHT',
  'elk.edgeRouting': 'POLYLINE',
  'elk.layered.thoroughness': '4',
  'elk.layered.nodePlacement.strategy': 'NETWORK_SIMPLEX',
  'elk.layered.spacing.nodeNodeBetweenLayers': '52',
  'elk.spacing.nodeNode': '16',
  'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
}

/** Finds a place for each box, sources left and what they feed right. */
export async function placesOf(picture: Picture, heights: Map<string, number>): Promise<Places> {
  const pairs = new Set(picture.wires.map((wire) => `${wire.from}\n${wire.to}`))
  const graph = await elk.layout({
    id: 'picture',
    layoutOptions: OPTIONS,
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
