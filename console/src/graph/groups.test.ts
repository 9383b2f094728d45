import { describe, expect, it } from 'vitest'
import { groupedBy, pairsOf, withoutKinds, withoutRelations } from './groups'
import type { Box, Picture, Wire } from './picture'

function box(id: string, over: Partial<Box> = {}): Box {
  return {
    id,
    kind: 'table',
    name: id,
    system: 'barn',
    place: 'raw',
    description: undefined,
    hops: -1,
    described: true,
    retired: false,
    state: undefined,
    written: undefined,
    rows: undefined,
    checks: undefined,
    failedChecks: undefined,
    owners: [],
    labels: [],
    terms: [],
    columns: [],
    moreUpstream: 0,
    moreDownstream: 0,
    ...over,
  }
}

function wire(from: string, to: string): Wire {
  return {
    id: `${from}→${to}`,
    from,
    to,
    fromColumn: undefined,
    toColumn: undefined,
    flow: 'ROWS',
    how: 'feeds rows',
    masking: false,
    job: undefined,
    evidence: 'observed',
  }
}

const NONE = new Set<string>()
const names = (picture: Picture) => picture.boxes.map((one) => one.name).sort()

describe('groups of a picture', () => {
  const numbers = [1, 2, 3, 4, 5]
  const fanIn: Picture = {
    boxes: [...numbers.map((n) => box(`raw${n}`)), box('core', { place: 'core' })],
    wires: numbers.map((n) => wire(`raw${n}`, 'core')),
  }
  const copies: Picture = {
    boxes: numbers.flatMap((n) => [box(`a${n}`), box(`b${n}`, { place: 'lake' })]),
    wires: numbers.map((n) => wire(`a${n}`, `b${n}`)),
  }

  it('makes one box of a wide fan-in, with one line', () => {
    const grouped = groupedBy(fanIn, 'alike', NONE, NONE, 'core')
    expect(names(grouped)).toEqual(['5 tables of raw', 'core'])
    expect(grouped.wires).toHaveLength(1)
  })

  it('leaves a member in view outside its group, and opens a group whole', () => {
    const kept = groupedBy(fanIn, 'alike', NONE, new Set(['raw3']), 'core')
    expect(names(kept)).toEqual(['4 tables of raw', 'core', 'raw3'])
    expect([...kept.groups.values()][0].members).toHaveLength(5)
    const [id] = groupedBy(fanIn, 'alike', NONE, NONE, 'core').groups.keys()
    expect(names(groupedBy(fanIn, 'alike', new Set([id]), NONE, 'core'))).toHaveLength(6)
  })

  it('makes two boxes of a copy of many to many, with their pairs as a list', () => {
    const grouped = groupedBy(copies, 'alike', NONE, NONE, '')
    expect(names(grouped)).toEqual(['5 tables of lake', '5 tables of raw'])
    const group = [...grouped.groups.values()].find((one) => one.members[0].id === 'a1')
    expect(group && pairsOf(copies, group).map((pair) => `${pair.from.id} ${pair.to.id}`)).toEqual([
      'a1 b1',
      'a2 b2',
      'a3 b3',
      'a4 b4',
      'a5 b5',
    ])
  })

  it('does not group what has other neighbours, nor fewer than four', () => {
    const mixed = { ...fanIn, wires: fanIn.wires.slice(0, 3) }
    expect(names(groupedBy(mixed, 'alike', NONE, NONE, 'core'))).toHaveLength(6)
  })

  it('groups by system or place where that is asked for', () => {
    expect(names(groupedBy(fanIn, 'system', NONE, NONE, 'core'))).toEqual(['barn: 5 tables', 'core'])
    expect(names(groupedBy(copies, 'place', NONE, NONE, 'a1'))).toEqual([
      'a1',
      'lake: 5 tables',
      'raw: 4 tables',
    ])
  })

  it('leaves out a relation, and what only it led to', () => {
    const held = {
      boxes: [box('chart'), box('report'), box('model')],
      wires: [wire('model', 'chart'), { ...wire('chart', 'report'), flow: 'HOLDS' }],
    }
    expect(names(withoutRelations(held, new Set(['containment']), 'model'))).toEqual(['chart', 'model'])
    expect(names(withoutRelations(held, new Set(['table']), 'model'))).toHaveLength(3)
  })

  it('links through what is hidden', () => {
    const chain = {
      boxes: [box('t'), box('j', { kind: 'job' }), box('u')],
      wires: [wire('t', 'j'), wire('j', 'u')],
    }
    const shown = withoutKinds(chain, new Set(['job']), 't')
    expect(names(shown)).toEqual(['t', 'u'])
    expect(shown.wires.map((one) => `${one.from} ${one.to}`)).toEqual(['t u'])
    expect(names(withoutKinds(chain, new Set(['table']), 't'))).toEqual(['j', 't'])
  })
})
