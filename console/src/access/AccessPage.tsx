import { Tabs } from 'antd'
import { useSession } from '../session/useSession'
import shared from '../shared/shared.module.css'
import { useUrlState } from '../shared/useUrlState'
import { AccountTable } from './AccountTable'
import { AuditTable } from './AuditTable'
import { GrantTable } from './GrantTable'
import { GroupTable } from './GroupTable'
import { KeyTable } from './KeyTable'

/** Who may sign in, what programs may do, and who did what: for administrators and auditors. */
export function AccessPage() {
  const [read, write] = useUrlState()
  const isAdmin = useSession().data?.role === 'admin'
  const people = [
    { key: 'accounts', label: 'Accounts of people', children: <AccountTable /> },
    { key: 'groups', label: 'Groups', children: <GroupTable /> },
    { key: 'grants', label: 'Grants', children: <GrantTable /> },
    { key: 'keys', label: 'Keys of programs', children: <KeyTable /> },
  ]
  return (
    <div className={shared.page}>
      <Tabs
        activeKey={read('tab') ?? (isAdmin ? 'accounts' : 'audit')}
        destroyOnHidden
        onChange={(tab) => write({ tab })}
        items={[...(isAdmin ? people : []), { key: 'audit', label: 'Audit log', children: <AuditTable /> }]}
      />
    </div>
  )
}
