import { Table, type TableColumnsType } from 'antd'
import shared from '../shared/shared.module.css'
import type { Reads, UsedField } from './workspaceItem'

const FIELDS: TableColumnsType<UsedField> = [
  { title: 'Field', dataIndex: 'name', render: (name) => <strong>{name}</strong> },
  { title: 'In the model', dataIndex: 'field' },
  { title: 'Use', dataIndex: 'use', render: (use: string[]) => use.join(', ') },
  { title: 'How', dataIndex: 'text', render: (text) => text && <code>{text}</code> },
]

/** The fields that a chart or page uses, shown or only filtered and sorted by. */
export function UsedFields({ fields }: { fields: UsedField[] }) {
  return (
    <Table
      size="small"
      className={shared.panel}
      rowKey={(field) => `${field.field} ${field.use.join()}`}
      pagination={false}
      dataSource={fields}
      columns={FIELDS}
    />
  )
}

const READS: TableColumnsType<Reads> = [
  { title: 'From', dataIndex: 'from' },
  { title: 'Until', dataIndex: 'until' },
  { title: 'Reads', dataIndex: 'reads', align: 'right' },
  {
    title: 'Readers',
    render: (_, period) => period.readers.map((one) => `${one.name} (${one.reads})`).join(', '),
  },
]

/** Who read a report, by period. */
export function ReadsTable({ reads }: { reads: Reads[] }) {
  return (
    <Table
      size="small"
      className={shared.panel}
      rowKey={(period) => `${period.from} ${period.until}`}
      pagination={false}
      dataSource={reads}
      columns={READS}
    />
  )
}
