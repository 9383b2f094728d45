import type { Schemas } from '../api/client'
import { count, moment } from '../shared/format'
import { useInks } from '../shared/useInks'

const WIDTH = 360
const HEIGHT = 46
const MINUTES = 60

/** How many events came in each minute of the last hour, as bars. */
export function MinuteBars({ minutes, now = Date.now() }: { minutes: Schemas['Minute'][]; now?: number }) {
  const ink = useInks()
  const totals = totalsByAge(minutes, now)
  const most = Math.max(...totals, 1)
  const sum = totals.reduce((a, b) => a + b, 0)
  const bar = WIDTH / MINUTES
  return (
    <figure style={{ margin: 0 }}>
      <svg
        width={WIDTH}
        height={HEIGHT}
        role="img"
        aria-label={`${count(sum)} events in the last hour, at most ${count(most)} in a minute`}
      >
        <line x1={0} x2={WIDTH} y1={HEIGHT - 0.5} y2={HEIGHT - 0.5} stroke={ink.line} />
        {totals.map((events, age) =>
          events === 0 ? null : (
            <rect
              // biome-ignore lint/suspicious/noArrayIndexKey: a bar is its place
              key={age}
              x={WIDTH - (age + 1) * bar}
              width={bar - 1}
              y={HEIGHT - Math.max(2, (events / most) * (HEIGHT - 4))}
              height={Math.max(2, (events / most) * (HEIGHT - 4))}
              fill={ink.thread}
            >
              <title>{`${moment(new Date(now - age * 60_000).toISOString())}: ${count(events)} events`}</title>
            </rect>
          ),
        )}
      </svg>
      <figcaption style={{ fontSize: 11, textAlign: 'right' }}>
        {count(sum)} in the last hour, at most {count(sum === 0 ? 0 : most)} a minute
      </figcaption>
    </figure>
  )
}

/** The events of each of the last sixty minutes, this minute first. */
export function totalsByAge(minutes: Schemas['Minute'][], now: number): number[] {
  const totals = new Array<number>(MINUTES).fill(0)
  for (const { minute, events } of minutes) {
    const age = Math.floor(now / 60_000) - Math.floor(new Date(minute).getTime() / 60_000)
    if (age >= 0 && age < MINUTES) totals[age] += events
  }
  return totals
}
