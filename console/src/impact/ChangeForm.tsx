import { Input, Select } from 'antd'
import type { ReactNode } from 'react'
import { AssetPicker } from '../shared/AssetPicker'
import shared from '../shared/shared.module.css'
import { useUrlState } from '../shared/useUrlState'
import styles from './impact.module.css'

const CHANGES = [
  ['drop', 'is dropped'],
  ['rename', 'is renamed'],
  ['retype', 'changes its type'],
  ['values', 'changes its values'],
  ['rows', 'changes its rows'],
  ['delay', 'comes late'],
].map(([value, label]) => ({ value, label }))

const TO: Record<string, string> = { rename: 'new name', retype: 'new type' }

type Props = { refText: string | undefined; change: string; to: string | undefined; children: ReactNode }

/** What changes, and how. */
export function ChangeForm({ refText, change, to, children }: Props) {
  const [, write] = useUrlState()
  return (
    <div className={shared.bar}>
      <span>If</span>
      <AssetPicker
        label="What changes"
        placeholder="an asset, a column as asset#column, a job, or system:name"
        value={refText}
        width={480}
        onPick={(ref) =>
          write({
            ref,
            kind: undefined,
            owner: undefined,
            system: undefined,
            workspace: undefined,
            label: undefined,
            verdict: undefined,
          })
        }
      />
      <Select
        aria-label="Change"
        className={styles.change}
        value={change}
        onChange={(next) => write({ change: next, to: undefined })}
        options={CHANGES}
      />
      {TO[change] && (
        <Input
          aria-label="To"
          placeholder={TO[change]}
          className={styles.to}
          defaultValue={to}
          onBlur={(event) => write({ to: event.target.value })}
          onPressEnter={(event) => write({ to: event.currentTarget.value })}
        />
      )}
      <span className={shared.space} />
      {children}
    </div>
  )
}
