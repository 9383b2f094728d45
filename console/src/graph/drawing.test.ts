import { describe, expect, it } from 'vitest'
import { inks } from '../theme'
import { boxAt, draw, sheetOf } from './drawing'
import type { Box, Picture } from './picture'
import { BOX_WIDTH, HEAD_HEIGHT } from './sizes'

function many(count: number): Picture {
  const boxes = Array.from(
    { length: count },
    (_, i) => ({ id: `n/${i}`, kind: 'table', name: `t${i}`, system: 's' }) as Box,
  )
  const wires = boxes
    .slice(1)
    .map((box, i) => ({ id: `${i}`, from: boxes[i].id, to: box.id }) as Picture['wires'][0])
  return { boxes, wires: [...wires, { ...wires[0], id: 'again' }] }
}

const places = (count: number) =>
  new Map(
    Array.from({ length: count }, (_, i) => [`n/${i}`, { x: (i % 60) * 300, y: Math.floor(i / 60) * 80 }]),
  )

/** Notes what is drawn, since there is no canvas here. */
function pen() {
  const texts: string[] = []
  let lines = 0
  const context = new Proxy(
    { fillText: (text: string) => texts.push(text), moveTo: () => lines++ },
    { get: (known, name) => known[name as keyof typeof known] ?? (() => undefined), set: () => true },
  ) as unknown as CanvasRenderingContext2D
  return { context, texts, drawn: () => lines }
}

const size = { width: 900, height: 600 }
const marked = { focus: 'n/0', picked: 'n/1', found: new Set<string>() }

describe('a picture of thousands of boxes', () => {
  const sheet = sheetOf(many(3000), places(3000))

  it('draws only what is seen, and each pair of boxes one line', () => {
    const near = pen()
    const seen = draw(near.context, sheet, { x: 0, y: 0, zoom: 1 }, size, marked, inks.light)
    expect(seen).toBeGreaterThan(15)
    expect(seen).toBeLessThan(60)
    expect(near.texts).toContain('t1')
    const far = pen()
    expect(draw(far.context, sheet, { x: 0, y: 0, zoom: 0.04 }, size, marked, inks.light)).toBeGreaterThan(
      2000,
    )
    expect(far.texts).toEqual([])
    expect(sheet.lines.length).toBe(2 * 2999)
  })

  it('finds the box under the pointer, also across cells of its grid', () => {
    const at = places(3000)
    for (const number of [0, 1, 61, 1234, 2999]) {
      const { x, y } = at.get(`n/${number}`) ?? { x: 0, y: 0 }
      expect(boxAt(sheet, x + 1, y + 1)?.id).toBe(`n/${number}`)
      expect(boxAt(sheet, x + BOX_WIDTH - 1, y + HEAD_HEIGHT - 1)?.id).toBe(`n/${number}`)
      expect(boxAt(sheet, x - 20, y)).toBeUndefined()
    }
  })
})
