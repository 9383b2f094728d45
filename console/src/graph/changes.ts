import type { Picture } from './picture'

/** A picture at a moment, with what the one before it did not have, and what only that one had. */
export function withChanges(now: Picture, before: Picture): Picture {
  const had = new Set(before.wires.map((wire) => wire.id))
  const has = new Set(now.wires.map((wire) => wire.id))
  const hadBox = new Set(before.boxes.map((box) => box.id))
  const hasBox = new Set(now.boxes.map((box) => box.id))
  return {
    boxes: [
      ...now.boxes.map((box) => (hadBox.has(box.id) ? box : { ...box, change: 'added' as const })),
      ...before.boxes
        .filter((box) => !hasBox.has(box.id))
        .map((box) => ({ ...box, change: 'removed' as const })),
    ],
    wires: [
      ...now.wires.map((wire) => (had.has(wire.id) ? wire : { ...wire, change: 'added' as const })),
      ...before.wires
        .filter((wire) => !has.has(wire.id))
        .map((wire) => ({ ...wire, change: 'removed' as const })),
    ],
  }
}
