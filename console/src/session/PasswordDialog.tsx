import { Alert, Form, Input, Modal } from 'antd'
import { useChangePassword } from './useSession'

type Given = { current: string; password: string; again: string }

/** Lets who is signed in choose another password. */
export function PasswordDialog({ onClose }: { onClose: () => void }) {
  const [form] = Form.useForm<Given>()
  const change = useChangePassword()
  return (
    <Modal
      open
      title="Change password"
      okText="Change password"
      confirmLoading={change.isPending}
      onOk={form.submit}
      onCancel={onClose}
    >
      <p>Other browsers in which you are signed in are signed out.</p>
      <Form
        form={form}
        layout="vertical"
        requiredMark={false}
        onFinish={({ current, password }) => change.mutate({ current, password }, { onSuccess: onClose })}
      >
        <Form.Item
          name="current"
          label="Current password"
          rules={[{ required: true, message: 'It is needed' }]}
        >
          <Input.Password autoComplete="current-password" autoFocus />
        </Form.Item>
        <Form.Item
          name="password"
          label="New password"
          rules={[{ required: true, min: 10, message: 'It has 10 characters or more' }]}
        >
          <Input.Password autoComplete="new-password" />
        </Form.Item>
        <Form.Item
          name="again"
          label="New password again"
          dependencies={['password']}
          rules={[
            {
              validator: (_, again) =>
                again === form.getFieldValue('password')
                  ? Promise.resolve()
                  : Promise.reject(new Error('The two differ')),
            },
          ]}
        >
          <Input.Password autoComplete="new-password" />
        </Form.Item>
      </Form>
      {change.isError && <Alert type="error" showIcon title={change.error.message} />}
    </Modal>
  )
}
