import { describe, expect, it } from 'vitest'
import { withChanges } from './changes'
import type { Box, Picture, Wire } from './picture'
import { momentWords } from './TimeSlider'

const box = (id: string) => ({ id, name: id, columns: [], hops: 0 }) as unknown as Box
const wire = (from: string, to: string) => ({ id: `${from}→${to}`, from, to }) as unknown as Wire
const picture = (boxes: string[], wires: [string, string][]): Picture => ({
  boxes: boxes.map(box),
  wires: wires.map(([from, to]) => wire(from, to)),
})

describe('a picture with its changes', () => {
  const both = withChanges(
    picture(['a', 'c'], [['a', 'c']]),
    picture(
      ['a', 'b', 'c'],
      [
        ['a', 'c'],
        ['b', 'c'],
      ],
    ),
  )

  it('keeps what ended, and marks it', () => {
    expect(both.boxes.map((one) => [one.id, one.change])).toEqual([
      ['a', undefined],
      ['c', undefined],
      ['b', 'removed'],
    ])
    expect(both.wires.map((one) => [one.id, one.change])).toEqual([
      ['a→c', undefined],
      ['b→c', 'removed'],
    ])
  })

  it('marks what is new', () => {
    const grown = withChanges(picture(['a', 'b'], [['a', 'b']]), picture(['a'], []))
    expect(grown.boxes[1].change).toBe('added')
    expect(grown.wires[0].change).toBe('added')
  })
})

describe('a moment', () => {
  it('says what happened and by whom', () => {
    const words = momentWords({ at: '2031-05-01T02:00:00Z', added: 3, ended: 1, by: ['build', 'load'] })
    expect(words).toContain('3 new, 1 ended, by build and 1 more')
    expect(momentWords(undefined)).toBe('now')
  })
})
