import { Empty, Segmented, Table, type TableColumnsType } from 'antd'
import type { Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { type Point, TimeBars } from '../shared/charts'
import { count, moment, spoken } from '../shared/format'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import { useUrlState } from '../shared/useUrlState'
import styles from './asset.module.css'
import { useStatistics } from './queries'

type Statistic = Schemas['Statistic']

const COLUMNS: TableColumnsType<Statistic> = [
  { title: 'At', dataIndex: 'at', render: moment, width: 140 },
  { title: 'Reported as', dataIndex: 'reportedBy', render: spoken, width: 110 },
  { title: 'Rows', dataIndex: 'rows', align: 'right', render: count },
  { title: 'Bytes', dataIndex: 'bytes', align: 'right', render: count },
  { title: 'Files', dataIndex: 'files', align: 'right', render: count },
  {
    title: 'Columns measured',
    dataIndex: 'columns',
    render: (columns: Record<string, unknown>) => Object.keys(columns).join(', '),
  },
]

const CAPTIONS: Record<string, string> = { read: 'Rows read by runs', written: 'Rows written by runs' }

function captionOf(reportedBy: string): string {
  return CAPTIONS[reportedBy] ?? `Rows, reported by ${spoken(reportedBy)}`
}

/** How many rows were read and written over time: as a chart, and the same numbers as a table. */
export function Statistics({ refText }: { refText: string }) {
  const [read, write] = useUrlState()
  const statistics = useStatistics(refText)
  const view = read('counts') ?? 'chart'
  return (
    <Answer of={statistics}>
      {(answer) =>
        answer.statistics.length === 0 ? (
          <Empty description="No run reported how many rows it read or wrote." />
        ) : (
          <>
            <div className={styles.chartHead}>
              <Segmented
                size="small"
                value={view}
                onChange={(next) => write({ counts: next })}
                options={[
                  { value: 'chart', label: 'Chart' },
                  { value: 'table', label: 'Table' },
                ]}
              />
              <span className={shared.quiet}>{answer.statistics.length} reports</span>
            </div>
            {view === 'chart' ? <RowCharts statistics={answer.statistics} /> : <RowTable of={answer} />}
          </>
        )
      }
    </Answer>
  )
}

function RowTable({ of }: { of: Schemas['StatisticList'] }) {
  return (
    <Table
      size="small"
      className={shared.panel}
      rowKey={(one) => `${one.at} ${one.reportedBy} ${one.run}`}
      pagination={pagesOf(of.statistics, 50)}
      dataSource={of.statistics}
      columns={COLUMNS}
    />
  )
}

function RowCharts({ statistics }: { statistics: Statistic[] }) {
  const reporters = [...new Set(statistics.map((one) => one.reportedBy))]
  return reporters.map((reportedBy) => {
    const points = rowCountsOf(statistics, reportedBy)
    if (points.length === 0) return null
    const newest = points[points.length - 1]
    return (
      <div key={reportedBy} className={styles.charts}>
        <TimeBars
          points={points}
          label={`${captionOf(reportedBy)}, newest ${count(newest.value)}`}
          height={110}
          scale={count}
          caption={
            <>
              <span>{captionOf(reportedBy)}, newest on the right</span>
              <span>newest {newest.words}</span>
            </>
          }
        />
      </div>
    )
  })
}

/** The row counts one kind of report gave, oldest first; a count of none stands out. */
export function rowCountsOf(statistics: Statistic[], reportedBy: string): Point[] {
  return statistics
    .filter((one) => one.reportedBy === reportedBy && one.rows !== undefined)
    .map((one) => ({
      at: `${one.at} ${one.run}`,
      value: one.rows ?? 0,
      words: `${moment(one.at)}: ${count(one.rows)} rows`,
      tone: one.rows === 0 ? ('bad' as const) : ('thread' as const),
    }))
    .reverse()
}
