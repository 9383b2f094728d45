import { Empty } from 'antd'
import type { Schemas } from '../api/client'
import { RunTable } from '../runs/RunTable'
import { type Point, TimeBars } from '../shared/charts'
import { duration, moment } from '../shared/format'
import styles from './asset.module.css'

type Run = Schemas['RunRow']

const TONES: Record<string, Point['tone']> = { failed: 'bad', aborted: 'bad', completed: 'good' }
/** A single bar compares nothing. */
const CHART_FROM = 3

/** The runs behind an asset: how long each took, as bars, and all of them in a table. */
export function RunHistory({ runs }: { runs: Run[] }) {
  if (runs.length === 0) {
    return <Empty description="No run is known. Runs appear as soon as a job sends events." />
  }
  const points = durationsOf(runs)
  return (
    <>
      {points.length >= CHART_FROM && (
        <div className={styles.charts}>
          <TimeBars
            points={points}
            label={`Duration of the last ${points.length} runs`}
            scale={duration}
            caption={
              <>
                <span>Duration of the last {points.length} runs, newest on the right</span>
                <span>{stateWords(runs)}</span>
              </>
            }
          />
        </div>
      )}
      <RunTable runs={runs} />
    </>
  )
}

/** Each run that has an end as one bar, oldest first. */
export function durationsOf(runs: Run[]): Point[] {
  return runs
    .filter((run) => run.seconds !== undefined)
    .map((run) => ({
      at: `${run.start} ${run.ref}`,
      value: run.seconds ?? 0,
      words: `${moment(run.start)}: ${run.state}, ${duration(run.seconds)}`,
      tone: TONES[run.state] ?? ('quiet' as const),
    }))
    .reverse()
}

function stateWords(runs: Run[]): string {
  const counts = new Map<string, number>()
  for (const run of runs) counts.set(run.state, (counts.get(run.state) ?? 0) + 1)
  return [...counts].map(([state, n]) => `${n} ${state}`).join(', ')
}
