import {
  applyNodeChanges,
  Background,
  Controls,
  type Edge,
  MarkerType,
  type Node,
  ReactFlow,
  ReactFlowProvider,
  useNodesInitialized,
  useReactFlow,
} from '@xyflow/react'
import '@xyflow/react/dist/style.css'
import { Spin } from 'antd'
import { useContext, useEffect, useMemo, useState } from 'react'
import { flowWords } from '../shared/format'
import { ModeContext, useInks } from '../shared/useInks'
import { type BoxData, BoxNode } from './BoxNode'
import { HEAD_HEIGHT, type Places, placesOf, ROW_HEIGHT } from './layout'
import { litBy, matches, type Picture, shownColumns, type Wire } from './picture'

const NODE_TYPES = { box: BoxNode }
const MOST_COLUMNS = 12
// Below this nobody can read the names; what does not fit then is reached by moving the picture.
const READABLE = 0.45

type Props = {
  picture: Picture
  focus: string
  picked: string | undefined
  column: string | undefined
  words: string
  found: string | undefined
  onPick: (id: string) => void
  onColumn: (ref: string | undefined) => void
  onOpen: (id: string, direction: 'upstream' | 'downstream') => void
  onRecentre: (id: string) => void
}

/** Draws a picture from left to right; values in, events out. Double click makes a box the focus. */
export function LineageCanvas(props: Props) {
  return (
    <ReactFlowProvider>
      <Canvas {...props} />
    </ReactFlowProvider>
  )
}

function Canvas(props: Props) {
  const { picture, focus, picked, column, words, found, onPick, onColumn, onOpen, onRecentre } = props
  const ink = useInks()
  const mode = useContext(ModeContext)
  const [full, setFull] = useState<Set<string>>(new Set())
  const lit = useMemo(() => litBy(picture, column), [picture, column])
  const columns = useMemo(
    () =>
      new Map(
        picture.boxes.map((box) => [
          box.id,
          shownColumns(box, lit.columns, full.has(box.id) ? box.columns.length : MOST_COLUMNS),
        ]),
      ),
    [picture, lit, full],
  )
  const places = usePlaces(picture, columns)
  const laid: Node<BoxData>[] = useMemo(
    () =>
      places === undefined
        ? []
        : picture.boxes.map((box) => ({
            id: box.id,
            type: 'box',
            position: places.get(box.id) ?? { x: 0, y: 0 },
            ariaLabel: `${box.kind} ${box.name}`,
            data: {
              box,
              columns: columns.get(box.id) ?? [],
              hidden: box.columns.length - (columns.get(box.id)?.length ?? 0),
              focus: box.id === focus,
              picked: box.id === picked,
              found: box.id === found || (words !== '' && matches(box, words)),
              dim: isDim(box.id, lit.columns, column),
              lit: lit.columns,
              onOpen: (direction) => onOpen(box.id, direction),
              onColumn: (name) => {
                const ref = `${box.id}#${name}`
                onColumn(ref === column ? undefined : ref)
              },
              onMore: () => setFull((before) => new Set(before).add(box.id)),
            },
          })),
    [picture, places, columns, focus, picked, found, words, lit, column, onOpen, onColumn],
  )
  // Boxes may be dragged; a new layout puts them back.
  const [nodes, setNodes] = useState(laid)
  useEffect(() => setNodes(laid), [laid])
  const edges: Edge[] = useMemo(
    () =>
      picture.wires.map((wire) => edgeOf(wire, columns, lit.wires.has(wire.id), column !== undefined, ink)),
    [picture, columns, lit, column, ink],
  )
  if (places === undefined) return <Spin style={{ margin: 80 }} description="laying out" />
  return (
    <ReactFlow
      nodes={nodes}
      edges={edges}
      nodeTypes={NODE_TYPES}
      colorMode={mode}
      minZoom={0.05}
      maxZoom={2}
      nodesDraggable
      onNodesChange={(changes) => setNodes((before) => applyNodeChanges(changes, before))}
      nodesConnectable={false}
      onlyRenderVisibleElements={picture.boxes.length > 200}
      onNodeClick={(_, node) => onPick(node.id)}
      onNodeDoubleClick={(_, node) => onRecentre(node.id)}
      onSelectionChange={({ nodes: chosen }) => chosen.length === 1 && onPick(chosen[0].id)}
      zoomOnDoubleClick={false}
      style={{ background: ink.page }}
    >
      <Background gap={24} size={1} color={ink.line} />
      <Controls showInteractive={false} />
      <Camera places={places} centre={found ?? focus} whole={found === undefined} />
    </ReactFlow>
  )
}

