import { useMemo } from 'react'
import { moment } from '../shared/format'
import styles from './behind.module.css'
import { chainOf, LABELS, lanesOf, MARK, type Mark, WIDTH } from './lanes'
import type { Exact, Run } from './queries'

const NAME_LENGTH = 38

type Props = { exact: Exact; chosen?: string; onChoose: (run: string | undefined) => void }

/** Which run fed which, over time: a lane for each job, a box for each run with its job's version. */
export function RunLanes({ exact, chosen, onChoose }: Props) {
  const { lanes, marks, lines, height, days } = useMemo(() => lanesOf(exact), [exact])
  const chain = useMemo(() => (chosen ? chainOf(chosen, lines) : undefined), [chosen, lines])
  const bottom = height - 4
  return (
    <figure className={styles.figure} aria-label="Runs by job and time">
      {/* biome-ignore lint/a11y/noSvgWithoutTitle: the figure has the name, and each run its own. */}
      <svg className={styles.lanes} viewBox={`0 0 ${WIDTH} ${height}`}>
        {days.map((tick) => (
          <g key={tick.x}>
            <line className={styles.day} x1={tick.x} x2={tick.x} y1={20} y2={bottom} />
            <text className={styles.dayName} x={tick.x} y={14} textAnchor="middle">
              {tick.label}
            </text>
          </g>
        ))}
        {lanes.map((lane) => (
          <g key={lane.job}>
            <line className={styles.lane} x1={LABELS} x2={WIDTH} y1={lane.y} y2={lane.y} />
            <text className={styles.job} x={0} y={lane.y + 5}>
              <title>{lane.name}</title>
              {shortened(lane.name)}
            </text>
          </g>
        ))}
        {lines.map(({ from, to, certain }) => {
          const lit = !chain || (chain.has(from.run.ref) && chain.has(to.run.ref))
          return (
            <path
              key={`${from.run.ref} ${to.run.ref}`}
              className={`${styles.line} ${certain ? '' : styles.possible} ${lit ? '' : styles.dim}`}
              d={`M${from.x},${from.y} C${from.x + 14},${(from.y + to.y) / 2} ${to.x - 14},${(from.y + to.y) / 2} ${to.x},${to.y}`}
            />
          )
        })}
        {marks.map((mark) => (
          <RunMark
            key={`${mark.run.ref} ${mark.run.job}`}
            mark={mark}
            dim={chain !== undefined && !chain.has(mark.run.ref)}
            chosen={mark.run.ref === chosen}
            onChoose={() => onChoose(mark.run.ref === chosen ? undefined : mark.run.ref)}
          />
        ))}
      </svg>
    </figure>
  )
}

type MarkProps = { mark: Mark; dim: boolean; chosen: boolean; onChoose: () => void }

function RunMark({ mark: { run, x, y }, dim, chosen, onChoose }: MarkProps) {
  const kind = [
    styles.mark,
    run.newest ? styles.older : '',
    run.certain ? '' : styles.possible,
    dim ? styles.dim : '',
    chosen ? styles.chosen : '',
  ].join(' ')
  return (
    // biome-ignore lint/a11y/useSemanticElements: a button has no place inside of a drawing.
    <g
      className={kind}
      role="button"
      tabIndex={0}
      aria-label={wordsFor(run)}
      aria-pressed={chosen}
      onClick={onChoose}
      onKeyDown={(event) => {
        if (event.key === 'Enter' || event.key === ' ') onChoose()
      }}
    >
      <title>{wordsFor(run)}</title>
      <rect x={x - MARK / 2} y={y - MARK / 2} width={MARK} height={MARK} rx={4} />
      <text x={x} y={y + 4.5} textAnchor="middle">
        {run.version ?? '?'}
      </text>
    </g>
  )
}

/** A run in words. */
export function wordsFor(run: Run): string {
  const version = run.version ? `version ${run.version}` : 'version not known'
  const since = run.newest ? `, version ${run.newest.number} has run since ${moment(run.newest.since)}` : ''
  return `${run.name}, ${moment(run.start)}, ${version}${since}, ${run.certain ? 'certain' : 'possible'}`
}

function shortened(name: string): string {
  return name.length <= NAME_LENGTH ? name : `${name.slice(0, NAME_LENGTH - 1)}…`
}
