import dayjs from 'dayjs'
import relativeTime from 'dayjs/plugin/relativeTime'

dayjs.extend(relativeTime)

/** A time as people read it, in their own zone; nothing for no time. */
export function moment(at: string | undefined): string {
  return at ? dayjs(at).format('YYYY-MM-DD HH:mm') : '–'
}

/** A day as people read it. */
export function day(at: string | undefined): string {
  return at ? dayjs(at).format('YYYY-MM-DD') : '–'
}

/** How long ago a time was, in one unit. */
export function ago(at: string | undefined, now: number = Date.now()): string {
  return at ? dayjs(at).from(now) : 'never'
}

/** How long something took, from nanoseconds to hours. */
export function duration(seconds: number | undefined): string {
  if (seconds === undefined) return '–'
  if (seconds === 0) return '0 s'
  if (seconds < 1e-6) return `${Math.round(seconds * 1e9)} ns`
  if (seconds < 1e-3) return `${Number((seconds * 1e6).toPrecision(3))} µs`
  if (seconds < 1) return `${Number((seconds * 1000).toPrecision(3))} ms`
  if (seconds < 60) return `${seconds.toFixed(1)} s`
  return `${Math.floor(seconds / 60)} min ${Math.round(seconds % 60)} s`
}

/** A pause between reports, in one unit. */
export function pause(seconds: number | undefined): string {
  if (seconds === undefined) return 'too few events'
  if (seconds < 5_400) return `${Math.round(seconds / 60)} min`
  return seconds < 172_800 ? `${Math.round(seconds / 3_600)} h` : `${Math.round(seconds / 86_400)} days`
}

export function count(n: number | undefined): string {
  return n === undefined ? '–' : n.toLocaleString('en')
}

/** The end of a reference that is enough for someone who knows the place. */
export function shortRef(ref: string): string {
  if (isRestricted(ref)) return 'restricted'
  const hash = ref.indexOf('#')
  const path = hash < 0 ? ref : ref.slice(0, hash)
  const column = hash < 0 ? '' : `#${spelled(ref.slice(hash + 1))}`
  const name = path.slice(path.lastIndexOf('/') + 1)
  const parts = name.split('.')
  return parts.slice(-2).join('.') + column
}

/** A column's name as its schema spells it, without the encoding of references. */
export function spelled(path: string): string {
  try {
    return decodeURIComponent(path)
  } catch {
    return path
  }
}

/** A machine's word as people read it: `goes-stale` is "goes stale", `GROUP_BY` "group by". */
export function spoken(word: string): string {
  return word
    .toLowerCase()
    .replace(/[-_]/g, ' ')
    .replace(/\bsql\b/, 'SQL')
}

/** The asset a reference belongs to, its column left off. */
export function assetOf(ref: string): string {
  const hash = ref.indexOf('#')
  return hash < 0 ? ref : ref.slice(0, hash)
}

/** Whether a reference names a job. */
export function isJob(ref: string): boolean {
  return ref.startsWith('@')
}

/** Whether a reference only stands for something that the caller's grants do not cover. */
export function isRestricted(ref: string): boolean {
  return ref.startsWith('restricted/') || ref.startsWith('@restricted/')
}

/** Whether a reference names a system. */
export function isSystem(ref: string): boolean {
  return ref.startsWith('system:')
}

/** The address of an asset's page. */
export function assetPath(ref: string): string {
  return `/asset?ref=${encodeURIComponent(assetOf(ref))}`
}

/** The address of a page that shows one asset or column. */
export function pagePath(page: 'graph' | 'impact' | 'causes' | 'reader', ref: string): string {
  return `/${page}?ref=${encodeURIComponent(ref)}`
}

/** The address of the steps by which a job makes a column. */
export function stepsPath(job: string, column: string): string {
  const name = column.slice(column.indexOf('#') + 1)
  return `/asset?ref=${encodeURIComponent(job)}&tab=steps&column=${encodeURIComponent(name)}`
}

/** The address of a workspace's page. */
export function workspacePath(ref: string): string {
  return `/workspace?ref=${encodeURIComponent(ref)}`
}
