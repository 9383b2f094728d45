/** A time as people read it, in their own zone; nothing for no time. */
export function moment(at: string | undefined): string {
  if (!at) return '–'
  const date = new Date(at)
  const two = (n: number) => String(n).padStart(2, '0')
  return `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())} ${two(date.getHours())}:${two(date.getMinutes())}`
}

/** How long ago a time was, in one unit. */
export function ago(at: string | undefined, now: number = Date.now()): string {
  if (!at) return 'never'
  const minutes = Math.round((now - new Date(at).getTime()) / 60_000)
  if (minutes < 0) return 'in the future'
  if (minutes < 1) return 'just now'
  if (minutes < 90) return `${minutes} min ago`
  const hours = Math.round(minutes / 60)
  return hours < 48 ? `${hours} h ago` : `${Math.round(hours / 24)} days ago`
}

export function duration(seconds: number | undefined): string {
  if (seconds === undefined) return '–'
  if (seconds < 60) return `${seconds.toFixed(1)} s`
  return `${Math.floor(seconds / 60)} min ${Math.round(seconds % 60)} s`
}

/** A rest between reports, in one unit. */
export function rest(seconds: number | undefined): string {
  if (seconds === undefined) return 'too few to tell'
  if (seconds < 5_400) return `${Math.round(seconds / 60)} min`
  return seconds < 172_800 ? `${Math.round(seconds / 3_600)} h` : `${Math.round(seconds / 86_400)} days`
}

export function count(n: number | undefined): string {
  return n === undefined ? '–' : n.toLocaleString('en')
}

/** The part of a reference that is enough for someone who knows the place. */
export function shortRef(ref: string): string {
  const hash = ref.indexOf('#')
  const path = hash < 0 ? ref : ref.slice(0, hash)
  const column = hash < 0 ? '' : ref.slice(hash)
  const name = path.slice(path.lastIndexOf('/') + 1)
  const parts = name.split('.')
  return parts.slice(-2).join('.') + column
}

const FLOWS: Record<string, string> = {
  IDENTITY: 'copied',
  TRANSFORMATION: 'computed',
  AGGREGATION: 'aggregated',
  DIRECT: 'carried',
  HOLDS: 'held',
  ROWS: 'rows run on',
  ROWS_TO_VALUE: 'counts rows',
  COARSE: 'feeds, columns unknown',
  READS: 'read only',
  JOIN: 'joins on it',
  FILTER: 'filters by it',
  GROUP_BY: 'groups by it',
  SORT: 'sorts by it',
  WINDOW: 'windows over it',
  CONDITIONAL: 'decides the value',
  INDIRECT: 'decides',
}

/** A flow in plain words. */
export function flowWords(flow: string): string {
  return FLOWS[flow] ?? flow.toLowerCase()
}

/** The asset a reference belongs to, its column left off. */
export function assetOf(ref: string): string {
  const hash = ref.indexOf('#')
  return hash < 0 ? ref : ref.slice(0, hash)
}

/** The address of an asset's page. */
export function assetPath(ref: string): string {
  return `/asset?ref=${encodeURIComponent(assetOf(ref))}`
}

/** The address of the steps by which a job makes a column. */
export function stepsPath(job: string, column: string): string {
  const name = column.slice(column.indexOf('#') + 1)
  return `/asset?ref=${encodeURIComponent(job)}&tab=steps&column=${encodeURIComponent(name)}`
}
