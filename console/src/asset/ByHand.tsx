import { Button, Table } from 'antd'
import { useState } from 'react'
import type { Schemas } from '../api/client'
import { JoinWith } from '../hand/Names'
import { useMaySet } from '../hand/queries'
import { RecordedTable } from '../hand/RecordedTable'
import { isJob, spelled } from '../shared/format'
import shared from '../shared/shared.module.css'

type Value = Schemas['StatedValue']

const SOURCES: Record<string, string> = {
  hand: 'set by hand',
  system: 'the system it lives in',
  emitter: 'reported',
}

/** What people set or recorded of an asset, and who says what where several do. */
export function ByHand({ asset }: { asset: Schemas['AssetDetail'] }) {
  const maySet = useMaySet()
  const [joining, setJoining] = useState(false)
  return (
    <>
      {maySet &&
        !isJob(asset.ref) &&
        (joining ? (
          <JoinWith refText={asset.ref} onDone={() => setJoining(false)} />
        ) : (
          <div className={shared.bar}>
            <Button size="small" onClick={() => setJoining(true)}>
              This is the same thing as …
            </Button>
          </div>
        ))}
      <h2 className={shared.heading}>Who says what</h2>
      <Table<Value>
        size="small"
        className={shared.panel}
        rowKey={(value) => `${value.what} ${value.column} ${value.source} ${value.by} ${value.texts.join()}`}
        pagination={false}
        dataSource={asset.values}
        locale={{ emptyText: 'Nobody has given a description or an owner.' }}
        columns={[
          { title: 'What', render: (_, value) => whatWords(value) },
          { title: 'Value', render: (_, value) => value.texts.join(', ') },
          { title: 'From', dataIndex: 'source', render: (source) => SOURCES[source] ?? source },
          { title: 'By', dataIndex: 'by' },
          {
            title: '',
            render: (_, value) =>
              leads(asset.values, value) ? 'counts' : <span className={shared.quiet}>does not count</span>,
          },
        ]}
      />
      <h2 className={shared.heading}>Recorded lineage</h2>
      <RecordedTable refText={asset.ref} />
    </>
  )
}

function whatWords(value: Value): string {
  return value.column ? `${value.what} of ${spelled(value.column)}` : value.what
}

/** Of several values of one thing the first source leads. */
export function leads(all: Value[], value: Value): boolean {
  const first = all.find((other) => other.what === value.what && other.column === value.column)
  return first?.source === value.source
}
