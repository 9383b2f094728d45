import { Tabs } from 'antd'
import shared from '../shared/shared.module.css'
import { useUrlState } from '../shared/useUrlState'
import { AccountTable } from './AccountTable'
import { KeyTable } from './KeyTable'

/** Who may sign in and what programs may do, for administrators. */
export function AccessPage() {
  const [read, write] = useUrlState()
  return (
    <div className={shared.page}>
      <Tabs
        activeKey={read('tab') ?? 'accounts'}
        onChange={(tab) => write({ tab })}
        items={[
          { key: 'accounts', label: 'Accounts of people', children: <AccountTable /> },
          { key: 'keys', label: 'Keys of programs', children: <KeyTable /> },
        ]}
      />
    </div>
  )
}
