import { Form, Input } from 'antd'
import { FormDialog } from '../shared/FormDialog'
import { NewPassword } from '../shared/NewPassword'
import { useChangePassword } from './useSession'

/** Lets who is signed in choose another password. */
export function PasswordDialog({ onClose }: { onClose: () => void }) {
  return (
    <FormDialog
      title="Change password"
      action="Change password"
      sending={useChangePassword()}
      onClose={onClose}
    >
      <p>Other browsers in which you are signed in are signed out.</p>
      <Form.Item
        name="current"
        label="Current password"
        rules={[{ required: true, message: 'It is needed' }]}
      >
        <Input.Password autoComplete="current-password" autoFocus />
      </Form.Item>
      <NewPassword label="New password" />
      <Form.Item
        name="again"
        label="New password again"
        dependencies={['password']}
        rules={[
          ({ getFieldValue }) => ({
            validator: (_, again) =>
              again === getFieldValue('password')
                ? Promise.resolve()
                : Promise.reject(new Error('The two differ')),
          }),
        ]}
      >
        <Input.Password autoComplete="new-password" />
      </Form.Item>
    </FormDialog>
  )
}
