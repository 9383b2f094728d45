import { describe, expect, it } from 'vitest'
import { inks } from '../theme'
import { svgText } from './svgText'

describe('a picture as SVG', () => {
  const box = { x: 10, y: 0, width: 100, height: 40, lines: ['barn'], dashed: false, marked: false }

  it('is well-formed whatever stands in it, and as large as what it shows', () => {
    const { text, width, height } = svgText(
      {
        boxes: [
          { ...box, title: 'a <b> & "c"' },
          { ...box, x: 300, title: 'a name that is much too long for it' },
        ],
        paths: [{ d: 'M110 20 L300 20', dashed: true }],
      },
      inks.light,
    )
    const document = new DOMParser().parseFromString(text, 'image/svg+xml')
    expect(document.querySelector('parsererror')).toBeNull()
    expect(document.querySelectorAll('rect')).toHaveLength(3)
    expect(document.querySelector('text')?.textContent).toBe('a <b> & "c"')
    expect(text).toContain('…')
    expect([width, height]).toEqual([448, 88])
  })
})
