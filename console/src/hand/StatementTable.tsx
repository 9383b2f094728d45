import { Alert, Button, Empty, Popconfirm, Table } from 'antd'
import { Answer } from '../shared/Answer'
import { moment } from '../shared/format'
import shared from '../shared/shared.module.css'
import { filtersOf, pagesOf } from '../shared/tables'
import { useMaySet, useStatements, useUndo } from './queries'

const MAX_SHOWN = 3

/** What people set, newest first, each to be taken back at once. */
export function StatementTable() {
  const maySet = useMaySet()
  const undo = useUndo()
  const left = undo.data?.conflicts.length ?? 0
  return (
    <>
      {left > 0 && (
        <Alert
          type="warning"
          showIcon
          className={shared.below}
          title={`${left} values were changed since by others and stay as they are.`}
        />
      )}
      <Answer of={useStatements()}>
        {({ items }) =>
          items.length === 0 ? (
            <Empty description="Nobody has set anything by hand yet." />
          ) : (
            <Table
              size="small"
              className={shared.panel}
              rowKey="id"
              pagination={pagesOf(items)}
              dataSource={items}
              columns={[
                { title: 'At', dataIndex: 'at', render: moment, width: 140 },
                {
                  title: 'By',
                  dataIndex: 'by',
                  filters: filtersOf(items.map((one) => one.by)),
                  onFilter: (by, one) => one.by === by,
                },
                {
                  title: 'What',
                  render: (_, one) => (
                    <>
                      {one.changes.slice(0, MAX_SHOWN).map((change) => (
                        <div key={`${change.of} ${change.what}`}>
                          {change.what} of <span className={shared.small}>{change.of}</span>
                        </div>
                      ))}
                      {one.changeCount > MAX_SHOWN && (
                        <span className={shared.quiet}>and {one.changeCount - MAX_SHOWN} more</span>
                      )}
                    </>
                  ),
                },
                { title: 'Reason', dataIndex: 'reason' },
                {
                  title: '',
                  align: 'right',
                  render: (_, one) =>
                    one.undoneBy ? (
                      <span className={shared.quiet}>taken back</span>
                    ) : (
                      maySet && (
                        <Popconfirm
                          title="Take all of this back?"
                          description="What others changed since stays."
                          okText="Take back"
                          onConfirm={() => undo.mutate(one.id)}
                        >
                          <Button size="small">Take back</Button>
                        </Popconfirm>
                      )
                    ),
                },
              ]}
            />
          )
        }
      </Answer>
    </>
  )
}
