import { AutoComplete, Input } from 'antd'
import { useEffect, useState } from 'react'
import { assetOf } from './format'
import styles from './shared.module.css'
import { useAsset } from './useAsset'
import { useSearch } from './useSearch'

const MILLIS_AFTER_TYPING = 200

type Props = {
  value: string | undefined
  placeholder: string
  label: string
  width?: number
  /** In a form, what was typed counts without the Enter key. */
  takesTyped?: boolean
  onPick: (ref: string) => void
}

/**
 * Takes any name, and offers what the words typed so far find. What is picked shows by its short name
 * and its system; its whole reference on hover.
 */
export function AssetPicker({ value, placeholder, label, width = 420, takesTyped, onPick }: Props) {
  const [typed, setTyped] = useState<string>()
  const [words, setWords] = useState('')
  useEffect(() => {
    const timer = setTimeout(() => setWords((typed ?? '').split('#')[0]), MILLIS_AFTER_TYPING)
    return () => clearTimeout(timer)
  }, [typed])
  const picked = useAsset(value === undefined ? undefined : assetOf(value))
  const found = useSearch({ q: words, limit: 12 }, words.length > 1)
  const column = typed?.includes('#') ? typed.slice(typed.indexOf('#')) : ''
  const pick = (ref: string) => {
    setTyped(undefined)
    onPick(ref)
  }
  const options = (found.data?.hits ?? []).map((hit) => ({
    value: hit.ref + column,
    label: (
      <div className={styles.option}>
        <span>{(hit.title ?? hit.name) + column}</span>
        <small className={styles.optionPlace}>
          {hit.kind === hit.system ? hit.kind : `${hit.kind}, ${hit.system}`}
        </small>
      </div>
    ),
  }))
  const shown = typed ?? (value ? nameOf(value, picked.data) : '')
  return (
    <AutoComplete
      style={{ width }}
      value={shown}
      options={typed === undefined ? [] : options}
      onChange={setTyped}
      onSelect={pick}
      onBlur={() => (takesTyped && typed?.trim() ? pick(typed.trim()) : setTyped(undefined))}
      popupMatchSelectWidth={520}
    >
      <Input
        aria-label={label}
        placeholder={placeholder}
        title={value}
        suffix={
          typed === undefined && picked.data ? (
            <small className={styles.quiet}>{picked.data.system}</small>
          ) : undefined
        }
        onFocus={(event) => event.target.select()}
        onPressEnter={() => typed?.trim() && pick(typed.trim())}
      />
    </AutoComplete>
  )
}

/** The short name of a reference, as far as its asset is known. */
export function nameOf(
  ref: string,
  asset: { title?: string; name: string; container: string[] } | undefined,
): string {
  const hash = ref.indexOf('#')
  const column = hash < 0 ? '' : ref.slice(hash)
  if (!asset) return ref
  const place = asset.container.at(-1)
  return (asset.title ?? (place ? `${place}.${asset.name}` : asset.name)) + column
}
