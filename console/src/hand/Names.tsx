import { Alert, Button, Space, Table, Tag } from 'antd'
import { useState } from 'react'
import type { Schemas } from '../api/client'
import { AssetPicker } from '../shared/AssetPicker'
import { spelled } from '../shared/format'
import shared from '../shared/shared.module.css'
import { type Change, useMaySet, useStating } from './queries'

type Name = Schemas['AssetName']

/** The names that are one asset, each alone, and what can be decided of them. */
export function Names({ asset }: { asset: Schemas['AssetDetail'] }) {
  const maySet = useMaySet()
  const stating = useStating()
  const decide = (changes: Change[]) => stating.mutate({ changes })
  return (
    <>
      {stating.error && (
        <Alert type="error" showIcon className={shared.below} title={stating.error.message} />
      )}
      {asset.names.map((name) => (
        <section key={name.ref} className={shared.below}>
          <h3 className={shared.heading}>
            <code>{name.ref}</code> {name.leads && <Tag variant="outlined">leads</Tag>}
            {!name.described && <em className={shared.quiet}> only mentioned</em>}
          </h3>
          <p className={shared.quiet}>
            {name.kind} in {name.system}
            {name.owners.length > 0 && `, owned by ${name.owners.join(', ')}`}
            {name.joinedBy === 'hand' ? ', joined by hand' : ', joined by a link or rule'}
          </p>
          {name.description && <p>{name.description}</p>}
          {maySet && (
            <Space className={shared.below}>
              {!name.leads && (
                <Button
                  size="small"
                  loading={stating.isPending}
                  onClick={() => decide(lead(name, asset.names))}
                >
                  Let this name lead
                </Button>
              )}
              <Button
                size="small"
                loading={stating.isPending}
                onClick={() => decide(separate(name, asset.names))}
              >
                Separate
              </Button>
            </Space>
          )}
          <Table
            size="small"
            className={shared.panel}
            rowKey="name"
            pagination={false}
            locale={{ emptyText: 'No event reported columns under this name.' }}
            dataSource={name.columns}
            columns={[
              { title: 'Column', dataIndex: 'name', render: spelled },
              { title: 'Type', dataIndex: 'type' },
              { title: 'Meaning', dataIndex: 'description' },
            ]}
          />
        </section>
      ))}
    </>
  )
}

function lead(name: Name, all: Name[]): Change[] {
  return [
    ...all.filter((other) => other.leads).map((other) => ({ set: 'lead', of: other.ref, value: null })),
    { set: 'lead', of: name.ref, value: true },
  ]
}

/** Held apart from every other name, so that no other link brings it back. */
function separate(name: Name, all: Name[]): Change[] {
  return all
    .filter((other) => other.ref !== name.ref)
    .map((other) => ({ set: 'join', of: name.ref, with: other.ref, value: 'apart' }))
}

/** Joins an asset with another name that is the same thing. */
export function JoinWith({ refText, onDone }: { refText: string; onDone: () => void }) {
  const stating = useStating()
  const [other, setOther] = useState<string>()
  return (
    <Space wrap className={shared.below}>
      <span>This is the same thing as</span>
      <AssetPicker
        label="The same as"
        placeholder="an asset"
        value={other}
        width={360}
        takesTyped
        onPick={setOther}
      />
      <Button
        type="primary"
        disabled={!other}
        loading={stating.isPending}
        onClick={() =>
          stating.mutate(
            { changes: [{ set: 'join', of: refText, with: other, value: 'one' }] },
            { onSuccess: onDone },
          )
        }
      >
        Join the names
      </Button>
      <Button onClick={onDone}>Cancel</Button>
      {stating.error && <span className={shared.bad}>{stating.error.message}</span>}
    </Space>
  )
}
