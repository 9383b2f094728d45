import type { Box, Picture, Wire } from './picture'

/** How boxes are grouped: those alike in kind, place and neighbours, or all of one place. */
export type Grouping = 'alike' | 'system' | 'place' | 'none'

/** What belongs together; those kept in view are members too, though they stand for themselves. */
export type Group = { id: string; members: Box[] }

/** A picture with groups in the place of their members. */
export type GroupedPicture = Picture & { groups: Map<string, Group> }

const MIN_ALIKE = 4
const ROUNDS = 2

export function isGroup(id: string): boolean {
  return id.startsWith('group:')
}

/**
 * Groups boxes. Alike are boxes of one kind and place whose neighbours are alike in their turn, so that
 * a wide fan-in, shards, and a copy of many tables to many become one box each; never the focus, what is kept
 * in view, or fewer than four.
 *
 * @param opened groups that show their members
 * @param kept boxes that stand for themselves
 */
export function groupedBy(
  picture: Picture,
  grouping: Grouping,
  opened: Set<string>,
  kept: Set<string>,
  focus: string,
): GroupedPicture {
  if (grouping === 'none') return { ...picture, groups: new Map() }
  const free = picture.boxes.filter((box) => box.id !== focus)
  const keys = grouping === 'alike' ? alike(picture, free) : byPlace(free, grouping)
  const members = new Map<string, Box[]>()
  for (const box of free) {
    const key = keys.get(box.id)
    if (key === undefined) continue
    const known = members.get(key)
    if (known) known.push(box)
    else members.set(key, [box])
  }
  const groups = new Map<string, Group>()
  const home = new Map<string, string>()
  for (const [key, boxes] of members) {
    const id = `group:${key}`
    if (boxes.length < (grouping === 'alike' ? MIN_ALIKE : 2)) continue
    groups.set(id, { id, members: boxes })
    if (opened.has(id)) continue
    for (const box of boxes) if (!kept.has(box.id)) home.set(box.id, id)
  }
  return { ...merged(picture, home, groups, grouping), groups }
}

function alike(picture: Picture, free: Box[]): Map<string, string> {
  let colours = new Map(
    picture.boxes.map((box) => [box.id, [box.kind, box.system, box.place ?? ''].join(' ')]),
  )
  const into = neighboursOf(picture, 'to', 'from')
  const outOf = neighboursOf(picture, 'from', 'to')
  for (let round = 0; round < ROUNDS; round++) {
    const next = new Map<string, string>()
    for (const box of picture.boxes) {
      const sets = [into, outOf].map((side) => {
        const all = (side.get(box.id) ?? []).map((other) => colours.get(other) ?? '')
        return [...new Set(all)].sort().join('|')
      })
      next.set(box.id, short(`${colours.get(box.id)} < ${sets[0]} > ${sets[1]}`))
    }
    colours = next
  }
  const wanted = new Set(free.map((box) => box.id))
  return new Map([...colours].filter(([id]) => wanted.has(id)))
}

function neighboursOf(picture: Picture, here: 'from' | 'to', there: 'from' | 'to'): Map<string, string[]> {
  const found = new Map<string, string[]>()
  for (const wire of picture.wires) {
    const known = found.get(wire[here])
    if (known) known.push(wire[there])
    else found.set(wire[here], [wire[there]])
  }
  return found
}

/** A short text that stands for a long one (FNV-1a). */
function short(text: string): string {
  let hash = 0x811c9dc5
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193)
  return (hash >>> 0).toString(36)
}

function byPlace(free: Box[], grouping: 'system' | 'place'): Map<string, string> {
  const keys = new Map<string, string>()
  for (const box of free) {
    const key = grouping === 'system' ? box.system : box.place
    if (key) keys.set(box.id, grouping === 'system' ? key : `${box.system} ${key}`)
  }
  return keys
}

function merged(
  picture: Picture,
  home: Map<string, string>,
  groups: Map<string, Group>,
  grouping: Grouping,
): Picture {
  const boxes = picture.boxes.filter((box) => !home.has(box.id))
  for (const id of new Set(home.values())) {
    const group = groups.get(id)
    if (group) {
      const inside = group.members.filter((box) => home.get(box.id) === id)
      boxes.push(groupBox({ id, members: inside }, grouping))
    }
  }
  const wires = new Map<string, Wire>()
  for (const wire of picture.wires) {
    const from = home.get(wire.from)
    const to = home.get(wire.to)
    if (!from && !to) {
      wires.set(wire.id, wire)
      continue
    }
    const one: Wire = {
      ...wire,
      id: `${from ?? wire.from}→${to ?? wire.to}`,
      from: from ?? wire.from,
      to: to ?? wire.to,
      fromColumn: from ? undefined : wire.fromColumn,
      toColumn: to ? undefined : wire.toColumn,
      job: undefined,
    }
    if (one.from !== one.to) wires.set(one.id, one)
  }
  return { boxes, wires: [...wires.values()] }
}

