import type { Schemas } from '../api/client'
import { type Point, TimeBars } from '../shared/charts'
import { count } from '../shared/format'

const MINUTES = 60
const MINUTE_MILLIS = 60_000

/** How many events came in each minute of the last hour, as bars. */
export function MinuteBars({ minutes, now = Date.now() }: { minutes: Schemas['Minute'][]; now?: number }) {
  const totals = totalsByAge(minutes, now)
  const most = Math.max(...totals)
  const sum = totals.reduce((a, b) => a + b, 0)
  const points: Point[] = totals
    .map((events, age) => ({
      at: String(age),
      value: events,
      tone: events === 0 ? ('quiet' as const) : ('thread' as const),
      words: `${age === 0 ? 'this minute' : `${age} min ago`}: ${count(events)} events`,
    }))
    .reverse()
  return (
    <TimeBars
      points={points}
      label={`${count(sum)} events in the last hour, at most ${count(most)} in a minute`}
      height={46}
      caption={
        <span>
          {count(sum)} in the last hour, at most {count(most)} a minute
        </span>
      }
    />
  )
}

/** The events of each of the last sixty minutes, this minute first. */
export function totalsByAge(minutes: Schemas['Minute'][], now: number): number[] {
  const totals = new Array<number>(MINUTES).fill(0)
  for (const { minute, events } of minutes) {
    const age = Math.floor(now / MINUTE_MILLIS) - Math.floor(new Date(minute).getTime() / MINUTE_MILLIS)
    if (age >= 0 && age < MINUTES) totals[age] += events
  }
  return totals
}
