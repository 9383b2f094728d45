import { Empty, Table, type TableColumnsType } from 'antd'
import { Link } from 'react-router'
import { Answer } from '../shared/Answer'
import { workspacePath } from '../shared/format'
import { Since } from '../shared/Since'
import shared from '../shared/shared.module.css'
import { type ListedWorkspace, useWorkspaces } from './queries'

const COLUMNS: TableColumnsType<ListedWorkspace> = [
  {
    title: 'Workspace',
    dataIndex: 'title',
    sorter: (a, b) => a.title.localeCompare(b.title),
    render: (title, one) => (
      <>
        <Link to={workspacePath(one.ref)}>
          <strong>{title}</strong>
        </Link>
        {one.description && <div className={shared.quiet}>{one.description}</div>}
      </>
    ),
  },
  { title: 'System', dataIndex: 'system' },
  { title: 'Holds', dataIndex: 'counts', render: (_, one) => countWords(one) },
  {
    title: 'Last refresh',
    dataIndex: 'refreshed',
    render: (at) => <Since at={at} never="never" />,
  },
  {
    title: 'Refreshes',
    dataIndex: 'failed',
    render: (failed: string[]) =>
      failed.length === 0 ? (
        <span className={shared.good}>all completed</span>
      ) : (
        <span className={shared.bad}>failed: {failed.join(', ')}</span>
      ),
  },
  {
    title: 'Sources not matched',
    dataIndex: 'unmatched',
    align: 'right',
    render: (n) => (n === 0 ? <span className={shared.quiet}>–</span> : n),
  },
  { title: 'Owner', dataIndex: 'owners', render: (owners: string[]) => owners.join(', ') },
]

function countWords(one: ListedWorkspace): string {
  return one.counts.map(({ kind, count }) => `${count} ${kind}${count === 1 ? '' : 's'}`).join(', ')
}

/** All workspaces of BI tools, each with how it stands. */
export function WorkspacesPage() {
  return (
    <div className={shared.page}>
      <Answer of={useWorkspaces()}>
        {({ items }) =>
          items.length === 0 ? (
            <Empty
              className={shared.empty}
              description="No workspace was described yet. Send a description with longthread workspace put."
            />
          ) : (
            <Table
              size="small"
              className={shared.panel}
              rowKey="ref"
              pagination={false}
              dataSource={items}
              columns={COLUMNS}
            />
          )
        }
      </Answer>
    </div>
  )
}
