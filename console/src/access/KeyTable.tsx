import {
  Alert,
  Button,
  Form,
  Input,
  Popconfirm,
  Select,
  Table,
  type TableColumnsType,
  Typography,
} from 'antd'
import { Answer } from '../shared/Answer'
import { ago, day } from '../shared/format'
import { Since } from '../shared/Since'
import shared from '../shared/shared.module.css'
import { type Key, useKeys, useMakeKey, useRevokeKey } from './queries'
import { ROLES } from './roles'

/** The keys of programs; a token is shown once, when its key is made. */
export function KeyTable() {
  const make = useMakeKey()
  const revoke = useRevokeKey()
  const error = make.error ?? revoke.error
  const columns: TableColumnsType<Key> = [
    { title: 'Name', dataIndex: 'name', render: (name) => <strong>{name}</strong> },
    { title: 'Role', dataIndex: 'role' },
    { title: 'Made', dataIndex: 'createdAt', render: (at) => <Since at={at} /> },
    { title: 'Last used', dataIndex: 'lastUsedAt', render: (at) => <Since at={at} never="never" /> },
    { title: 'State', render: (_, key) => <State of={key} /> },
    {
      title: '',
      align: 'right',
      render: (_, key) =>
        !key.revokedAt && (
          <Popconfirm
            title={`Revoke the key ${key.name}?`}
            description="Programs that use it are refused within five seconds."
            okText="Revoke"
            onConfirm={() => revoke.mutate(key.id)}
          >
            <Button size="small" danger>
              Revoke
            </Button>
          </Popconfirm>
        ),
    },
  ]
  return (
    <Answer of={useKeys()}>
      {(keys) => (
        <>
          <Form
            layout="inline"
            className={shared.bar}
            initialValues={{ role: 'emitter' }}
            onFinish={({ until, ...given }: { name: string; role: string; until?: string }) =>
              make.mutate({ ...given, expiresAt: until ? `${until}T23:59:59Z` : undefined })
            }
          >
            <Form.Item name="name" rules={[{ required: true, message: 'It is needed' }]}>
              <Input placeholder="What the key is for" aria-label="Name of the key" autoComplete="off" />
            </Form.Item>
            <Form.Item name="role">
              <Select options={ROLES} popupMatchSelectWidth={false} aria-label="Role of the key" />
            </Form.Item>
            <Form.Item name="until" label="until">
              <Input type="date" aria-label="Last day of the key" />
            </Form.Item>
            <Button type="primary" htmlType="submit" loading={make.isPending}>
              Make key
            </Button>
          </Form>
          {make.data && (
            <Alert
              type="success"
              showIcon
              className={shared.below}
              title={`The token of ${make.data.name}, shown this once`}
              description={<Typography.Text copyable>{make.data.token}</Typography.Text>}
            />
          )}
          {error && <Alert type="error" showIcon className={shared.below} title={error.message} />}
          <Table
            size="small"
            className={shared.panel}
            rowKey="id"
            pagination={false}
            dataSource={keys}
            columns={columns}
          />
        </>
      )}
    </Answer>
  )
}

function State({ of }: { of: Key }) {
  if (of.revokedAt) return <span className={shared.bad}>revoked {ago(of.revokedAt)}</span>
  if (of.expiresAt && Date.parse(of.expiresAt) <= Date.now()) {
    return <span className={shared.bad}>ended {ago(of.expiresAt)}</span>
  }
  return <span className={shared.good}>valid{of.expiresAt && ` until ${day(of.expiresAt)}`}</span>
}
