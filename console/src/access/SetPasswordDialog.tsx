import { Alert, Form, Input, Modal } from 'antd'
import { useSetPassword } from './queries'

/** Gives an account another password. */
export function SetPasswordDialog({ name, onClose }: { name: string; onClose: () => void }) {
  const [form] = Form.useForm<{ password: string }>()
  const set = useSetPassword()
  return (
    <Modal
      open
      title={`Set the password of ${name}`}
      okText="Set password"
      confirmLoading={set.isPending}
      onOk={form.submit}
      onCancel={onClose}
    >
      <Form
        form={form}
        layout="vertical"
        requiredMark={false}
        onFinish={({ password }) => set.mutate({ name, password }, { onSuccess: onClose })}
      >
        <Form.Item
          name="password"
          label="New password"
          rules={[{ required: true, min: 10, message: 'It has 10 characters or more' }]}
        >
          <Input.Password autoComplete="new-password" autoFocus />
        </Form.Item>
      </Form>
      {set.isError && <Alert type="error" showIcon title={set.error.message} />}
    </Modal>
  )
}