function isDim(id: string, lit: Set<string>, column: string | undefined): boolean {
  if (!column) return false
  for (const ref of lit) if (ref.startsWith(`${id}#`)) return false
  return true
}

/** Finds places anew whenever what is shown changes; the old ones stand until then. */
function usePlaces(picture: Picture, columns: Map<string, string[]>): Places | undefined {
  const [places, setPlaces] = useState<Places>()
  const shape = picture.boxes.map((box) => `${box.id} ${columns.get(box.id)?.length}`).join('\n')
  // biome-ignore lint/correctness/useExhaustiveDependencies: the shape stands for picture and columns
  useEffect(() => {
    let current = true
    const heights = new Map(
      picture.boxes.map((box) => {
        const rows = columns.get(box.id)?.length ?? 0
        const more = box.columns.length > rows ? 1 : 0
        return [box.id, HEAD_HEIGHT + (rows + more) * ROW_HEIGHT]
      }),
    )
    placesOf(picture, heights).then((found) => current && setPlaces(found))
    return () => {
      current = false
    }
  }, [shape, picture.wires.length])
  return places
}

function edgeOf(
  wire: Wire,
  columns: Map<string, string[]>,
  isLit: boolean,
  anyLit: boolean,
  ink: ReturnType<typeof useInks>,
): Edge {
  const has = (box: string, column: string | undefined) => column && columns.get(box)?.includes(column)
  const deciding = ['JOIN', 'FILTER', 'GROUP_BY', 'SORT', 'WINDOW', 'CONDITIONAL', 'INDIRECT'].includes(
    wire.flow,
  )
  const color = isLit ? ink.thread : ink.quiet
  return {
    id: wire.id,
    source: wire.from,
    target: wire.to,
    sourceHandle: has(wire.from, wire.fromColumn) ? `out#${wire.fromColumn}` : 'out',
    targetHandle: has(wire.to, wire.toColumn) ? `in#${wire.toColumn}` : 'in',
    ariaLabel: `${wire.from} ${flowWords(wire.flow)} ${wire.to}`,
    // Most steps only copy: saying so on each would hide the ones that do not.
    label: isLit && wire.flow !== 'IDENTITY' && wire.flow !== 'HOLDS' ? flowWords(wire.flow) : undefined,
    labelStyle: { fill: ink.thread, fontSize: 10 },
    labelBgStyle: { fill: ink.page },
    markerEnd: { type: MarkerType.ArrowClosed, color, width: isLit ? 9 : 14, height: isLit ? 9 : 14 },
    style: {
      stroke: color,
      strokeWidth: isLit ? 2.2 : 1,
      opacity: anyLit && !isLit ? 0.25 : 0.85,
      strokeDasharray:
        wire.flow === 'HOLDS' ? '2 4' : deciding || wire.evidence === 'declared' ? '6 3' : undefined,
    },
  }
}

/** Shows the whole picture when it changes, or goes to the box a search found. */
function Camera({ places, centre, whole }: { places: Places; centre: string; whole: boolean }) {
  const flow = useReactFlow()
  const ready = useNodesInitialized()
  useEffect(() => {
    if (!ready || places.size === 0) return
    // After the frame in which the new places are drawn; before it, the old sizes would be fitted.
    const timer = setTimeout(() => {
      if (whole) flow.fitView({ padding: 0.03, minZoom: READABLE, maxZoom: 1.1 })
      else flow.fitView({ nodes: [{ id: centre }], padding: 1.5, maxZoom: 1.1, duration: 200 })
    }, 60)
    return () => clearTimeout(timer)
  }, [ready, places, centre, whole, flow])
  return null
}
