import { Form, Input } from 'antd'

/** A field for a password that is long enough. */
export function NewPassword({ label, autoFocus }: { label: string; autoFocus?: boolean }) {
  return (
    <Form.Item
      name="password"
      label={label}
      rules={[{ required: true, min: 10, message: 'It has 10 characters or more' }]}
    >
      <Input.Password autoComplete="new-password" autoFocus={autoFocus} />
    </Form.Item>
  )
}
