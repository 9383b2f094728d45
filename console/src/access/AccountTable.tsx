import { Alert, Button, Popconfirm, Select, Space, Table, type TableColumnsType } from 'antd'
import { useState } from 'react'
import { Answer } from '../shared/Answer'
import { ago } from '../shared/format'
import { Since } from '../shared/Since'
import shared from '../shared/shared.module.css'
import { AccountDialog } from './AccountDialog'
import { type Account, useAccounts, useChangeAccount, useDeleteAccount } from './queries'
import { ROLES } from './roles'
import { SetPasswordDialog } from './SetPasswordDialog'

/** The accounts of people, each with what can be done with it. */
export function AccountTable() {
  const [making, setMaking] = useState(false)
  const [passwordOf, setPasswordOf] = useState<string>()
  const change = useChangeAccount()
  const remove = useDeleteAccount()
  const error = change.error ?? remove.error
  const columns: TableColumnsType<Account> = [
    { title: 'Name', dataIndex: 'name', render: (name) => <strong>{name}</strong> },
    { title: 'Called', dataIndex: 'displayName' },
    {
      title: 'Role',
      dataIndex: 'role',
      render: (role, account) =>
        account.provider ? (
          <span title={`The groups at ${account.provider} say so.`}>{role} (by the provider)</span>
        ) : (
          <Select
            size="small"
            value={role}
            popupMatchSelectWidth={false}
            aria-label={`Role of ${account.name}`}
            options={ROLES}
            labelRender={({ value }) => value}
            onChange={(next) => change.mutate({ name: account.name, role: next })}
          />
        ),
    },
    { title: 'Last sign-in', dataIndex: 'lastSignInAt', render: (at) => <Since at={at} never="never" /> },
    { title: 'Made', dataIndex: 'createdAt', render: (at) => <Since at={at} /> },
    {
      title: 'State',
      render: (_, account) =>
        account.disabledAt ? (
          <span className={shared.bad}>disabled {ago(account.disabledAt)}</span>
        ) : (
          <span className={shared.good}>may sign in</span>
        ),
    },
    {
      title: '',
      align: 'right',
      render: (_, account) => (
        <Space size={4}>
          {!account.provider && (
            <Button size="small" onClick={() => setPasswordOf(account.name)}>
              Set password
            </Button>
          )}
          <Button
            size="small"
            onClick={() => change.mutate({ name: account.name, disabled: !account.disabledAt })}
          >
            {account.disabledAt ? 'Enable' : 'Disable'}
          </Button>
          <Popconfirm
            title={`Delete the account ${account.name}?`}
            description="Its sessions end. What it did stays under its name."
            okText="Delete"
            onConfirm={() => remove.mutate(account.name)}
          >
            <Button size="small" danger>
              Delete
            </Button>
          </Popconfirm>
        </Space>
      ),
    },
  ]
  return (
    <Answer of={useAccounts()}>
      {({ items }) => (
        <>
          <div className={shared.bar}>
            <Button type="primary" onClick={() => setMaking(true)}>
              Make account
            </Button>
            <span className={shared.quiet}>
              An account that is disabled or gets another password is signed out everywhere.
            </span>
          </div>
          {error && <Alert type="error" showIcon className={shared.below} title={error.message} />}
          <Table
            size="small"
            className={shared.panel}
            rowKey="name"
            pagination={false}
            dataSource={items}
            columns={columns}
          />
          {making && <AccountDialog onClose={() => setMaking(false)} />}
          {passwordOf && <SetPasswordDialog name={passwordOf} onClose={() => setPasswordOf(undefined)} />}
        </>
      )}
    </Answer>
  )
}
