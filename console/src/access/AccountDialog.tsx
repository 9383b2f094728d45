import { Alert, Form, Input, Modal, Select } from 'antd'
import { type NewAccount, useMakeAccount } from './queries'
import { ROLES } from './roles'

/** Asks for what an account needs, and makes it. */
export function AccountDialog({ onClose }: { onClose: () => void }) {
  const [form] = Form.useForm<NewAccount>()
  const make = useMakeAccount()
  return (
    <Modal
      open
      title="Make account"
      okText="Make account"
      confirmLoading={make.isPending}
      onOk={form.submit}
      onCancel={onClose}
    >
      <Form
        form={form}
        layout="vertical"
        requiredMark={false}
        initialValues={{ role: 'reader' }}
        onFinish={(given) => make.mutate(given, { onSuccess: onClose })}
      >
        <Form.Item
          name="name"
          label="Name to sign in with"
          rules={[{ required: true, message: 'It is needed' }]}
        >
          <Input autoFocus autoComplete="off" />
        </Form.Item>
        <Form.Item name="displayName" label="Called">
          <Input autoComplete="off" placeholder="What others see; the name if it is left empty" />
        </Form.Item>
        <Form.Item name="role" label="Role">
          <Select options={ROLES} />
        </Form.Item>
        <Form.Item
          name="password"
          label="First password"
          rules={[{ required: true, min: 10, message: 'It has 10 characters or more' }]}
        >
          <Input.Password autoComplete="new-password" />
        </Form.Item>
      </Form>
      {make.isError && <Alert type="error" showIcon title={make.error.message} />}
    </Modal>
  )
}
