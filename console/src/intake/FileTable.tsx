import { useQuery } from '@tanstack/react-query'
import { Empty, Table } from 'antd'
import { get, type Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { count, moment } from '../shared/format'
import { useInks } from '../shared/useInks'

/** The files that were picked up, each with what became of it. */
export function FileTable() {
  const ink = useInks()
  const files = useQuery({
    queryKey: ['files'],
    queryFn: ({ signal }) => get<Schemas['TakenFiles']>('intake/files', {}, signal),
  })
  return (
    <Answer of={files}>
      {(answer) =>
        answer.files.length === 0 ? (
          <Empty
            description={
              answer.folder
                ? `No file was picked up from ${answer.folder} yet.`
                : 'No folder is watched. Set LONGTHREAD_FILES_FOLDER; docs/intake.md says how.'
            }
          />
        ) : (
          <Table
            size="small"
            style={{ background: ink.panel, border: `1px solid ${ink.line}` }}
            rowKey={(file) => `${file.path} ${file.firstAt}`}
            pagination={{ pageSize: 25, hideOnSinglePage: true, showSizeChanger: false }}
            dataSource={answer.files}
            columns={[
              { title: 'File', dataIndex: 'path', render: (path) => <strong>{path}</strong> },
              { title: 'Bytes', dataIndex: 'bytes', align: 'right', render: count },
              { title: 'Picked up', dataIndex: 'firstAt', render: moment },
              { title: 'Done', dataIndex: 'doneAt', render: (at) => (at ? moment(at) : 'being taken') },
              { title: 'Accepted', dataIndex: 'accepted', align: 'right', render: count },
              { title: 'Repeated', dataIndex: 'duplicates', align: 'right', render: count },
              {
                title: 'Refused',
                dataIndex: 'refused',
                align: 'right',
                render: (n) => <span style={{ color: n > 0 ? ink.bad : undefined }}>{count(n)}</span>,
              },
              { title: 'Problem', dataIndex: 'problem' },
            ]}
          />
        )
      }
    </Answer>
  )
}
