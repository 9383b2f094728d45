import { Alert, Button, Form, Input } from 'antd'
import { useInks } from '../shared/useInks'
import { useSignIn } from './useSession'

/** Asks for name and password. */
export function SignInPage() {
  const ink = useInks()
  const signIn = useSignIn()
  return (
    <main style={{ minHeight: '100vh', display: 'grid', placeItems: 'center', background: ink.page }}>
      <section
        style={{
          width: 340,
          background: ink.panel,
          border: `1px solid ${ink.line}`,
          padding: 28,
          borderRadius: 4,
        }}
      >
        <img src="/thread.svg" alt="" width={36} />
        <h1 style={{ fontSize: 22, margin: '10px 0 2px' }}>Long Thread</h1>
        <p style={{ color: ink.quiet, marginTop: 0 }}>Where data comes from, and where it goes.</p>
        <Form layout="vertical" onFinish={(given) => signIn.mutate(given)} requiredMark={false}>
          <Form.Item name="name" label="Name" rules={[{ required: true, message: 'Your name is needed' }]}>
            <Input autoFocus autoComplete="username" />
          </Form.Item>
          <Form.Item
            name="password"
            label="Password"
            rules={[{ required: true, message: 'The password is needed' }]}
          >
            <Input.Password autoComplete="current-password" />
          </Form.Item>
          {signIn.isError && (
            <Alert type="error" showIcon title={signIn.error.message} style={{ marginBottom: 12 }} />
          )}
          <Button type="primary" htmlType="submit" block loading={signIn.isPending}>
            Sign in
          </Button>
        </Form>
      </section>
    </main>
  )
}
