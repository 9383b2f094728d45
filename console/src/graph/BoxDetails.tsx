import { Button, Collapse } from 'antd'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { ago, assetPath, isJob, isRestricted, pagePath, shortRef, spelled, stepsPath } from '../shared/format'
import { KindMark, Labels, Owners, StateMark } from '../shared/marks'
import { useAsset } from '../shared/useAsset'
import { BothSides } from './BothSides'
import styles from './graph.module.css'

type Props = { refText: string; column: string | undefined; onRecentre: (ref: string) => void }

/** What a picked box is, beside the picture. */
export function BoxDetails({ refText, column, onRecentre }: Props) {
  const hidden = isRestricted(refText)
  const asset = useAsset(hidden ? undefined : refText)
  if (hidden) {
    return (
      <div className={styles.sideText}>
        <KindMark kind="restricted" />
        <p>Your grants do not cover this. An administrator can grant its system, workspace or label.</p>
      </div>
    )
  }
  return (
    <Answer of={asset}>
      {(detail) => {
        const chosen = detail.columns.find((one) => one.ref === column)
        return (
          <div className={styles.sideText}>
            <KindMark kind={detail.kind} />
            <h2 className={styles.title}>
              <Link to={assetPath(detail.ref)}>{detail.title ?? detail.name}</Link>
            </h2>
            <code className={styles.reference}>{detail.ref}</code>
            {detail.description && <p>{detail.description}</p>}
            <p className={styles.facts}>
              Owner <Owners owners={detail.owners} />
              <br />
              Written {ago(detail.freshness.written)}, last run <StateMark state={detail.freshness.state} />
            </p>
            <Labels labels={detail.labels} />
            {chosen && <ChosenColumn column={chosen} />}
            <Actions asset={detail} column={column} onRecentre={onRecentre} />
            {isJob(detail.ref) && <BothSides job={detail.ref} />}
            {detail.code && <CodeBlock code={detail.code} />}
          </div>
        )
      }}
    </Answer>
  )
}

type ActionProps = Omit<Props, 'refText'> & { asset: Schemas['AssetDetail'] }

function Actions({ asset, column, onRecentre }: ActionProps) {
  return (
    <div className={styles.actions}>
      <Button size="small" onClick={() => onRecentre(asset.ref)}>
        Recentre here
      </Button>
      {!isJob(asset.ref) && (
        <Link to={pagePath('impact', column ?? asset.ref)}>
          <Button size="small">Impact</Button>
        </Link>
      )}
      <Link to={pagePath('causes', asset.ref)}>
        <Button size="small">Causes</Button>
      </Link>
    </div>
  )
}

function CodeBlock({ code }: { code: Schemas['Code'] }) {
  const text = <pre className={`code ${styles.code}`}>{code.text}</pre>
  return (
    <Collapse
      size="small"
      defaultActiveKey="code"
      items={[{ key: 'code', label: code.language.toUpperCase(), children: text }]}
    />
  )
}

function ChosenColumn({ column }: { column: Schemas['ColumnDetail'] }) {
  return (
    <section className={styles.chosen}>
      <strong>{spelled(column.name)}</strong> <span className={styles.quiet}>{column.type}</span>
      {column.description && <p className={styles.chosenMeaning}>{column.description}</p>}
      {column.sources.map((source) => (
        <div key={`${source.ref} ${source.flow} ${source.masking}`}>
          <span className={styles.how}>{source.how}</span> {shortRef(source.ref)}
          {source.jobs.filter(isJob).map((job) => (
            <By key={job} job={job} column={column.name} />
          ))}
        </div>
      ))}
      {column.constants.map((constant) => (
        <div key={`${constant.by} ${constant.text}`}>
          <span className={styles.quiet}>constant</span> <code>{constant.text}</code>
          <By job={constant.by} column={column.name} />
        </div>
      ))}
    </section>
  )
}

function By({ job, column }: { job: string; column: string }) {
  return (
    <small>
      {' '}
      by {isRestricted(job) ? 'restricted' : <Link to={stepsPath(job, `#${column}`)}>{shortRef(job)}</Link>}
    </small>
  )
}
