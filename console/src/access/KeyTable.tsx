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
import { ago } from '../shared/format'
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
    {
      title: 'State',
      dataIndex: 'revokedAt',
      render: (at) =>
        at ? (
          <span className={shared.bad}>revoked {ago(at)}</span>
        ) : (
          <span className={shared.good}>valid</span>
        ),
    },
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
            onFinish={(given: { name: string; role: string }) => make.mutate(given)}
          >
            <Form.Item name="name" rules={[{ required: true, message: 'It is needed' }]}>
              <Input placeholder="What the key is for" aria-label="Name of the key" autoComplete="off" />
            </Form.Item>
            <Form.Item name="role">
              <Select options={ROLES} popupMatchSelectWidth={false} aria-label="Role of the key" />
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
