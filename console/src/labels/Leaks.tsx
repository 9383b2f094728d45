import { Button, Empty, Form, Input, Segmented, Table, type TableColumnsType } from 'antd'
import { useState } from 'react'
import { useMaySet, useStating } from '../hand/queries'
import { Answer } from '../shared/Answer'
import { FormDialog } from '../shared/FormDialog'
import { day } from '../shared/format'
import { AssetLink, KindMark, Owners } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import { useUrlState } from '../shared/useUrlState'
import { LabelMark } from './LabelMark'
import { LeakThread } from './LeakThread'
import styles from './labels.module.css'
import { type Leak, useLeaks } from './queries'

/** Where labelled data reaches places that may not hold it. */
export function Leaks({ label }: { label?: string }) {
  const [read, write] = useUrlState()
  const accepted = read('state') === 'accepted'
  const [accepting, setAccepting] = useState<Leak>()
  return (
    <>
      <div className={shared.bar}>
        <Segmented
          size="small"
          value={accepted ? 'accepted' : 'open'}
          onChange={(value) => write({ state: value === 'accepted' ? 'accepted' : undefined })}
          options={[
            { value: 'open', label: 'Open' },
            { value: 'accepted', label: 'Accepted' },
          ]}
        />
        <span className={shared.quiet}>
          A leak is a label in a place where a policy forbids it and none allows it.
        </span>
      </div>
      <Answer of={useLeaks({ label })}>
        {({ items }) => {
          const shown = items.filter((leak) => (leak.state === 'accepted') === accepted)
          return shown.length === 0 ? (
            <Empty
              description={
                accepted
                  ? 'Nobody accepted a leak.'
                  : 'No leaks by the policies there are. Say under Policies and rules where a label may not be.'
              }
            />
          ) : (
            <Table
              size="small"
              className={shared.panel}
              rowKey="id"
              pagination={pagesOf(shown)}
              dataSource={shown}
              columns={columnsOf(accepted, setAccepting)}
              expandable={{
                expandedRowRender: (leak) => <LeakThread leak={leak} />,
                defaultExpandedRowKeys: shown.slice(0, 1).map((leak) => leak.id),
                rowExpandable: (leak) => leak.thread.length > 0,
              }}
            />
          )
        }}
      </Answer>
      {accepting && <AcceptDialog leak={accepting} onClose={() => setAccepting(undefined)} />}
    </>
  )
}

function columnsOf(accepted: boolean, accept: (leak: Leak) => void): TableColumnsType<Leak> {
  return [
    {
      title: 'Where',
      dataIndex: 'name',
      render: (name, leak) => (
        <>
          <AssetLink refText={leak.ref} name={name} /> <KindMark kind={leak.kind} />
          <div className={shared.quiet}>
            {leak.workspace ?? leak.system}
            {leak.certainty === 'possible' && ', possible: no columns are known on the way'}
          </div>
        </>
      ),
    },
    {
      title: 'What',
      render: (_, leak) => (
        <>
          <LabelMark label={leak.label} level={leak.level} />
          <div className={shared.small}>
            from <AssetLink refText={leak.from} name={leak.fromName} />
          </div>
        </>
      ),
    },
    {
      title: 'Policy',
      render: (_, leak) => <span className={styles.policy}>{leak.policy.words}</span>,
    },
    {
      title: 'Read by',
      render: (_, leak) =>
        leak.readers.length > 0 ? leak.readers.join(', ') : <span className={shared.quiet}>not known</span>,
    },
    { title: 'Owner', render: (_, leak) => <Owners owners={leak.owners} /> },
    accepted
      ? {
          title: 'Accepted',
          render: (_, leak) =>
            leak.accepted && (
              <>
                by {leak.accepted.by} until {day(leak.accepted.until)}
                <div className={shared.quiet}>{leak.accepted.reason}</div>
              </>
            ),
        }
      : { title: '', align: 'right', render: (_, leak) => <Accept leak={leak} accept={accept} /> },
  ]
}

function Accept({ leak, accept }: { leak: Leak; accept: (leak: Leak) => void }) {
  return useMaySet() ? (
    <Button size="small" onClick={() => accept(leak)}>
      Accept
    </Button>
  ) : null
}

function AcceptDialog({ leak, onClose }: { leak: Leak; onClose: () => void }) {
  const stating = useStating()
  const sending = {
    isPending: stating.isPending,
    error: stating.error,
    mutate: ({ reason, until }: { reason: string; until: string }, options: { onSuccess: () => void }) =>
      stating.mutate(
        {
          reason,
          changes: [{ set: 'leak-accepted', value: { label: leak.label, at: leak.ref, reason, until } }],
        },
        options,
      ),
  }
  return (
    <FormDialog
      title={`Accept ${leak.label} in ${leak.name}`}
      action="Accept"
      sending={sending}
      onClose={onClose}
    >
      <Form.Item name="reason" label="Reason" rules={[{ required: true, message: 'Others will read it' }]}>
        <Input placeholder="agreed with the privacy office" />
      </Form.Item>
      <Form.Item
        name="until"
        label="Accepted until the end of"
        rules={[{ required: true, message: 'It is listed again after that day' }]}
      >
        <Input type="date" />
      </Form.Item>
    </FormDialog>
  )
}
