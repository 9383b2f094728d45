import { healthLine } from '../health/HealthMark'
import { ago } from '../shared/format'
import type { Box, Workspace } from './queries'

export function isFailed(box: Box): boolean {
  return box.refresh?.state === 'failed' || box.refresh?.state === 'aborted'
}

/** Whether something is wrong with a box, itself or upstream. */
export function inTrouble(box: Box): boolean {
  return isFailed(box) || box.affectedBy.length > 0 || healthLine(box.health) !== undefined
}

/** How a box stands, in one line: its own refresh first, else what it rests on. */
export function stateWords(box: Box): string | undefined {
  if (isFailed(box)) return `refresh failed ${ago(box.refresh?.startedAt)}`
  if (box.affectedBy.length > 0) return 'rests on a failed refresh'
  if (box.refresh) return `refreshed ${ago(box.refresh.completedAt ?? box.refresh.startedAt)}`
  if (!box.matched) return 'not matched'
  return undefined
}

/** Where a box of the outside is: another workspace, or a system with the relays on the way. */
export function placeWords(box: Box, workspace: Workspace): string | undefined {
  if (box.workspace) return `workspace ${box.workspace}`
  if (box.layer !== 'sources' && box.layer !== 'beyond') return undefined
  const relays = relaysOf(box, workspace)
  return relays.length === 0 ? box.system : `${box.system}, through ${relays.join(', ')}`
}

export function relaysOf(box: Box, workspace: Workspace): string[] {
  const through = workspace.connections
    .filter((connection) => box.connections.includes(connection.id))
    .map((connection) => connection.through)
  return workspace.relays.filter((relay) => through.includes(relay.id)).map((relay) => relay.title)
}

export function matchesWords(box: Box, words: string): boolean {
  const text = [box.name, box.ref, box.system, box.workspace, box.kind, ...box.owners].join(' ').toLowerCase()
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word))
}
