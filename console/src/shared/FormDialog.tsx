import { Alert, Form, Modal } from 'antd'
import type { ReactNode } from 'react'

type Sending<Given> = {
  mutate: (given: Given, options: { onSuccess: () => void }) => void
  isPending: boolean
  error: Error | null
}

/** A dialog with a form: sends what was filled in, closes when that is done, says what went wrong. */
export function FormDialog<Given>({
  title,
  action,
  sending,
  initial,
  onClose,
  children,
}: {
  title: string
  action: string
  sending: Sending<Given>
  initial?: Partial<Given>
  onClose: () => void
  children: ReactNode
}) {
  const [form] = Form.useForm<Given>()
  return (
    <Modal
      open
      title={title}
      okText={action}
      confirmLoading={sending.isPending}
      onOk={form.submit}
      onCancel={onClose}
    >
      <Form
        form={form}
        layout="vertical"
        requiredMark={false}
        initialValues={initial}
        onFinish={(given) => sending.mutate(given, { onSuccess: onClose })}
      >
        {children}
      </Form>
      {sending.error && <Alert type="error" showIcon title={sending.error.message} />}
    </Modal>
  )
}
