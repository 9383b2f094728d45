import { Alert, Button, Empty, Space, Table } from 'antd'
import { useState } from 'react'
import { Answer, ProblemNotice } from '../shared/Answer'
import { moment, spoken } from '../shared/format'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import { useRefusals, useRetry } from './queries'
import { RefusalDrawer } from './RefusalDrawer'

/** What was refused and exactly why, with its bytes, to be retried after a fix. */
export function Refusals() {
  const [opened, setOpened] = useState<number>()
  const refusals = useRefusals()
  const retry = useRetry()
  return (
    <Answer of={refusals}>
      {(answer) =>
        answer.total === 0 ? (
          <Empty description="No event is refused. What cannot be read is kept here with its reason." />
        ) : (
          <>
            <Space className={shared.below}>
              <Button size="small" loading={retry.isPending} onClick={() => retry.mutate(undefined)}>
                Retry all
              </Button>
              <span className={shared.quiet}>
                {Object.entries(answer.problems)
                  .map(([problem, n]) => `${n} ${spoken(problem)}`)
                  .join(', ')}
              </span>
            </Space>
            {retry.isSuccess && (
              <Alert
                className={shared.below}
                type={retry.data.refused.length > 0 ? 'warning' : 'success'}
                title={`${retry.data.accepted} of ${retry.data.tried} accepted now`}
              />
            )}
            {retry.isError && <ProblemNotice error={retry.error} />}
            <Table
              size="small"
              className={shared.panel}
              rowKey="id"
              pagination={pagesOf(answer.refusals, 25)}
              dataSource={answer.refusals}
              columns={[
                { title: 'Received', dataIndex: 'receivedAt', render: moment, width: 135 },
                { title: 'Problem', dataIndex: 'problem', width: 150, render: spoken },
                { title: 'Reason', dataIndex: 'reason' },
                { title: 'From', dataIndex: 'source', width: 150, render: (source) => source ?? 'HTTP' },
                {
                  title: '',
                  width: 150,
                  render: (_, { id }) => (
                    <Space>
                      <Button size="small" onClick={() => setOpened(id)}>
                        Open
                      </Button>
                      <Button size="small" onClick={() => retry.mutate(id)}>
                        Retry
                      </Button>
                    </Space>
                  ),
                },
              ]}
            />
            <RefusalDrawer id={opened} onClose={() => setOpened(undefined)} />
          </>
        )
      }
    </Answer>
  )
}
