import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Alert, Button, Drawer, Empty, Space, Table } from 'antd'
import { useState } from 'react'
import { get, type Schemas, send } from '../api/client'
import { Answer } from '../shared/Answer'
import { moment } from '../shared/format'
import { useInks } from '../shared/useInks'

/** What was refused and exactly why, with its bytes, to be tried again after a fix. */
export function Refusals() {
  const ink = useInks()
  const client = useQueryClient()
  const [opened, setOpened] = useState<number>()
  const refusals = useQuery({
    queryKey: ['refusals'],
    queryFn: ({ signal }) => get<Schemas['Refusals']>('intake/refused', { limit: 500 }, signal),
  })
  const retry = useMutation({
    mutationFn: (id: number | undefined) =>
      send<Schemas['Retried']>(
        'POST',
        id === undefined ? 'intake/refused/retry' : `intake/refused/${id}/retry`,
      ),
    onSuccess: () => {
      client.invalidateQueries({ queryKey: ['refusals'] })
      client.invalidateQueries({ queryKey: ['intake'] })
    },
  })
  return (
    <Answer of={refusals}>
      {(answer) =>
        answer.total === 0 ? (
          <Empty description="Nothing is refused. What cannot be read is kept here with its reason." />
        ) : (
          <>
            <Space style={{ marginBottom: 8 }}>
              <Button size="small" loading={retry.isPending} onClick={() => retry.mutate(undefined)}>
                Try all again
              </Button>
              <span style={{ color: ink.quiet }}>
                {Object.entries(answer.problems)
                  .map(([problem, n]) => `${n} ${problem}`)
                  .join(', ')}
              </span>
            </Space>
            {retry.isSuccess && (
              <Alert
                style={{ marginBottom: 8 }}
                type={retry.data.refused.length > 0 ? 'warning' : 'success'}
                title={`${retry.data.accepted} of ${retry.data.tried} accepted now`}
              />
            )}
            {retry.isError && <Alert style={{ marginBottom: 8 }} type="error" title={retry.error.message} />}
            <Table
              size="small"
              style={{ background: ink.panel, border: `1px solid ${ink.line}` }}
              rowKey="id"
              pagination={{ pageSize: 25, hideOnSinglePage: true, showSizeChanger: false }}
              dataSource={answer.refusals}
              columns={[
                { title: 'Received', dataIndex: 'receivedAt', render: moment, width: 135 },
                { title: 'Problem', dataIndex: 'problem', width: 150 },
                { title: 'Reason', dataIndex: 'reason' },
                { title: 'From', dataIndex: 'source', width: 150, render: (source) => source ?? 'HTTP' },
                {
                  title: '',
                  width: 150,
                  render: (_, refusal) => (
                    <Space>
                      <Button size="small" onClick={() => setOpened(refusal.id)}>
                        Open
                      </Button>
                      <Button size="small" onClick={() => retry.mutate(refusal.id)}>
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

function RefusalDrawer({ id, onClose }: { id: number | undefined; onClose: () => void }) {
  const refusal = useQuery({
    queryKey: ['refusal', id],
    queryFn: ({ signal }) => get<Schemas['RefusedDetail']>(`intake/refused/${id}`, {}, signal),
    enabled: id !== undefined,
  })
  return (
    <Drawer open={id !== undefined} onClose={onClose} size={620} title="A refused event">
      <Answer of={refusal}>
        {(detail) => (
          <>
            <p>{detail.refusal.reason}</p>
            {detail.refusal.outcome && <p>Tried again: {detail.refusal.outcome}</p>}
            <p>{detail.bytes} bytes, as they were received:</p>
            <pre className="code">{detail.body ?? 'no longer kept'}</pre>
          </>
        )}
      </Answer>
    </Drawer>
  )
}
