import { describe, expect, it } from 'vitest'
import type { Schemas } from '../api/client'
import { litBy, matches, pictureOf, shownColumns } from './picture'
import { openedOf, openedText } from './useLineage'

function node(ref: string, hops: number, more: Partial<Schemas['ViewNode']> = {}): Schemas['ViewNode'] {
  const [asset, column] = ref.split('#')
  return {
    ref,
    kind: 'table',
    name: asset,
    system: 's',
    column,
    hops: Math.abs(hops),
    side: hops < 0 ? 'upstream' : hops > 0 ? 'downstream' : 'focus',
    described: true,
    retired: false,
    owners: [],
    labels: [],
    terms: [],
    moreUpstream: 0,
    moreDownstream: 0,
    ...more,
  }
}

function link(from: string, to: string, flow = 'IDENTITY'): Schemas['ViewLink'] {
  return {
    from,
    to,
    flow,
    how: 'copied',
    flows: [flow],
    masking: false,
    evidence: 'observed',
    confirmed: false,
    job: '@n/j',
  }
}

function view(nodes: Schemas['ViewNode'][], links: Schemas['ViewLink'][]): Schemas['View'] {
  return { focus: nodes[0], nodes, links, deciding: [], truncated: false, constants: [], graphChange: 1 }
}

describe('a picture', () => {
  it('puts columns inside their assets and draws lines between them', () => {
    const picture = pictureOf([
      view([node('b#x', 0), node('a#x', -1), node('a#y', -1)], [link('a#x', 'b#x')]),
    ])
    expect(picture.boxes.map((box) => [box.id, box.columns])).toEqual([
      ['b', ['x']],
      ['a', ['x', 'y']],
    ])
    expect(picture.wires).toMatchObject([{ from: 'a', to: 'b', fromColumn: 'x', toColumn: 'x' }])
  })

  it('lays opened views together and counts only what is still hidden', () => {
    const first = view([node('a', 0, { moreDownstream: 1 }), node('b', 1)], [link('a', 'b')])
    const opened = view([node('a', 0, { moreDownstream: 0 }), node('c', 1)], [link('a', 'c')])
    const picture = pictureOf([first, opened])
    expect(picture.boxes.map((box) => box.id)).toEqual(['a', 'b', 'c'])
    expect(picture.boxes[0].moreDownstream).toBe(0)
    expect(picture.wires).toHaveLength(2)
  })

  it('leaves out a line between whole assets where columns say more', () => {
    const picture = pictureOf([
      view([node('b#x', 0), node('a#x', -1)], [link('a#x', 'b#x'), link('a', 'b', 'ROWS')]),
    ])
    expect(picture.wires).toHaveLength(1)
  })

  it('lights all paths through a column, both ways, and no others', () => {
    const links = [link('a#x', 'b#x'), link('b#x', 'c#x'), link('a#y', 'b#y')]
    const nodes = ['a#x', 'a#y', 'b#x', 'b#y', 'c#x'].map((ref) => node(ref, 0))
    const lit = litBy(pictureOf([view(nodes, links)]), 'b#x')
    expect([...lit.columns].sort()).toEqual(['a#x', 'b#x', 'c#x'])
    expect(lit.wires.size).toBe(2)
  })

  it('distinguishes upstream from downstream by the sign of the hops', () => {
    const picture = pictureOf([view([node('a', 0), node('b', -2), node('c', 1)], [])])
    expect(picture.boxes.map((box) => box.hops)).toEqual([0, -2, 1])
  })

  it('ends on a cycle', () => {
    const picture = pictureOf([
      view([node('a#x', 0), node('b#x', 1)], [link('a#x', 'b#x'), link('b#x', 'a#x')]),
    ])
    expect(litBy(picture, 'a#x').columns.size).toBe(2)
  })

  it('shows lit columns first and never hides one', () => {
    const [box] = pictureOf([view([node('a#x', 0), node('a#y', 0), node('a#z', 0)], [])]).boxes
    expect(shownColumns(box, new Set(['a#z']), 2)).toEqual(['z', 'x'])
    expect(shownColumns(box, new Set(['a#x', 'a#y', 'a#z']), 1)).toHaveLength(3)
  })

  it('is searched by every word', () => {
    const [box] = pictureOf([view([node('lab_reading#fat', 0)], [])]).boxes
    expect(matches(box, 'READING fat')).toBe(true)
    expect(matches(box, 'reading protein')).toBe(false)
  })
})

describe('opened boxes', () => {
  it('read back from the address', () => {
    const opened = [{ ref: 'n/a,b', direction: 'upstream' as const }]
    expect(openedOf(openedText(opened))).toEqual(opened)
    expect(openedOf('not what was written')).toEqual([])
    expect(openedOf(undefined)).toEqual([])
  })
})
