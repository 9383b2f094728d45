import type { Box, Picture, Wire } from '../graph/picture'
import { assetOf } from '../shared/format'
import type { LabelledPlace } from './queries'

/** The way of a label as a picture: each asset once, with its labelled columns, and each step once. */
export function spreadOf(places: LabelledPlace[]): Picture {
  const boxes = new Map<string, Box>()
  const wires = new Map<string, Wire>()
  for (const place of places) {
    const box = boxes.get(assetOf(place.ref)) ?? boxOf(place)
    const column = columnOf(place.ref)
    if (column && !box.columns.includes(column)) box.columns.push(column)
    box.hops = Math.min(box.hops, place.thread.length)
    boxes.set(box.id, box)
    for (const hop of place.thread) {
      const wire = {
        id: `${hop.from}→${hop.to}`,
        from: assetOf(hop.from),
        to: assetOf(hop.to),
        fromColumn: columnOf(hop.from),
        toColumn: columnOf(hop.to),
        flow: hop.flow,
        how: hop.how,
        masking: hop.masking,
        job: hop.job,
        evidence: 'observed',
      }
      if (wire.from !== wire.to) wires.set(wire.id, wire)
    }
  }
  return {
    boxes: [...boxes.values()],
    wires: [...wires.values()].filter((wire) => boxes.has(wire.from) && boxes.has(wire.to)),
  }
}

function boxOf(place: LabelledPlace): Box {
  const hash = place.name.indexOf('#')
  return {
    id: assetOf(place.ref),
    kind: place.kind,
    name: hash < 0 ? place.name : place.name.slice(0, hash),
    system: place.system,
    place: undefined,
    description: undefined,
    hops: place.thread.length,
    described: true,
    retired: false,
    state: undefined,
    written: undefined,
    rows: undefined,
    checks: undefined,
    failedChecks: undefined,
    owners: place.owners.map((owner) => owner.name),
    labels: [],
    terms: [],
    columns: [],
    moreUpstream: 0,
    moreDownstream: 0,
  }
}

function columnOf(ref: string): string | undefined {
  const hash = ref.indexOf('#')
  return hash < 0 || ref.endsWith('#*') ? undefined : ref.slice(hash + 1)
}