function groupBox({ id, members }: Group, grouping: Grouping): Box {
  const [first] = members
  const kinds = [...new Set(members.map((box) => box.kind))]
  const systems = [...new Set(members.map((box) => box.system))]
  const places = [...new Set(members.map((box) => box.place))]
  const what = kinds.length === 1 ? plural(kinds[0]) : 'items'
  const place = places.length === 1 ? places[0] : undefined
  const name =
    grouping === 'system'
      ? `${systems[0]}: ${members.length} ${what}`
      : grouping === 'place'
        ? `${place}: ${members.length} ${what}`
        : `${members.length} ${what}${place ? ` of ${place}` : ''}`
  return {
    ...first,
    id,
    kind: kinds.length === 1 ? kinds[0] : 'system',
    name,
    system: systems.join(', '),
    hops: members.reduce((near, box) => (Math.abs(box.hops) < Math.abs(near) ? box.hops : near), first.hops),
    described: members.some((box) => box.described),
    retired: members.every((box) => box.retired),
    state: members.some((box) => box.state === 'failed') ? 'failed' : undefined,
    written: undefined,
    rows: undefined,
    checks: undefined,
    failedChecks: undefined,
    description: undefined,
    owners: [...new Set(members.flatMap((box) => box.owners))],
    labels: [...new Set(members.flatMap((box) => box.labels))],
    terms: [...new Set(members.flatMap((box) => box.terms))],
    columns: [],
    moreUpstream: 0,
    moreDownstream: 0,
    count: members.length,
  }
}

export function plural(kind: string): string {
  return `${kind}s`
}

/** The pairs of a copy of many to many: each member of a group with what it feeds in others. */
export function pairsOf(picture: Picture, group: Group): { from: Box; to: Box }[] {
  const byId = new Map(picture.boxes.map((box) => [box.id, box]))
  const inside = new Set(group.members.map((box) => box.id))
  const pairs = new Map<string, { from: Box; to: Box }>()
  for (const wire of picture.wires) {
    const from = byId.get(wire.from)
    const to = byId.get(wire.to)
    if (from && to && inside.has(from.id)) pairs.set(`${from.id} ${to.id}`, { from, to })
  }
  return [...pairs.values()].sort((a, b) => a.from.name.localeCompare(b.from.name))
}

/** Relations that may be hidden like kinds of boxes, with the flows that they are. */
export const RELATIONS: Record<string, string[]> = {
  containment: ['HOLDS'],
  'filters and joins': ['JOIN', 'FILTER', 'GROUP_BY', 'SORT', 'WINDOW', 'CONDITIONAL', 'INDIRECT'],
  'unknown columns': ['COARSE', 'READS'],
}

/** The picture without lines of some relations, and without boxes that only those led to. */
export function withoutRelations(picture: Picture, names: Set<string>, focus: string): Picture {
  const flows = new Set(Object.entries(RELATIONS).flatMap(([name, ofIt]) => (names.has(name) ? ofIt : [])))
  if (flows.size === 0) return picture
  const wires = picture.wires.filter((wire) => !flows.has(wire.flow))
  const linked = new Set(wires.flatMap((wire) => [wire.from, wire.to]))
  return { boxes: picture.boxes.filter((box) => box.id === focus || linked.has(box.id)), wires }
}

/** The picture without boxes of some kinds; what they stood between is linked through. */
export function withoutKinds(picture: Picture, kinds: Set<string>, focus: string): Picture {
  const hidden = new Set(
    picture.boxes.filter((box) => box.id !== focus && isHidden(box, kinds)).map((box) => box.id),
  )
  let wires = picture.wires
  for (const id of hidden) {
    const into = wires.filter((wire) => wire.to === id)
    const out = wires.filter((wire) => wire.from === id)
    wires = wires.filter((wire) => wire.from !== id && wire.to !== id)
    const through = into.flatMap((a) =>
      out
        .filter((b) => a.from !== b.to)
        .map((b) => ({ ...b, id: `${a.from}→${b.to}`, from: a.from, fromColumn: undefined, job: undefined })),
    )
    const known = new Set(wires.map((wire) => `${wire.from} ${wire.to}`))
    for (const wire of through) {
      if (!known.has(`${wire.from} ${wire.to}`)) wires.push(wire)
      known.add(`${wire.from} ${wire.to}`)
    }
  }
  return { boxes: picture.boxes.filter((box) => !hidden.has(box.id)), wires }
}

function isHidden(box: Box, kinds: Set<string>): boolean {
  return kinds.has(box.kind) || (kinds.has('only mentioned') && !box.described)
}
