import { describe, expect, it, vi } from 'vitest'
import { inks } from '../theme'
import { edgeOf } from './edges'
import { firstLook, type Places, READABLE_ZOOM, rankedPlaces } from './layout'
import type { Box, Wire } from './picture'
import { BOX_WIDTH, HEAD_HEIGHT } from './sizes'

// The layout itself runs in a worker of the browser; here only what is done with its places.
vi.mock('elkjs/lib/elk-api', () => ({ default: class {} }))

const VIEW = { width: 900, height: 700 }

function row(n: number): Places {
  return new Map(Array.from({ length: n }, (_, i) => [`box${i}`, { x: i * 300, y: 0 }]))
}

describe('the first look at a picture', () => {
  it('shows all of it where that can be read', () => {
    const look = firstLook(row(3), new Map(), 'box1', VIEW)
    expect(look?.zoom).toBeGreaterThanOrEqual(READABLE_ZOOM)
    expect(look?.x).toBe(300 + BOX_WIDTH / 2)
    expect(look?.y).toBe(HEAD_HEIGHT / 2)
  })

  it('never goes below a zoom at which names can be read, and keeps the focus in sight', () => {
    const look = firstLook(row(12), new Map(), 'box6', VIEW)
    expect(look?.zoom).toBe(READABLE_ZOOM)
    expect(look?.x).toBe(6 * 300 + BOX_WIDTH / 2)
  })

  it('leaves no empty half beyond an end of the picture', () => {
    const last = firstLook(row(12), new Map(), 'box11', VIEW)
    const seen = VIEW.width / READABLE_ZOOM / 2
    expect((last?.x ?? 0) + seen).toBeLessThanOrEqual(11 * 300 + BOX_WIDTH + 25)
    const first = firstLook(row(12), new Map(), 'box0', VIEW)
    expect((first?.x ?? 0) - seen).toBeGreaterThanOrEqual(-25)
  })

  it('of nothing is nowhere', () => {
    expect(firstLook(new Map(), new Map(), 'box0', VIEW)).toBeUndefined()
  })
})

describe('a line', () => {
  const wire: Wire = {
    id: 'a→b→',
    from: 'a',
    to: 'b',
    fromColumn: 'x',
    toColumn: 'y',
    flow: 'AGGREGATION',
    how: 'aggregated',
    masking: false,
    job: undefined,
    evidence: 'observed',
  }
  const shown = new Map([
    ['a', ['x']],
    ['b', ['other']],
  ])

  it('leaves from the column that shows, and ends at the box whose column does not', () => {
    const edge = edgeOf(wire, shown, false, false, inks.light, new Map())
    expect([edge.sourceHandle, edge.targetHandle]).toEqual(['out#x', 'in'])
  })

  it('says what was done when lit, unless the value was only copied', () => {
    expect(edgeOf(wire, shown, true, true, inks.light, new Map()).label).toBe('aggregated')
    expect(edgeOf(wire, shown, false, true, inks.light, new Map()).label).toBeUndefined()
    const copy = { ...wire, flow: 'IDENTITY', how: 'copied' }
    expect(edgeOf(copy, shown, true, true, inks.light, new Map()).label).toBeUndefined()
  })

  it('is dashed where the source only decides, or nobody observed it', () => {
    const dashes = (change: Partial<Wire>) =>
      edgeOf({ ...wire, ...change }, shown, false, false, inks.light, new Map()).style?.strokeDasharray
    expect(dashes({})).toBeUndefined()
    expect(dashes({ flow: 'FILTER' })).toBe('6 3')
    expect(dashes({ evidence: 'declared' })).toBe('6 3')
  })
})

describe('a picture of thousands of boxes', () => {
  it('is placed by hops, no two boxes on one spot, and no rank higher than a screen or three', () => {
    const boxes = Array.from(
      { length: 3000 },
      (_, i) => ({ id: `n/${i}`, hops: i === 0 ? 0 : 1 + (i % 2) }) as Box,
    )
    const wires = boxes.slice(1).map((box, i) => ({ id: `${i}`, from: 'n/0', to: box.id }) as Wire)
    const places = rankedPlaces({ boxes, wires })
    expect(new Set([...places.values()].map(({ x, y }) => `${x} ${y}`)).size).toBe(3000)
    const at = (id: string) => places.get(id) ?? { x: Number.NaN, y: Number.NaN }
    for (const box of boxes.slice(1)) expect(at(box.id).x).toBeGreaterThan(at('n/0').x)
    const heights = [...places.values()].map(({ y }) => y)
    expect(Math.max(...heights) - Math.min(...heights)).toBeLessThan(4000)
  })
})
