import type { InputRef } from 'antd'
import { Button, Dropdown, Input } from 'antd'
import { type ReactNode, useEffect, useRef, useState } from 'react'
import { NavLink, useLocation, useNavigate } from 'react-router'
import type { Schemas } from '../api/client'
import { useSignOut } from '../session/useSession'
import type { Mode } from '../theme'
import { useInks } from './useInks'

const PAGES = [
  ['/find', 'Find'],
  ['/graph', 'Graph'],
  ['/impact', 'Impact'],
  ['/causes', 'Causes'],
  ['/runs', 'Runs'],
  ['/intake', 'Intake'],
] as const

type Props = {
  mode: Mode
  onMode: (mode: Mode) => void
  session: Schemas['Session']
  children: ReactNode
}

/** What stands around every page: the pages' names, one search, who is signed in. */
export function Frame({ mode, onMode, session, children }: Props) {
  const ink = useInks()
  const signOut = useSignOut()
  return (
    <div
      style={{
        height: '100%',
        display: 'flex',
        flexDirection: 'column',
        background: ink.page,
        color: ink.text,
      }}
    >
      <header
        style={{
          display: 'flex',
          alignItems: 'center',
          gap: 18,
          padding: '0 16px',
          height: 44,
          flex: 'none',
          background: ink.panel,
          borderBottom: `1px solid ${ink.line}`,
        }}
      >
        <NavLink
          to="/find"
          style={{ display: 'flex', alignItems: 'center', gap: 8, color: ink.text, fontWeight: 600 }}
        >
          <img src="/thread.svg" alt="" width={22} /> Long Thread
        </NavLink>
        <nav aria-label="Pages" style={{ display: 'flex', gap: 4 }}>
          {PAGES.map(([path, name]) => (
            <PageName key={path} path={path} name={name} />
          ))}
        </nav>
        <QuickFind />
        <span style={{ flex: 1 }} />
        <Button size="small" type="text" onClick={() => onMode(mode === 'dark' ? 'light' : 'dark')}>
          {mode === 'dark' ? 'Light' : 'Dark'}
        </Button>
        <Dropdown
          menu={{ items: [{ key: 'out', label: 'Sign out', onClick: () => signOut.mutate() }] }}
          trigger={['click']}
        >
          <Button size="small" type="text">
            {session.displayName} ({session.role})
          </Button>
        </Dropdown>
      </header>
      <main style={{ flex: 1, minHeight: 0, overflow: 'auto' }}>{children}</main>
    </div>
  )
}

/** A page's name; from an asset's page it leads to the same asset there. */
function PageName({ path, name }: { path: string; name: string }) {
  const ink = useInks()
  const location = useLocation()
  const ref = new URLSearchParams(location.search).get('ref')
  const takesAsset = ['/graph', '/impact', '/causes'].includes(path)
  const to = takesAsset && ref ? `${path}?ref=${encodeURIComponent(ref)}` : path
  return (
    <NavLink
      to={to}
      style={({ isActive }) => ({
        padding: '12px 8px 9px',
        color: isActive ? ink.text : ink.quiet,
        borderBottom: `3px solid ${isActive ? ink.thread : 'transparent'}`,
      })}
    >
      {name}
    </NavLink>
  )
}

/** Finds from anywhere; the slash key leads here. */
function QuickFind() {
  const navigate = useNavigate()
  const location = useLocation()
  const [words, setWords] = useState('')
  const field = useRef<InputRef>(null)
  useEffect(() => {
    // A redirect to the page without a question must not wipe what is being typed.
    const asked = new URLSearchParams(location.search).get('q')
    if (location.pathname === '/find' && asked) setWords(asked)
  }, [location])
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLElement && /INPUT|TEXTAREA/.test(event.target.tagName)
      if (event.key === '/' && !typing) {
        event.preventDefault()
        field.current?.focus()
      }
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [])
  return (
    <Input.Search
      ref={field}
      aria-label="Find"
      allowClear
      style={{ width: 340 }}
      placeholder="Find a name, a word, an owner, an address   ( / )"
      value={words}
      onChange={(event) => setWords(event.target.value)}
      onSearch={(q) => navigate(`/find?q=${encodeURIComponent(q)}`)}
    />
  )
}
