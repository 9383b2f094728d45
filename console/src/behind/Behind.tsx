import { Alert, Table, type TableColumnsType, Tooltip } from 'antd'
import { type ReactNode, useState } from 'react'
import { Link } from 'react-router'
import { Answer } from '../shared/Answer'
import { moment, shortRef } from '../shared/format'
import { AssetLink, KindMark, StateMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import styles from './behind.module.css'
import { ProofMenu } from './ProofMenu'
import { type Exact, type Run, useBehind } from './queries'
import { RunLanes } from './RunLanes'

const MAX_LANES = 400

/** The address of the page that shows the runs behind an asset or a run. */
export function behindPath(ref: string, asOf?: string): string {
  return `/behind?ref=${encodeURIComponent(ref)}${asOf ? `&asOf=${encodeURIComponent(asOf)}` : ''}`
}

/** Which runs made what is there: what is certain, what is not and why, and which versions ran. */
export function Behind({ refText, asOf }: { refText: string; asOf?: string }) {
  return (
    <Answer of={useBehind(refText, asOf)}>
      {(exact) => (
        <Found
          key={exact.at}
          exact={exact}
          proof={!refText.startsWith('run:') && <ProofMenu refText={refText} asOf={asOf} />}
        />
      )}
    </Answer>
  )
}

function Found({ exact, proof }: { exact: Exact; proof: ReactNode }) {
  const [chosen, choose] = useState<string>()
  const drawn = exact.runs.length > 1 && exact.runs.length <= MAX_LANES
  return (
    <section aria-label="Runs behind it">
      <p className={`${styles.summary} ${shared.bar}`}>
        {exact.summary}
        <span className={shared.space} />
        {proof}
      </p>
      {exact.outdated.map((words) => (
        <p key={words} className={styles.outdated}>
          {words.replace(/since (\S+)$/, (_, at) => `since ${moment(at)}`)}.
        </p>
      ))}
      {drawn && <RunLanes exact={exact} chosen={chosen} onChoose={choose} />}
      {drawn && <Legend />}
      <Ambiguous exact={exact} />
      <RunTable exact={exact} chosen={chosen} onChoose={choose} />
      <Sources exact={exact} />
    </section>
  )
}

function Legend() {
  return (
    <p className={`${shared.quiet} ${styles.legend}`}>
      The number is the version of the job that ran. <span className={styles.sampleOlder}>1</span> a newer
      version has run since. <span className={styles.samplePossible}>1</span> possible, not certain. Choose a
      run to see only what it fed and what fed it.
    </p>
  )
}

/** Readings that have more than one possible answer, each with the reason. */
function Ambiguous({ exact }: { exact: Exact }) {
  const name = new Map(exact.runs.map((run) => [run.ref, `${run.name} of ${moment(run.start)}`]))
  const lines = exact.uses.flatMap((use) =>
    use.loads
      .filter((load) => !load.certain)
      .map((load) => ({
        key: `${use.reader} ${use.asset} ${load.run}`,
        words: `${use.reader ? (name.get(use.reader) ?? 'a run') : 'What is there now'} may have read ${use.name} as ${name.get(load.run) ?? 'a run beyond these'} wrote it: ${load.doubts.map((doubt) => doubt.words).join('; ')}.`,
      })),
  )
  const problems = exact.uses.flatMap((use) => (use.problem ? [`${use.name}: ${use.problem}.`] : []))
  if (lines.length + problems.length === 0) return null
  return (
    <Alert
      className={styles.ambiguous}
      type="warning"
      title={`${lines.length} ambiguous`}
      description={
        <ul className={styles.doubts}>
          {lines.map((line) => (
            <li key={line.key}>{line.words}</li>
          ))}
          {problems.map((words) => (
            <li key={words}>{words}</li>
          ))}
        </ul>
      }
    />
  )
}

type TableProps = { exact: Exact; chosen?: string; onChoose: (run: string | undefined) => void }

function RunTable({ exact, chosen, onChoose }: TableProps) {
  const reads = new Map<string, Exact['uses']>()
  for (const use of exact.uses) {
    if (use.reader) reads.set(use.reader, [...(reads.get(use.reader) ?? []), use])
  }
  const columns: TableColumnsType<Run> = [
    {
      title: 'Started',
      width: 150,
      render: (_, run) => <Link to={behindPath(run.ref)}>{moment(run.start)}</Link>,
    },
    { title: 'Job', render: (_, run) => <AssetLink refText={run.job} name={run.name} /> },
    { title: 'State', width: 120, render: (_, run) => <StateMark state={run.state} /> },
    {
      title: 'Version',
      width: 130,
      render: (_, run) => (
        <Tooltip title={run.newest?.changes.join('; ')}>
          <span className={run.newest ? shared.wait : undefined}>
            {run.version ?? 'not known'}
            {run.newest && `, now ${run.newest.number}`}
          </span>
        </Tooltip>
      ),
    },
    {
      title: 'Read',
      render: (_, run) =>
        (reads.get(run.ref) ?? []).map((use) => (
          <div key={use.asset}>
            <KindMark kind={use.kind} /> <AssetLink refText={use.asset} name={use.name} />{' '}
            {use.part && <span className={shared.quiet}>{use.part}</span>}
          </div>
        )),
    },
    { title: 'Hops', width: 60, align: 'right', dataIndex: 'hops' },
    { title: '', width: 90, render: (_, run) => (run.certain ? 'certain' : <em>possible</em>) },
  ]
  return (
    <Table<Run>
      size="small"
      rowKey={(run) => `${run.ref} ${run.job}`}
      dataSource={exact.runs}
      columns={columns}
      pagination={pagesOf(exact.runs)}
      rowClassName={(run) => (run.ref === chosen ? styles.chosenRow : '')}
      onRow={(run) => ({ onClick: () => onChoose(run.ref) })}
    />
  )
}

function Sources({ exact }: { exact: Exact }) {
  if (exact.sources.length === 0) return null
  return (
    <p>
      Sources, which no known run had written by then:{' '}
      {exact.sources.map((source, i) => (
        <span key={source}>
          {i > 0 && ', '}
          <AssetLink refText={source} name={shortRef(source)} />
        </span>
      ))}
    </p>
  )
}
