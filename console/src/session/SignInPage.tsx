import { Alert, Button, Form, Input } from 'antd'
import styles from '../shared/frame.module.css'
import { useSignIn } from './useSession'

/** Asks for name and password. */
export function SignInPage() {
  const signIn = useSignIn()
  return (
    <main className={styles.signIn}>
      <section className={styles.signInBox}>
        <img src="thread.svg" alt="" width={36} />
        <h1 className={styles.signInTitle}>Long Thread</h1>
        <p className={styles.signInWords}>Where data comes from, and where it goes.</p>
        <Form
          layout="vertical"
          onFinish={(given: { name: string; password: string }) => signIn.mutate(given)}
          requiredMark={false}
        >
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
            <Alert type="error" showIcon title={signIn.error.message} className={styles.signInProblem} />
          )}
          <Button type="primary" htmlType="submit" block loading={signIn.isPending}>
            Sign in
          </Button>
        </Form>
      </section>
    </main>
  )
}
