import { Button, Space, Spin } from 'antd'
import { type KeyboardEvent, type PointerEvent, useEffect, useMemo, useRef, useState } from 'react'
import { count } from '../shared/format'
import { useInks } from '../shared/useInks'
import { boxAt, draw, type Eye, sheetOf } from './drawing'
import styles from './graph.module.css'
import { isGroup } from './groups'
import { firstLook, type Places } from './layout'
import { matches, type Picture } from './picture'

const STEP = 80
const CLICK_MOVES = 4
const STANDS_AFTER_MILLIS = 150
const SMALLEST = 0.03
const LARGEST = 2

type Props = {
  picture: Picture
  places: Places | undefined
  heights: Map<string, number>
  focus: string
  picked: string | undefined
  words: string
  found: string | undefined
  onPick: (id: string) => void
  onRecentre: (id: string) => void
}

/**
 * Draws a picture of more boxes than a page can hold as elements. The list beside it has the same boxes
 * for the keyboard and for readers of the screen.
 */
export function WideCanvas({
  picture,
  places,
  heights,
  focus,
  picked,
  words,
  found,
  onPick,
  onRecentre,
}: Props) {
  const ink = useInks()
  const canvas = useRef<HTMLCanvasElement>(null)
  const size = useSize(canvas)
  const eye = useRef<Eye>({ x: 0, y: 0, zoom: 1 })
  const frame = useRef(0)
  const sheet = useMemo(() => (places ? sheetOf(picture, places) : undefined), [picture, places])
  const hits = useMemo(
    () =>
      new Set(words === '' ? [] : picture.boxes.filter((box) => matches(box, words)).map((box) => box.id)),
    [picture, words],
  )
  const still = useRef<ReturnType<typeof setTimeout>>(undefined)
  const redraw = (moving = false) => {
    cancelAnimationFrame(frame.current)
    frame.current = requestAnimationFrame(() => {
      const context = canvas.current?.getContext('2d')
      if (context && sheet)
        draw(context, sheet, eye.current, size, { focus, picked, found: hits }, ink, moving)
    })
  }
  const look = (next: Partial<Eye>) => {
    eye.current = { ...eye.current, ...next }
    redraw(true)
    clearTimeout(still.current)
    still.current = setTimeout(redraw, STANDS_AFTER_MILLIS)
  }
  const zoom = (factor: number, at = { x: size.width / 2, y: size.height / 2 }) => {
    const before = eye.current
    const after = Math.min(LARGEST, Math.max(SMALLEST, before.zoom * factor))
    look({
      zoom: after,
      x: before.x + at.x / before.zoom - at.x / after,
      y: before.y + at.y / before.zoom - at.y / after,
    })
  }
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new layout is looked at anew, nothing else
  useEffect(() => {
    if (!places || size.width === 0) return
    const first = firstLook(places, heights, found ?? focus, size)
    if (first) {
      look({
        zoom: first.zoom,
        x: first.x - size.width / 2 / first.zoom,
        y: first.y - size.height / 2 / first.zoom,
      })
    }
  }, [places, size.width, size.height, found])
  useEffect(() => redraw())
  useWheel(canvas, zoom)
  const drag = useDrag(
    (dx, dy) => look({ x: eye.current.x - dx / eye.current.zoom, y: eye.current.y - dy / eye.current.zoom }),
    (x, y) => {
      const box =
        sheet && boxAt(sheet, eye.current.x + x / eye.current.zoom, eye.current.y + y / eye.current.zoom)
      return box?.id
    },
    onPick,
  )
  const key = (event: KeyboardEvent) => {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key]
    if (way)
      look({
        x: eye.current.x + (way[0] * STEP) / eye.current.zoom,
        y: eye.current.y + (way[1] * STEP) / eye.current.zoom,
      })
    else if (event.key === '+') zoom(1.25)
    else if (event.key === '-') zoom(0.8)
    else return
    event.preventDefault()
  }
  return (
    <div className={styles.wide}>
      {places === undefined && <Spin className={styles.layingOut} description="arranging" />}
      <canvas
        ref={canvas}
        width={size.width * (window.devicePixelRatio || 1)}
        height={size.height * (window.devicePixelRatio || 1)}
        tabIndex={0}
        role="img"
        aria-label={`Picture of ${count(picture.boxes.length)} boxes; the list beside it has them by name`}
        onKeyDown={key}
        onDoubleClick={(event) => {
          const id = drag.at(event.nativeEvent.offsetX, event.nativeEvent.offsetY)
          if (id && !isGroup(id)) onRecentre(id)
        }}
        {...drag.handlers}
      />
      <Space.Compact className={styles.wideZoom}>
        <Button aria-label="Zoom in" onClick={() => zoom(1.4)}>
          +
        </Button>
        <Button aria-label="Zoom out" onClick={() => zoom(0.7)}>
          −
        </Button>
      </Space.Compact>
    </div>
  )
}

function useSize(canvas: React.RefObject<HTMLCanvasElement | null>) {
  const [size, setSize] = useState({ width: 0, height: 0 })
  useEffect(() => {
    const frame = canvas.current?.parentElement
    if (!frame) return
    const watch = new ResizeObserver(() => setSize({ width: frame.clientWidth, height: frame.clientHeight }))
    watch.observe(frame)
    return () => watch.disconnect()
  }, [canvas])
  return size
}

/** Turning the wheel zooms at the pointer; React's own handler could not keep the page from scrolling. */
function useWheel(
  canvas: React.RefObject<HTMLCanvasElement | null>,
  zoom: (factor: number, at: { x: number; y: number }) => void,
) {
  const latest = useRef(zoom)
  latest.current = zoom
  useEffect(() => {
    const element = canvas.current
    const turned = (event: WheelEvent) => {
      event.preventDefault()
      latest.current(Math.exp(-event.deltaY / 400), { x: event.offsetX, y: event.offsetY })
    }
    element?.addEventListener('wheel', turned, { passive: false })
    return () => element?.removeEventListener('wheel', turned)
  }, [canvas])
}

function useDrag(
  move: (dx: number, dy: number) => void,
  at: (x: number, y: number) => string | undefined,
  onPick: (id: string) => void,
) {
  const from = useRef<{ x: number; y: number; far: number }>(undefined)
  return {
    at,
    handlers: {
      onPointerDown: (event: PointerEvent<HTMLCanvasElement>) => {
        event.currentTarget.setPointerCapture(event.pointerId)
        from.current = { x: event.clientX, y: event.clientY, far: 0 }
      },
      onPointerMove: (event: PointerEvent<HTMLCanvasElement>) => {
        const last = from.current
        if (!last) return
        const [dx, dy] = [event.clientX - last.x, event.clientY - last.y]
        from.current = { x: event.clientX, y: event.clientY, far: last.far + Math.abs(dx) + Math.abs(dy) }
        move(dx, dy)
      },
      onPointerUp: (event: PointerEvent<HTMLCanvasElement>) => {
        const moved = from.current?.far ?? 0
        from.current = undefined
        if (moved > CLICK_MOVES) return
        const id = at(event.nativeEvent.offsetX, event.nativeEvent.offsetY)
        if (id) onPick(id)
      },
    },
  }
}
