import type { InputRef } from 'antd'
import { Input } from 'antd'
import { useEffect, useRef, useState } from 'react'
import { useLocation, useNavigate } from 'react-router'
import styles from './frame.module.css'

/** Finds from anywhere; the slash key leads here. */
export function QuickFind() {
  const navigate = useNavigate()
  const location = useLocation()
  const [words, setWords] = useState('')
  const field = useRef<InputRef>(null)
  useEffect(() => {
    // A redirect to the page without a query must not wipe what is being typed.
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
      className={styles.find}
      placeholder="Find anything   ( / )"
      value={words}
      onChange={(event) => setWords(event.target.value)}
      onSearch={(q) => navigate(`/find?q=${encodeURIComponent(q)}`)}
    />
  )
}
