import { Alert, Empty, Table, type TableColumnsType } from 'antd'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { assetPath, shortRef, spoken, stepsPath } from '../shared/format'
import { AssetLink, KindMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import styles from './asset.module.css'
import { InputColumns } from './InputColumns'
import { useJob } from './queries'

type Column = Schemas['TargetColumn']

/** A job from the inside: each target's columns with how and whence, its inputs' columns below. */
export function JobMap({ refText }: { refText: string }) {
  return (
    <Answer of={useJob(refText)}>
      {(detail) =>
        detail.targets.length + detail.inputs.length === 0 ? (
          <Empty description="No event reported what this job reads or writes." />
        ) : (
          <>
            {detail.targets.map((target) => (
              <TargetMap key={target.ref} job={detail.ref} target={target} />
            ))}
            <InputColumns inputs={detail.inputs} />
          </>
        )
      }
    </Answer>
  )
}

function columnsOf(job: string): TableColumnsType<Column> {
  return [
    { title: 'Column', dataIndex: 'name', render: (name) => <strong>{name}</strong> },
    { title: 'Type', dataIndex: 'type', render: (type) => <span className={shared.quiet}>{type}</span> },
    {
      title: 'How',
      render: (_, column) => (
        <Link
          to={stepsPath(job, `#${column.name}`)}
          title="The steps that make it"
          className={column.from.length > 0 ? shared.thread : shared.quiet}
        >
          {howWords(column)}
        </Link>
      ),
    },
    {
      title: 'From',
      render: (_, column) =>
        column.from.map((from) => (
          <div key={from.ref}>
            <Link to={assetPath(from.ref)} title={from.ref}>
              {shortRef(from.ref)}
            </Link>
            {from.masking && <small> masked</small>}
          </div>
        )),
    },
  ]
}

function howWords(column: Column): string {
  const words = [...new Set(column.from.flatMap((from) => from.how))]
  if (column.constants.length > 0) words.push(`constant ${column.constants.join(' or ')}`)
  if (words.length > 0) return words.join(', ')
  return column.reported ? 'row count' : 'not reported'
}

function TargetMap({ job, target }: { job: string; target: Schemas['Target'] }) {
  return (
    <section className={styles.target}>
      <h2 className={shared.heading}>
        Writes <KindMark kind={target.kind} /> <AssetLink refText={target.ref} name={target.name} />
      </h2>
      {target.missing && <Alert type="warning" title={target.missing} className={shared.below} />}
      <Table
        size="small"
        pagination={false}
        rowKey="name"
        dataSource={target.columns}
        columns={columnsOf(job)}
      />
      {target.rows.length > 0 && (
        <p className={styles.deciding}>
          Columns that filter, join or group:{' '}
          {target.rows.map((row, i) => (
            <span key={row.ref}>
              {i > 0 && ', '}
              <Link to={assetPath(row.ref)}>{shortRef(row.ref)}</Link> {row.flows.map(spoken).join(', ')}
            </span>
          ))}
        </p>
      )}
    </section>
  )
}
