import { Alert, Form, Input, Modal, Select } from 'antd'
import { useState } from 'react'
import { FormDialog } from '../shared/FormDialog'
import { useMakeShareLink, useMakeWatch, usePutNotice } from './queries'

type NoticeForm = { text: string; level: string; until?: string; ticket?: string }

/** Puts a notice on an asset or column. */
export function NoticeDialog({
  refText,
  name,
  text,
  onClose,
}: {
  refText: string
  name: string
  text?: string
  onClose: () => void
}) {
  const putting = usePutNotice()
  return (
    <FormDialog<NoticeForm>
      title={`Notice on ${name}`}
      action="Put notice"
      sending={{
        mutate: ({ until, ...given }, options) =>
          putting.mutate(
            { ...given, ref: refText, until: until ? `${until}T23:59:59Z` : undefined },
            { onSuccess: options.onSuccess },
          ),
        isPending: putting.isPending,
        error: putting.error,
      }}
      initial={{ level: 'warning', text }}
      onClose={onClose}
    >
      <Form.Item
        name="text"
        label="What is the matter"
        rules={[{ required: true, message: 'Say what is the matter' }]}
      >
        <Input.TextArea rows={4} />
      </Form.Item>
      <Form.Item name="level" label="How serious">
        <Select
          options={[
            { value: 'info', label: 'To know' },
            { value: 'warning', label: 'Careful' },
            { value: 'stop', label: 'Do not use' },
          ]}
        />
      </Form.Item>
      <Form.Item name="until" label="Until (empty: until it is lifted)">
        <Input type="date" />
      </Form.Item>
      <Form.Item name="ticket" label="Address of a ticket">
        <Input placeholder="https://" />
      </Form.Item>
    </FormDialog>
  )
}

type WatchForm = {
  channel: 'email' | 'webhook'
  address: string
  about?: string[]
  digest: string
  digestAt?: string
  quietFrom?: string
  quietUntil?: string
}

/** Makes a watch; the secret of a webhook is shown once. */
export function WatchDialog({
  kind,
  target,
  name,
  onClose,
}: {
  kind: string
  target: string
  name: string
  onClose: () => void
}) {
  const making = useMakeWatch()
  const [secret, setSecret] = useState<string>()
  if (secret)
    return (
      <Modal open title="The watch is made" onOk={onClose} onCancel={onClose}>
        <p>Its messages are signed with this secret, which is not shown again:</p>
        <code>{secret}</code>
      </Modal>
    )
  return (
    <FormDialog<WatchForm>
      title={`Watch ${name}`}
      action="Watch"
      sending={{
        mutate: (given, options) =>
          making.mutate(
            { ...given, targetKind: kind, target, title: name },
            { onSuccess: (made) => (made.secret ? setSecret(made.secret) : options.onSuccess()) },
          ),
        isPending: making.isPending,
        error: making.error,
      }}
      initial={{ channel: 'email', digest: 'at-once' }}
      onClose={onClose}
    >
      <Form.Item name="channel" label="By">
        <Select
          options={[
            { value: 'email', label: 'Mail' },
            { value: 'webhook', label: 'Webhook' },
          ]}
        />
      </Form.Item>
      <Form.Item
        name="address"
        label="Mailbox or address"
        rules={[{ required: true, message: 'Say where to' }]}
      >
        <Input />
      </Form.Item>
      <Form.Item name="about" label="About (empty: everything)">
        <Select
          mode="multiple"
          options={['failure', 'lateness', 'check', 'unusual', 'notice'].map((word) => ({
            value: word,
            label: word,
          }))}
        />
      </Form.Item>
      <Form.Item name="digest" label="When">
        <Select
          options={[
            { value: 'at-once', label: 'At once' },
            { value: 'hourly', label: 'Once an hour' },
            { value: 'daily', label: 'Once a day' },
          ]}
        />
      </Form.Item>
      <Form.Item label="Quiet hours (UTC)">
        <Form.Item name="quietFrom" noStyle>
          <Input type="time" aria-label="Quiet from" style={{ width: 120 }} />
        </Form.Item>{' '}
        to{' '}
        <Form.Item name="quietUntil" noStyle>
          <Input type="time" aria-label="Quiet until" style={{ width: 120 }} />
        </Form.Item>
      </Form.Item>
    </FormDialog>
  )
}

/** Makes a link to the state of one report, and shows it once. */
export function ShareDialog({
  refText,
  name,
  onClose,
}: {
  refText: string
  name: string
  onClose: () => void
}) {
  const making = useMakeShareLink()
  const made = making.data
  return (
    <Modal
      open
      title={`Show the state of ${name} to people without an account`}
      okText={made ? 'Done' : 'Make a link'}
      onOk={() => (made ? onClose() : making.mutate({ ref: refText }))}
      onCancel={onClose}
    >
      {made ? (
        <>
          <p>The addresses are not shown again. They end in 90 days, or when they are revoked.</p>
          <p>
            Page <a href={made.page}>{made.page}</a>
          </p>
          <p>
            Badge <code>{made.badge}</code>
          </p>
          <img src={made.badge} alt={`State of ${name}`} />
        </>
      ) : (
        <p>Whoever has the link sees the state, the reason and whom to ask; nothing else.</p>
      )}
      {making.error && <Alert type="error" showIcon title={making.error.message} />}
    </Modal>
  )
}
