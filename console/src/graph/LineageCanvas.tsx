import {
  applyNodeChanges,
  Background,
  Controls,
  type Edge,
  MiniMap,
  type Node,
  ReactFlow,
  ReactFlowProvider,
} from '@xyflow/react'
import '@xyflow/react/dist/style.css'
import { Spin } from 'antd'
import { useContext, useEffect, useMemo, useState } from 'react'
import { ModeContext, useInks } from '../shared/useInks'
import { type BoxData, BoxNode } from './BoxNode'
import { Camera } from './Camera'
import { edgeOf, endOf } from './edges'
import { factLines } from './facts'
import styles from './graph.module.css'
import { isGroup } from './groups'
import { type Places, placesOf, READABLE_ZOOM } from './layout'
import { litBy, matches, type Picture, shownColumns } from './picture'
import { BOX_WIDTH, FACT_HEIGHT, HEAD_HEIGHT, ROW_HEIGHT } from './sizes'
import { WideCanvas } from './WideCanvas'

const NODE_TYPES = { box: BoxNode }
const MAX_COLUMNS = 12
/** From so many boxes on an overview helps more than it covers. */
const OVERVIEW_FROM = 6
const DRAWN_WHOLE = 200
/** More boxes than these are drawn on a canvas: as elements they would not move smoothly. */
const MOST_ELEMENTS = 1000
const SIZES = {
  height: '100%',
  '--box-width': `${BOX_WIDTH}px`,
  '--head-height': `${HEAD_HEIGHT}px`,
  '--row-height': `${ROW_HEIGHT}px`,
} as React.CSSProperties

type Props = {
  picture: Picture
  focus: string
  picked: string | undefined
  column: string | undefined
  words: string
  found: string | undefined
  facts: string[]
  /** Gets what is drawn, for a picture to take away. */
  onDrawn: (drawn: Drawn | undefined) => void
  onPick: (id: string) => void
  onColumn: (ref: string | undefined) => void
  onOpen: (id: string, direction: 'upstream' | 'downstream') => void
  onRecentre: (id: string) => void
  /** Whether to show all of a small picture at once, without an overview beside it. */
  whole?: boolean
  /** A line was drawn from one box or column to another; absent where nobody may draw. */
  onConnect?: (from: string, to: string) => void
}

export type Drawn = { places: Places; heights: Map<string, number>; columns: Map<string, string[]> }

/** Draws a picture from left to right; values in, events out. Double click makes a box the focus. */
export function LineageCanvas(props: Props) {
  return (
    <ReactFlowProvider>
      <Canvas {...props} />
    </ReactFlowProvider>
  )
}

