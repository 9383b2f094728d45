import type { ReactNode } from 'react'
import { Bar, BarChart, Cell, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts'
import styles from './shared.module.css'
import { useInks } from './useInks'

/** Few bars stay narrow: a chart compares, it does not fill. */
const MAX_BAR = 26

/** One bar of a chart: what it is of, how high it is, and what is said of it on hover. */
export type Point = { at: string; value: number; words: string; tone?: 'thread' | 'bad' | 'good' | 'quiet' }

type Props = {
  points: Point[]
  label: string
  caption?: ReactNode
  height?: number
  /** How a value is written at the scale; without it the chart has no scale. */
  scale?: (value: number) => string
  onPick?: (at: string) => void
}

/** Numbers over time as bars, oldest on the left. What it shows is said in words too. */
export function TimeBars({ points, label, caption, height = 64, scale, onPick }: Props) {
  const ink = useInks()
  return (
    <figure className={styles.chart} aria-label={label}>
      <ResponsiveContainer width="100%" height={height}>
        <BarChart
          data={points}
          margin={{ top: 2, right: 0, bottom: 0, left: 0 }}
          barCategoryGap={1}
          maxBarSize={MAX_BAR}
        >
          <XAxis dataKey="at" hide />
          {scale && (
            <YAxis
              width={62}
              tickFormatter={scale}
              tickCount={3}
              tick={{ fill: ink.quiet, fontSize: 11 }}
              axisLine={false}
              tickLine={false}
            />
          )}
          <Tooltip
            cursor={{ fill: ink.line, opacity: 0.5 }}
            isAnimationActive={false}
            content={({ payload }) => <Tip point={payload?.[0]?.payload as Point | undefined} />}
          />
          <Bar
            dataKey="value"
            isAnimationActive={false}
            minPointSize={2}
            cursor={onPick ? 'pointer' : undefined}
            onClick={(bar) => onPick?.(String((bar as { at?: string }).at ?? ''))}
          >
            {points.map((point) => (
              <Cell key={point.at} fill={ink[point.tone ?? 'thread']} />
            ))}
          </Bar>
        </BarChart>
      </ResponsiveContainer>
      {caption && <figcaption className={styles.chartCaption}>{caption}</figcaption>}
    </figure>
  )
}

function Tip({ point }: { point: Point | undefined }) {
  return point ? <div className={styles.chartTip}>{point.words}</div> : null
}
