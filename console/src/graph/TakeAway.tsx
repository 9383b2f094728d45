import { shortRef } from '../shared/format'
import { ALL_THE_WAY } from '../shared/HopsSelect'
import { PictureMenu } from '../shared/PictureMenu'
import type { SvgPicture } from '../shared/svgText'
import type { Drawn } from './LineageCanvas'
import type { Picture } from './picture'
import { BOX_WIDTH, HEAD_HEIGHT } from './sizes'

type Part = { direction: string; hops: number; detail: string }

type Props = { picture: Picture; drawn: Drawn | undefined; focus: string; part: Part }

const FORMATS = [
  ['csv', 'CSV'],
  ['graphml', 'GraphML'],
  ['dot', 'DOT'],
  ['prov-json', 'PROV-JSON'],
  ['openlineage', 'OpenLineage events'],
] as const

/** The picture as a file, and what it shows in formats that other programs read. */
export function TakeAway({ picture, drawn, focus, part }: Props) {
  return (
    <PictureMenu
      name={shortRef(focus)}
      disabled={!drawn}
      picture={() => drawn && svgOf(picture, drawn)}
      files={FORMATS.map(([as, label]) => ({ label, href: exportPath(focus, as, part) }))}
    />
  )
}

/** The address of a file; steps and systems are views alone, so it has the assets behind them. */
export function exportPath(ref: string, as: string, { direction, hops, detail }: Part): string {
  const query = new URLSearchParams({ ref, as, direction, detail: detail === 'columns' ? detail : 'assets' })
  if (hops < ALL_THE_WAY) query.set('hops', String(hops))
  return `api/v1/export?${query}`
}

/** What is drawn, as boxes and paths; lines go between whole boxes. */
export function svgOf(picture: Picture, { places, heights, columns }: Drawn): SvgPicture {
  const at = new Map(
    picture.boxes.flatMap((box) => {
      const place = places.get(box.id)
      return place ? [[box.id, { ...place, height: heights.get(box.id) ?? HEAD_HEIGHT }] as const] : []
    }),
  )
  return {
    boxes: picture.boxes.flatMap((box) => {
      const place = at.get(box.id)
      return place
        ? [
            {
              ...place,
              width: BOX_WIDTH,
              title: box.name,
              lines: [`${box.kind} · ${box.system}`, ...(columns.get(box.id) ?? [])],
              dashed: !box.described,
              marked: box.hops === 0,
            },
          ]
        : []
    }),
    paths: picture.wires.flatMap((wire) => {
      const from = at.get(wire.from)
      const to = at.get(wire.to)
      if (!from || !to) return []
      const x1 = from.x + BOX_WIDTH
      const y1 = from.y + HEAD_HEIGHT / 2
      const y2 = to.y + HEAD_HEIGHT / 2
      const bend = Math.max(30, (to.x - x1) / 2)
      return [
        {
          d: `M${x1} ${y1} C${x1 + bend} ${y1} ${to.x - bend} ${y2} ${to.x} ${y2}`,
          dashed: wire.flow === 'HOLDS',
        },
      ]
    }),
  }
}