function Canvas(props: Props) {
  const {
    picture,
    focus,
    picked,
    column,
    words,
    found,
    facts,
    onDrawn,
    onPick,
    onColumn,
    onOpen,
    onRecentre,
    onConnect,
    whole = false,
  } = props
  const ink = useInks()
  const mode = useContext(ModeContext)
  const [full, setFull] = useState<Set<string>>(new Set())
  const lit = useMemo(() => litBy(picture, column), [picture, column])
  const columns = useMemo(() => {
    if (picture.boxes.length > MOST_ELEMENTS) return new Map(picture.boxes.map((box) => [box.id, []]))
    const most = (id: string, all: string[]) => (full.has(id) ? all.length : MAX_COLUMNS)
    return new Map(
      picture.boxes.map((box) => [box.id, shownColumns(box, lit.columns, most(box.id, box.columns))]),
    )
  }, [picture, lit, full])
  const heights = useMemo(() => heightsOf(picture, columns, facts), [picture, columns, facts])
  const places = usePlaces(picture, heights)
  useEffect(() => onDrawn(places && { places, heights, columns }), [places, heights, columns, onDrawn])
  const placed: Node<BoxData>[] = useMemo(
    () =>
      places === undefined
        ? []
        : picture.boxes.slice(0, MOST_ELEMENTS).map((box) => ({
            id: box.id,
            type: 'box',
            position: places.get(box.id) ?? { x: 0, y: 0 },
            ariaLabel: `${box.kind} ${box.name}`,
            data: {
              box,
              columns: columns.get(box.id) ?? [],
              hidden: box.columns.length - (columns.get(box.id)?.length ?? 0),
              facts: factLines(box, facts),
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
    [picture, places, columns, facts, focus, picked, found, words, lit, column, onOpen, onColumn],
  )
  // Boxes may be dragged; a new layout puts them back.
  const [nodes, setNodes] = useState(placed)
  useEffect(() => setNodes(placed), [placed])
  const edges: Edge[] = useMemo(() => {
    const names = new Map(picture.boxes.map((box) => [box.id, box.name]))
    if (picture.boxes.length > MOST_ELEMENTS) return []
    return picture.wires.map((wire) =>
      edgeOf(wire, columns, lit.wires.has(wire.id), column !== undefined, ink, names),
    )
  }, [picture, columns, lit, column, ink])
  if (picture.boxes.length > MOST_ELEMENTS) {
    return (
      <WideCanvas
        picture={picture}
        places={places}
        heights={heights}
        focus={focus}
        picked={picked}
        words={words}
        found={found}
        onPick={onPick}
        onRecentre={onRecentre}
      />
    )
  }
  if (places === undefined) return <Spin className={styles.layingOut} description="arranging" />
  return (
    <ReactFlow
      style={SIZES}
      nodes={nodes}
      edges={edges}
      nodeTypes={NODE_TYPES}
      colorMode={mode}
      minZoom={0.05}
      maxZoom={2}
      defaultViewport={{ x: 0, y: 0, zoom: READABLE_ZOOM }}
      nodesDraggable
      onNodesChange={(changes) => setNodes((before) => applyNodeChanges(changes, before))}
      nodesConnectable={onConnect !== undefined}
      onConnect={({ source, target, sourceHandle, targetHandle }) =>
        onConnect?.(endOf(source, sourceHandle), endOf(target, targetHandle))
      }
      onlyRenderVisibleElements={picture.boxes.length > DRAWN_WHOLE}
      onNodeClick={(_, node) => onPick(node.id)}
      onNodeDoubleClick={(_, node) => !isGroup(node.id) && onRecentre(node.id)}
      // The keyboard picks by selection, the mouse by click.
      onSelectionChange={({ nodes: chosen }) => chosen.length === 1 && onPick(chosen[0].id)}
      zoomOnDoubleClick={false}
      proOptions={{ hideAttribution: true }}
    >
      <Background color={ink.line} gap={28} />
      <Controls showInteractive={false} />
      {!whole && picture.boxes.length >= OVERVIEW_FROM && (
        <MiniMap
          pannable
          zoomable
          ariaLabel="Overview"
          style={{ width: 150, height: 96 }}
          bgColor={ink.panel}
          maskColor={`${ink.line}b0`}
          nodeColor={(node) => (node.id === focus ? ink.thread : node.id === picked ? ink.accent : ink.quiet)}
        />
      )}
      <Camera places={places} heights={heights} focus={focus} found={found} whole={whole} />
    </ReactFlow>
  )
}

/** While a column is chosen, what it has no part in steps back. */
function isDim(id: string, lit: Set<string>, column: string | undefined): boolean {
  if (column === undefined) return false
  for (const ref of lit) if (ref.startsWith(`${id}#`)) return false
  return true
}

function heightsOf(picture: Picture, columns: Map<string, string[]>, facts: string[]): Map<string, number> {
  return new Map(
    picture.boxes.map((box) => {
      const rows = columns.get(box.id)?.length ?? 0
      const more = box.columns.length > rows ? 1 : 0
      const factRoom = factLines(box, facts).length * FACT_HEIGHT
      return [box.id, HEAD_HEIGHT + factRoom + (rows + more) * ROW_HEIGHT]
    }),
  )
}

/** The boxes' places, found in the background; while new ones are sought the old ones stand. */
function usePlaces(picture: Picture, heights: Map<string, number>): Places | undefined {
  const [places, setPlaces] = useState<Places>()
  // Not the picture itself: it is another object whenever an answer comes, though nothing moved.
  const shape = [...heights].map(([id, height]) => `${id} ${height}`).join('\n')
  // biome-ignore lint/correctness/useExhaustiveDependencies: the shape stands for picture and heights
  useEffect(() => {
    let current = true
    placesOf(picture, heights).then((found) => current && setPlaces(found))
    return () => {
      current = false
    }
  }, [shape, picture.wires.length])
  return places
}
