import { Button, Empty, Table, type TableColumnsType } from 'antd'
import { useState } from 'react'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { EditDialog } from '../hand/EditDialog'
import { useMaySet } from '../hand/queries'
import { assetPath, isJob, pagePath, shortRef, spelled, stepsPath } from '../shared/format'
import { Inherited, Labels, Terms } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'

type Column = Schemas['ColumnDetail']

const columnsOf = (title: string, edit: ((column: Column) => void) | undefined): TableColumnsType<Column> => [
  {
    title,
    dataIndex: 'name',
    sorter: (a, b) => a.name.localeCompare(b.name),
    render: (name, column) => (
      <Link to={pagePath('graph', column.ref)} title="Column lineage">
        <strong>{spelled(name)}</strong>
        {!column.listed && <em className={shared.quiet}> unlisted</em>}
      </Link>
    ),
  },
  { title: 'Type', dataIndex: 'type', render: (type) => <span className={shared.quiet}>{type}</span> },
  {
    title: 'Meaning',
    dataIndex: 'description',
    render: (words, column) => (
      <>
        {words} <Terms terms={column.terms} /> <Labels labels={column.labels} />
        <Inherited labels={column.inherited} />
        {column.calculation && <code className={shared.small}>{column.calculation}</code>}
      </>
    ),
  },
  { title: 'Comes from', dataIndex: 'sources', render: (_, column) => <Sources column={column} /> },
  { title: 'Feeds', dataIndex: 'feeds', align: 'right', sorter: (a, b) => a.feeds - b.feeds },
  ...(edit
    ? [
        {
          title: '',
          align: 'right' as const,
          render: (_: unknown, column: Column) => (
            <Button size="small" type="text" onClick={() => edit(column)}>
              Edit
            </Button>
          ),
        },
      ]
    : []),
]

/** The columns of an asset, each with what it is made of. */
export function Columns({ asset, title }: { asset: Schemas['AssetDetail']; title: string }) {
  const { columns } = asset
  const maySet = useMaySet()
  const [editing, setEditing] = useState<Column>()
  if (columns.length === 0) {
    return (
      <Empty description="No event reported its columns; its lineage is known for the whole asset only." />
    )
  }
  return (
    <>
      <Table
        size="small"
        pagination={pagesOf(columns)}
        rowKey="name"
        dataSource={columns}
        columns={columnsOf(title, maySet ? setEditing : undefined)}
      />
      {editing && <EditDialog asset={asset} column={editing} onClose={() => setEditing(undefined)} />}
    </>
  )
}

function Sources({ column }: { column: Column }) {
  return (
    <>
      {column.sources.map((source) => (
        <div key={`${source.ref} ${source.flow} ${source.masking}`}>
          <Link to={assetPath(source.ref)} title={`${source.ref} by ${source.jobs.join(', ')}`}>
            {shortRef(source.ref)}
          </Link>{' '}
          <How source={source} column={column.name} />
        </div>
      ))}
      {column.constants.map((constant) => (
        <div key={`${constant.by} ${constant.text}`}>
          <Link
            to={stepsPath(constant.by, `#${column.name}`)}
            title={`A branch of ${constant.by} that takes no data from upstream`}
            className={shared.quiet}
          >
            constant
          </Link>{' '}
          <code>{constant.text}</code>
        </div>
      ))}
    </>
  )
}

/** What was done with a source, and which jobs did it, with the way to their steps. */
function How({ source, column }: { source: Schemas['Source']; column: string }) {
  const jobs = source.jobs.filter(isJob)
  const words = source.masking ? `${source.how}, masked` : source.how
  if (jobs.length === 1) {
    return (
      <Link to={stepsPath(jobs[0], `#${column}`)} title={`Steps of ${jobs[0]}`} className={shared.thread}>
        {words}
      </Link>
    )
  }
  return (
    <>
      <span className={shared.thread}>{words}</span>
      {jobs.map((job, at) => (
        <small key={job} className={shared.quiet}>
          {at === 0 ? ' by ' : ', '}
          <Link to={stepsPath(job, `#${column}`)} title={`Steps of ${job}`}>
            {shortRef(job)}
          </Link>
        </small>
      ))}
    </>
  )
}
