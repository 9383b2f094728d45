import type { Exact, Run } from './queries'

export type Lane = { job: string; name: string; y: number }
export type Mark = { run: Run; x: number; y: number }
export type Line = { from: Mark; to: Mark; certain: boolean }
export type Lanes = { lanes: Lane[]; marks: Mark[]; lines: Line[]; height: number; days: Tick[] }
type Tick = { x: number; label: string }

export const WIDTH = 1180
export const LABELS = 290
export const MARK = 20
const LANE = 30
const TOP = 26
const RIGHT = 24
const DAY = 86_400_000

/** Runs in one lane for each job, the farthest at the top, and by their start from left to right. */
export function lanesOf({ runs, uses }: Pick<Exact, 'runs' | 'uses'>): Lanes {
  const nearest = new Map<string, { name: string; hops: number; start: string }>()
  for (const run of runs) {
    const before = nearest.get(run.job)
    if (!before || run.hops < before.hops) {
      nearest.set(run.job, { name: run.name, hops: run.hops, start: run.start })
    }
  }
  const lanes = [...nearest]
    .sort(([, a], [, b]) => b.hops - a.hops || a.start.localeCompare(b.start))
    .map(([job, { name }], i) => ({ job, name, y: TOP + i * LANE + LANE / 2 }))
  const yOf = new Map(lanes.map((lane) => [lane.job, lane.y]))
  const times = runs.map((run) => Date.parse(run.start))
  const first = Math.min(...times)
  const last = Math.max(...times)
  const place = (at: number) =>
    LABELS + MARK + ((WIDTH - RIGHT - LABELS - 2 * MARK) * (at - first)) / Math.max(1, last - first)
  const marks = runs.map((run) => ({ run, x: place(Date.parse(run.start)), y: yOf.get(run.job) ?? TOP }))
  const byRef = new Map(marks.map((mark) => [mark.run.ref, mark]))
  const lines = uses.flatMap((use) => {
    const to = use.reader ? byRef.get(use.reader) : undefined
    return use.loads.flatMap((load) => {
      const from = byRef.get(load.run)
      return from && to ? [{ from, to, certain: load.certain }] : []
    })
  })
  return {
    lanes,
    marks: spread(marks),
    lines,
    height: TOP + lanes.length * LANE + 6,
    days: ticks(first, last, place),
  }
}

/** Runs of one job that started so close together that they would cover each other are set apart. */
function spread(marks: Mark[]): Mark[] {
  const lastOf = new Map<number, number>()
  for (const mark of [...marks].sort((a, b) => a.x - b.x)) {
    const before = lastOf.get(mark.y)
    if (before !== undefined && mark.x < before + MARK / 2) mark.x = before + MARK / 2
    lastOf.set(mark.y, mark.x)
  }
  return marks
}

function ticks(first: number, last: number, place: (at: number) => number): Tick[] {
  if (!Number.isFinite(first)) return []
  const days = Math.max(1, Math.ceil((last - first) / DAY))
  const step = Math.max(1, Math.ceil(days / 9)) * DAY
  const found = []
  for (let at = first; at <= last + 1; at += step) {
    found.push({ x: place(at), label: new Date(at).toISOString().slice(5, 10) })
  }
  return found
}

/** The runs that feed a run or are fed by it, near and far. */
export function chainOf(ref: string, lines: Line[]): Set<string> {
  const chain = new Set([ref])
  const follow = (from: (line: Line) => string, to: (line: Line) => string) => {
    const open = [ref]
    const seen = new Set(open)
    for (let at = open.pop(); at !== undefined; at = open.pop()) {
      for (const line of lines) {
        if (from(line) === at && !seen.has(to(line))) {
          seen.add(to(line))
          open.push(to(line))
        }
      }
    }
    for (const one of seen) chain.add(one)
  }
  follow(
    (line) => line.to.run.ref,
    (line) => line.from.run.ref,
  )
  follow(
    (line) => line.from.run.ref,
    (line) => line.to.run.ref,
  )
  return chain
}
