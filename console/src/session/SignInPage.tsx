import { Alert, Button, Divider, Form, Input } from 'antd'
import { useLocation } from 'react-router'
import styles from '../shared/frame.module.css'
import { useSignIn } from './useSession'

/** Why the provider's sign-in ended without a session, by the word in the address. */
const REFUSED: Record<string, string> = {
  cancelled: 'The provider signed nobody in.',
  expired: 'The sign-in took too long, or was begun in another browser. Begin it again.',
  failed: 'The provider did not confirm the sign-in. Whoever runs the service finds the reason in its log.',
  'no-role': 'None of your groups may use this catalog. Ask whoever runs it for a role.',
  'name-taken': 'An account of your name exists here already. An administrator has to rename or delete it.',
  disabled: 'Your account is disabled here. An administrator can enable it again.',
}

/** Asks for name and password, or leads to the provider at which people sign in. */
export function SignInPage({ provider }: { provider?: string }) {
  const signIn = useSignIn()
  const location = useLocation()
  const refused = REFUSED[new URLSearchParams(location.search).get('refused') ?? '']
  return (
    <main className={styles.signIn}>
      <section className={styles.signInBox}>
        <img src="thread.svg" alt="" width={36} />
        <h1 className={styles.signInTitle}>Long Thread</h1>
        <p className={styles.signInWords}>Where data comes from, and where it goes.</p>
        {refused && <Alert type="error" showIcon title={refused} className={styles.signInProblem} />}
        {provider && (
          <>
            <Button type="primary" block href={startAt(location)}>
              Sign in with {provider}
            </Button>
            <Divider plain>or with an account of this service</Divider>
          </>
        )}
        <Form
          layout="vertical"
          onFinish={(given: { name: string; password: string }) => signIn.mutate(given)}
          requiredMark={false}
        >
          <Form.Item name="name" label="Name" rules={[{ required: true, message: 'Your name is needed' }]}>
            <Input autoFocus={!provider} autoComplete="username" />
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
          <Button type={provider ? 'default' : 'primary'} htmlType="submit" block loading={signIn.isPending}>
            Sign in
          </Button>
        </Form>
      </section>
    </main>
  )
}

/** The way to the provider, which comes back to the page that was asked for. */
function startAt({ pathname, search }: { pathname: string; search: string }) {
  const target = search.includes('refused=') ? '/' : pathname + search
  return `api/v1/session/provider?target=${encodeURIComponent(target)}`
}
