import { Switch, Table, type TableColumnsType } from 'antd'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { assetPath, shortRef, spoken } from '../shared/format'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import { useUrlState } from '../shared/useUrlState'
import styles from './asset.module.css'

type Row = Schemas['InputColumn'] & { key: string; dataset: string }

const COLUMNS: TableColumnsType<Row> = [
  {
    title: 'Source column',
    render: (_, row) => (
      <Link to={assetPath(row.dataset)} title={row.dataset}>
        {shortRef(row.dataset)}#{row.name}
      </Link>
    ),
  },
  { title: 'Type', dataIndex: 'type', render: (type) => <span className={shared.quiet}>{type}</span> },
  {
    title: 'Used by',
    render: (_, row) =>
      row.lands.length > 0 ? row.lands.map(shortRef).join(', ') : <em className={shared.quiet}>unused</em>,
  },
  { title: 'Used to', render: (_, row) => row.decides.map(spoken).join(', ') },
]

/** The columns a job reads, each with what it is used by; those that are unused on demand. */
export function InputColumns({ inputs }: { inputs: Schemas['Input'][] }) {
  const [read, write] = useUrlState()
  const unusedOnly = read('unused') === 'yes'
  const all: Row[] = inputs.flatMap((input) =>
    input.columns.map((column) => ({ ...column, key: `${input.ref}#${column.name}`, dataset: input.ref })),
  )
  const rows = unusedOnly ? all.filter((row) => row.lands.length === 0) : all
  return (
    <section>
      <h2 className={styles.reads}>
        Input columns
        <label htmlFor="unused-only" className={styles.unusedOnly}>
          <Switch
            id="unused-only"
            size="small"
            checked={unusedOnly}
            onChange={(on) => write({ unused: on ? 'yes' : undefined })}
          />
          Unused input columns only
        </label>
      </h2>
      <Table size="small" pagination={pagesOf(rows, 60)} dataSource={rows} columns={COLUMNS} />
    </section>
  )
}
