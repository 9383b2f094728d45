import type { Inks } from '../theme'

export type SvgBox = {
  x: number
  y: number
  width: number
  height: number
  title: string
  lines: string[]
  dashed: boolean
  marked: boolean
}
export type SvgPath = { d: string; dashed: boolean }
export type SvgPicture = { boxes: SvgBox[]; paths: SvgPath[] }

const MARGIN = 24
const FONT = "'Source Sans 3','Segoe UI','Noto Sans','DejaVu Sans',sans-serif"
const WIDE = 7.2 // px of a character at 13 px

/** A picture as a document of its own, in the colours it is shown in. */
export function svgText(
  { boxes, paths }: SvgPicture,
  ink: Inks,
): { text: string; width: number; height: number } {
  const left = Math.min(...boxes.map((box) => box.x), 0) - MARGIN
  const top = Math.min(...boxes.map((box) => box.y), 0) - MARGIN
  const width = Math.ceil(Math.max(...boxes.map((box) => box.x + box.width), 0) + MARGIN - left)
  const height = Math.ceil(Math.max(...boxes.map((box) => box.y + box.height), 0) + MARGIN - top)
  const text = [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="${left} ${top} ${width} ${height}" font-family="${FONT}">`,
    `<rect x="${left}" y="${top}" width="${width}" height="${height}" fill="${ink.page}"/>`,
    ...paths.map(
      ({ d, dashed }) =>
        `<path d="${d}" fill="none" stroke="${ink.quiet}"${dashed ? ' stroke-dasharray="2 4"' : ''}/>`,
    ),
    ...boxes.flatMap((box) => boxText(box, ink)),
    '</svg>',
  ].join('\n')
  return { text, width, height }
}

function boxText(box: SvgBox, ink: Inks): string[] {
  const most = Math.floor((box.width - 14) / WIDE)
  const stroke = box.marked ? ink.thread : ink.line
  const dash = box.dashed ? ' stroke-dasharray="4 3"' : ''
  const lines = box.lines.map(
    (line, i) =>
      `<text x="${box.x + 7}" y="${box.y + 34 + i * 17}" font-size="11" fill="${ink.quiet}">${escaped(cut(line, most + 3))}</text>`,
  )
  return [
    `<rect x="${box.x}" y="${box.y}" width="${box.width}" height="${box.height}" rx="3" fill="${ink.panel}" stroke="${stroke}"${dash}/>`,
    `<text x="${box.x + 7}" y="${box.y + 18}" font-size="13" font-weight="600" fill="${ink.text}">${escaped(cut(box.title, most))}</text>`,
    ...lines,
  ]
}

function cut(text: string, most: number): string {
  return text.length <= most ? text : `${text.slice(0, Math.max(1, most - 1))}…`
}

function escaped(text: string): string {
  return text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;')
}

/** Saves a picture as SVG, or as PNG at twice its size. */
export function download(picture: SvgPicture, ink: Inks, name: string, as: 'svg' | 'png') {
  const { text, width, height } = svgText(picture, ink)
  const source = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`
  if (as === 'svg') {
    save(source, `${name}.svg`)
    return
  }
  const image = new Image()
  image.onload = () => {
    const canvas = document.createElement('canvas')
    // A browser draws no canvas beyond some 16,000 px.
    const scale = Math.min(2, 16_000 / Math.max(width, height))
    canvas.width = width * scale
    canvas.height = height * scale
    canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height)
    save(canvas.toDataURL('image/png'), `${name}.png`)
  }
  image.src = source
}

function save(address: string, name: string) {
  const link = document.createElement('a')
  link.href = address
  link.download = name.replace(/[^\w.-]+/g, '-')
  link.click()
}
