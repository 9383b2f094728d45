import { describe, expect, it } from 'vitest'
import type { Box } from './queries'
import { BOX_HEIGHT, layoutOf, lineKey, threadOf } from './workspaceLayout'

function box(ref: string, layer: string, depth = 0): Box {
  return {
    ref,
    layer,
    depth,
    kind: 'model',
    name: ref,
    system: 's',
    matched: true,
    connections: [],
    reuses: false,
    copies: false,
    owners: [],
    affectedBy: [],
  }
}

const line = (from: string, to: string) => ({ from, to, holds: false })

describe('the layout of a workspace', () => {
  it('puts each layer into a column of its own, steps by how many lie before them', () => {
    const boxes = [box('m', 'models'), box('b', 'steps', 1), box('a', 'steps'), box('t', 'sources')]
    const layout = layoutOf(boxes, [], 900)
    expect(layout.columns.map((column) => [column.title, column.refs])).toEqual([
      ['Sources', ['t']],
      ['Preparation steps', ['a']],
      ['', ['b']],
      ['Models', ['m']],
    ])
    const xs = layout.columns.map((column) => column.x)
    expect([...xs].sort((a, b) => a - b)).toEqual(xs)
    expect(xs[3] + layout.boxWidth).toBeLessThanOrEqual(900)
  })

  it('orders a column so that straight lines do not cross', () => {
    const boxes = ['1', '2', '3'].flatMap((n) => [box(`m${n}`, 'models'), box(`c${n}`, 'charts')])
    const layout = layoutOf(boxes.reverse(), [line('m1', 'c3'), line('m2', 'c2'), line('m3', 'c1')], 600)
    const row = (ref: string) => layout.places.get(ref)?.y
    expect([row('c3'), row('c2'), row('c1')]).toEqual([row('m1'), row('m2'), row('m3')])
  })

  it('keeps 40 boxes apart and on one screen', () => {
    const boxes = Array.from({ length: 40 }, (_, i) =>
      box(`b${i}`, ['sources', 'models', 'charts', 'pages'][i % 4]),
    )
    const layout = layoutOf(boxes, [], 1240)
    expect(layout.height).toBeLessThan(640)
    const places = [...layout.places.values()].map(({ x, y }) => `${x} ${y}`)
    expect(new Set(places).size).toBe(40)
  })

  it('finds an order without crossings where the nearest one has some', () => {
    const boxes = [
      ...['fat', 'roads', 'money'].map((id) => box(id, 'models')),
      ...['c-fat', 'c-cost', 'c-km', 'c-money'].map((id) => box(id, 'charts')),
      ...['costs', 'glance'].map((id) => box(id, 'pages')),
    ]
    const lines = [
      line('fat', 'c-fat'),
      line('roads', 'c-cost'),
      line('roads', 'c-km'),
      line('money', 'c-money'),
      line('c-cost', 'costs'),
      line('c-km', 'costs'),
      line('c-km', 'glance'),
      line('c-fat', 'glance'),
      line('c-money', 'glance'),
    ]
    const layout = layoutOf(boxes, lines, 900)
    const charts = layout.columns[1].refs
    expect(Math.abs(charts.indexOf('c-cost') - charts.indexOf('c-km'))).toBe(1)
    expect([0, 3]).toContain(charts.indexOf('c-cost'))
  })

  it('leads a line past the boxes of the columns between', () => {
    const boxes = [box('t', 'sources'), box('s', 'steps'), box('m', 'models')]
    const layout = layoutOf(boxes, [line('t', 's'), line('t', 'm')], 600)
    const path = layout.paths.get(lineKey('t', 'm')) ?? ''
    const passes = Number(/L([\d.]+) ([\d.]+)/.exec(path)?.[2])
    const step = layout.places.get('s')?.y ?? 0
    expect(passes < step || passes > step + BOX_HEIGHT).toBe(true)
  })

  it('finds the thread through a box, not its neighbours’ other branches', () => {
    const lines = [line('t', 's'), line('s', 'm'), line('m', 'c'), line('m', 'd'), line('u', 'm')]
    expect([...threadOf(lines, 'c')].sort()).toEqual(['c', 'm', 's', 't', 'u'])
    expect([...threadOf(lines, 's')].sort()).toEqual(['c', 'd', 'm', 's', 't'])
  })
})
