import { Alert, Button, Form, Input, Popconfirm, Select, Table, type TableColumnsType, Tag } from 'antd'
import { Answer } from '../shared/Answer'
import shared from '../shared/shared.module.css'
import {
  type Group,
  useAccounts,
  useAddMember,
  useDeleteGroup,
  useGroups,
  usePutGroup,
  useRemoveMember,
} from './queries'

/** Groups of people, which hold grants together. */
export function GroupTable() {
  const put = usePutGroup()
  const remove = useDeleteGroup()
  const add = useAddMember()
  const takeOut = useRemoveMember()
  const accounts = useAccounts()
  const error = put.error ?? remove.error ?? add.error ?? takeOut.error
  const columns: TableColumnsType<Group> = [
    { title: 'Name', dataIndex: 'name', render: (name) => <strong>{name}</strong> },
    { title: 'Called', dataIndex: 'title' },
    {
      title: 'Members',
      render: (_, group) => (
        <>
          {group.members.map((account) => (
            <Tag key={account} closable onClose={() => takeOut.mutate({ group: group.name, account })}>
              {account}
            </Tag>
          ))}
          {group.fromProvider.map((account) => (
            <Tag key={account} title="The sign-in provider says so.">
              {account} (by the provider)
            </Tag>
          ))}
          <Select
            size="small"
            showSearch
            value={null}
            placeholder="Add"
            popupMatchSelectWidth={false}
            aria-label={`Add to ${group.name}`}
            options={(accounts.data?.items ?? [])
              .filter((account) => !group.members.includes(account.name))
              .map((account) => ({ value: account.name, label: `${account.displayName} (${account.name})` }))}
            onChange={(account: string | null) => account && add.mutate({ group: group.name, account })}
          />
        </>
      ),
    },
    {
      title: '',
      align: 'right',
      render: (_, group) => (
        <Popconfirm
          title={`Delete the group ${group.name}?`}
          description="Its grants end with it. The accounts stay."
          okText="Delete"
          onConfirm={() => remove.mutate(group.name)}
        >
          <Button size="small" danger>
            Delete
          </Button>
        </Popconfirm>
      ),
    },
  ]
  return (
    <Answer of={useGroups()}>
      {({ items }) => (
        <>
          <Form
            layout="inline"
            className={shared.bar}
            onFinish={(given: { name: string; title?: string }) => put.mutate(given)}
          >
            <Form.Item name="name" rules={[{ required: true, message: 'It is needed' }]}>
              <Input placeholder="Name of the group" aria-label="Name of the group" autoComplete="off" />
            </Form.Item>
            <Form.Item name="title">
              <Input placeholder="Called" aria-label="Title of the group" autoComplete="off" />
            </Form.Item>
            <Button type="primary" htmlType="submit" loading={put.isPending}>
              Make group
            </Button>
            <span className={shared.quiet}>
              A group that is named like one of your sign-in provider has its members too.
            </span>
          </Form>
          {error && <Alert type="error" showIcon className={shared.below} title={error.message} />}
          <Table
            size="small"
            className={shared.panel}
            rowKey="name"
            pagination={false}
            dataSource={items}
            columns={columns}
            locale={{ emptyText: 'Groups of people appear here. Make one above, then give it grants.' }}
          />
        </>
      )}
    </Answer>
  )
}
