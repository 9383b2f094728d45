import { useQuery } from '@tanstack/react-query'
import { AutoComplete, Input } from 'antd'
import { useEffect, useState } from 'react'
import { get, type Schemas } from '../api/client'

type Props = {
  value: string | undefined
  placeholder: string
  label: string
  width?: number
  onPick: (ref: string) => void
}

/** Takes any name, and offers what the words typed so far find. */
export function AssetPicker({ value, placeholder, label, width = 420, onPick }: Props) {
  const [text, setText] = useState(value ?? '')
  useEffect(() => setText(value ?? ''), [value])
  const [asked, setAsked] = useState('')
  useEffect(() => {
    const timer = setTimeout(() => setAsked(text), 200)
    return () => clearTimeout(timer)
  }, [text])
  const words = asked.split('#')[0]
  const found = useQuery({
    queryKey: ['pick', words],
    queryFn: ({ signal }) => get<Schemas['Found']>('search', { q: words, limit: 12 }, signal),
    enabled: words.length > 1 && asked !== value,
  })
  const column = text.includes('#') ? text.slice(text.indexOf('#')) : ''
  const options = (found.data?.hits ?? []).map((hit) => ({
    value: hit.ref + column,
    label: (
      <div style={{ display: 'flex', gap: 8, justifyContent: 'space-between' }}>
        <span>{(hit.title ?? hit.name) + column}</span>
        <small style={{ opacity: 0.7 }}>
          {hit.kind}, {hit.system}
        </small>
      </div>
    ),
  }))
  return (
    <AutoComplete
      style={{ width }}
      value={text}
      options={options}
      onChange={setText}
      onSelect={(ref: string) => onPick(ref)}
      popupMatchSelectWidth={520}
    >
      <Input aria-label={label} placeholder={placeholder} onPressEnter={() => text && onPick(text.trim())} />
    </AutoComplete>
  )
}
