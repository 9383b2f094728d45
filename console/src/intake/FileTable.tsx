import { Empty, Table, type TableColumnsType } from 'antd'
import type { Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { count, moment } from '../shared/format'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import { useFiles } from './queries'

const COLUMNS: TableColumnsType<Schemas['TakenFile']> = [
  { title: 'File', dataIndex: 'path', render: (path) => <strong>{path}</strong> },
  { title: 'Bytes', dataIndex: 'bytes', align: 'right', render: count },
  { title: 'Picked up', dataIndex: 'firstAt', render: moment },
  { title: 'Imported', dataIndex: 'doneAt', render: (at) => (at ? moment(at) : 'importing') },
  { title: 'Accepted', dataIndex: 'accepted', align: 'right', render: count },
  { title: 'Repeated', dataIndex: 'duplicates', align: 'right', render: count },
  {
    title: 'Refused',
    dataIndex: 'refused',
    align: 'right',
    render: (n) => <span className={n > 0 ? shared.bad : undefined}>{count(n)}</span>,
  },
  { title: 'Problem', dataIndex: 'problem' },
]

/** The files that were picked up, each with what became of it. */
export function FileTable() {
  return (
    <Answer of={useFiles()}>
      {({ folder, files }) =>
        files.length === 0 ? (
          <Empty
            description={
              folder
                ? `No file was picked up from ${folder} yet.`
                : 'No folder is watched. Set LONGTHREAD_FILES_FOLDER; docs/intake.md says how.'
            }
          />
        ) : (
          <Table
            size="small"
            className={shared.panel}
            rowKey={(file) => `${file.path} ${file.firstAt}`}
            pagination={pagesOf(files, 25)}
            dataSource={files}
            columns={COLUMNS}
          />
        )
      }
    </Answer>
  )
}
