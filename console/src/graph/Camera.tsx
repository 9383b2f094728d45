import { useNodesInitialized, useReactFlow, useStore } from '@xyflow/react'
import { useEffect, useRef } from 'react'
import { firstLook, type Places } from './layout'

const AFTER_DRAWING_MILLIS = 60

type Props = {
  places: Places
  heights: Map<string, number>
  focus: string
  found: string | undefined
  whole: boolean
}

const SMALLEST_WHOLE = 0.45 // the zoom at which names can just be read

/** Looks at the picture when it changes, and goes to the box that a search found. */
export function Camera({ places, heights, focus, found, whole }: Props) {
  const flow = useReactFlow()
  const ready = useNodesInitialized()
  const width = useStore((state) => state.width)
  const height = useStore((state) => state.height)
  const lookedAt = useRef<Places>(undefined)
  useEffect(() => {
    if (!ready || width === 0) return
    // After the frame in which the new places are drawn; before it, the old sizes would count.
    const timer = setTimeout(() => {
      if (whole) {
        flow.fitView({ padding: 0.06, minZoom: SMALLEST_WHOLE, maxZoom: 1 })
      } else if (found) {
        flow.fitView({ nodes: [{ id: found }], padding: 1.5, maxZoom: 1.1, duration: 200 })
      } else if (lookedAt.current !== places) {
        const look = firstLook(places, heights, focus, { width, height })
        if (look) flow.setCenter(look.x, look.y, { zoom: look.zoom })
        lookedAt.current = places
      }
    }, AFTER_DRAWING_MILLIS)
    return () => clearTimeout(timer)
  }, [ready, places, heights, focus, found, whole, width, height, flow])
  return null
}
