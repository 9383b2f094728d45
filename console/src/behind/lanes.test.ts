import { describe, expect, it } from 'vitest'
import { chainOf, lanesOf } from './lanes'
import type { Exact, Run } from './queries'

const run = (ref: string, job: string, hops: number, hour: number): Run => ({
  ref,
  job,
  name: job,
  state: 'completed',
  start: `2031-05-01T${String(hour).padStart(2, '0')}:00:00Z`,
  hops,
  certain: true,
})

const use = (reader: string, ...writers: string[]): Exact['uses'][number] => ({
  reader,
  asset: 'a/b',
  name: 'b',
  kind: 'table',
  through: [],
  by: 'time',
  source: false,
  loads: writers.map((writer) => ({ run: writer, asset: 'a/b', certain: true, doubts: [] })),
})

describe('lanes', () => {
  const runs = [
    run('r', '@refresh', 1, 9),
    run('b1', '@build', 2, 1),
    run('b2', '@build', 2, 5),
    run('l', '@load', 3, 0),
  ]
  const found = lanesOf({ runs, uses: [use('r', 'b1', 'b2'), use('b1', 'l')] })

  it('have one row for each job, the farthest at the top', () => {
    expect(found.lanes.map((lane) => lane.job)).toEqual(['@load', '@build', '@refresh'])
    expect(found.marks.map((mark) => mark.y)).toEqual([
      found.lanes[2].y,
      found.lanes[1].y,
      found.lanes[1].y,
      found.lanes[0].y,
    ])
  })

  it('go from left to right in time', () => {
    const [r, b1, b2, l] = found.marks.map((mark) => mark.x)
    expect(l).toBeLessThan(b1)
    expect(b1).toBeLessThan(b2)
    expect(b2).toBeLessThan(r)
  })

  it('set runs of one job apart that start together', () => {
    const close = lanesOf({
      runs: [run('a', '@j', 1, 1), run('b', '@j', 1, 1), run('c', '@k', 2, 9)],
      uses: [],
    })
    expect(close.marks[0].x).not.toBe(close.marks[1].x)
  })

  it('light up what a run fed and what fed it, and nothing beside', () => {
    expect([...chainOf('b1', found.lines)].sort()).toEqual(['b1', 'l', 'r'])
    expect([...chainOf('b2', found.lines)].sort()).toEqual(['b2', 'r'])
  })
})
