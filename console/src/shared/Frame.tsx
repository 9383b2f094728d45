import { Button, Dropdown } from 'antd'
import { type ReactNode, useState } from 'react'
import { NavLink, useLocation } from 'react-router'
import type { Schemas } from '../api/client'
import { PasswordDialog } from '../session/PasswordDialog'
import { isLimited, useSignOut } from '../session/useSession'
import type { Mode } from '../theme'
import styles from './frame.module.css'
import { QuickFind } from './QuickFind'

const PAGES = [
  ['/today', 'Today'],
  ['/find', 'Find'],
  ['/workspace', 'Workspaces'],
  ['/graph', 'Graph'],
  ['/impact', 'Impact'],
  ['/causes', 'Causes'],
  ['/follow', 'Follow-up'],
  ['/runs', 'Runs'],
  ['/intake', 'Intake'],
  ['/connect', 'Connect'],
  ['/coverage', 'Coverage'],
  ['/glossary', 'Glossary'],
  ['/labels', 'Labels'],
] as const

/** The pages that need no sight of the whole catalog. */
const FOR_LIMITED = ['/find', '/workspace', '/graph', '/impact', '/causes', '/runs', '/glossary', '/labels']

type Props = {
  mode: Mode
  onMode: (mode: Mode) => void
  session: Schemas['Session']
  children: ReactNode
}

/** What stands around every page: the pages' names, one search, who is signed in. */
export function Frame({ mode, onMode, session, children }: Props) {
  const signOut = useSignOut()
  const [changing, setChanging] = useState(false)
  const limited = isLimited(session)
  return (
    <div className={styles.frame}>
      <header className={styles.header}>
        <NavLink to={limited ? '/find' : '/today'} className={styles.home}>
          <img src="thread.svg" alt="" width={22} /> Long Thread
        </NavLink>
        <nav aria-label="Pages" className={styles.pages}>
          {PAGES.filter(([path]) => !limited || FOR_LIMITED.includes(path)).map(([path, name]) => (
            <PageName key={path} path={path} name={name} />
          ))}
        </nav>
        <QuickFind />
        <span className={styles.space} />
        <Button size="small" type="text" onClick={() => onMode(mode === 'dark' ? 'light' : 'dark')}>
          {mode === 'dark' ? 'Light' : 'Dark'}
        </Button>
        <Dropdown
          menu={{
            items: [
              ...(session.role === 'admin' || session.role === 'auditor'
                ? [{ key: 'access', label: <NavLink to="/access">Access</NavLink> }]
                : []),
              ...(session.grants.length > 0
                ? [{ key: 'grants', label: grantsInWords(session.grants), disabled: true }]
                : []),
              { key: 'password', label: 'Change password', onClick: () => setChanging(true) },
              { key: 'out', label: 'Sign out', onClick: () => signOut.mutate() },
            ],
          }}
          trigger={['click']}
        >
          <Button size="small" type="text">
            {session.displayName} ({session.role})
          </Button>
        </Dropdown>
      </header>
      <main className={styles.main}>{children}</main>
      {changing && <PasswordDialog onClose={() => setChanging(false)} />}
    </div>
  )
}

/** What somebody may do beside their role, for them to see. */
function grantsInWords(grants: Schemas['GrantRow'][]) {
  return (
    <>
      {grants.map((grant) => (
        <div key={grant.id}>
          {grant.role} on {grant.scope} {grant.value}
        </div>
      ))}
    </>
  )
}

/** A page's name; from an asset's page it leads to the same asset there. */
function PageName({ path, name }: { path: string; name: string }) {
  const location = useLocation()
  const ref = new URLSearchParams(location.search).get('ref')
  const takesAsset = ['/graph', '/impact', '/causes'].includes(path)
  const to = takesAsset && ref ? `${path}?ref=${encodeURIComponent(ref)}` : path
  return (
    <NavLink to={to} className={styles.pageName}>
      {name}
    </NavLink>
  )
}
