import { Form, Input, Select } from 'antd'
import { FormDialog } from '../shared/FormDialog'
import { NewPassword } from '../shared/NewPassword'
import { useMakeAccount } from './queries'
import { ROLES } from './roles'

/** Asks for what an account needs, and makes it. */
export function AccountDialog({ onClose }: { onClose: () => void }) {
  return (
    <FormDialog
      title="Make account"
      action="Make account"
      sending={useMakeAccount()}
      initial={{ role: 'reader' }}
      onClose={onClose}
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
      <NewPassword label="First password" />
    </FormDialog>
  )
}
