import { Alert, Button, Form, Input } from 'antd'
import { useState } from 'react'
import { FormDialog } from '../shared/FormDialog'
import { moment, spoken } from '../shared/format'
import shared from '../shared/shared.module.css'
import styles from './planned.module.css'
import { type Answered, type Plan, useAnswer } from './queries'

/** Whom a change concerns, and what they answered. */
export function Owners({ plan }: { plan: Plan }) {
  const answer = useAnswer(plan.id)
  const [objecting, setObjecting] = useState<string>()
  const open = plan.state === 'proposed' || plan.state === 'agreed'
  return (
    <section aria-label="Whom it concerns">
      <h2 className={shared.subheading}>Whom it concerns ({plan.owners.length})</h2>
      {answer.error && <Alert type="error" showIcon title={answer.error.message} />}
      {plan.owners.map((one) => (
        <div key={one.owner} className={styles.owner}>
          <b>{one.owner}</b>{' '}
          <span className={shared.quiet}>
            {one.items} {one.items === 1 ? 'item' : 'items'}, {spoken(one.worst)}
          </span>
          <div>
            {one.answer ? (
              <span className={one.answer === 'agrees' ? shared.good : shared.bad}>
                {one.answer}{' '}
                <small className={shared.quiet}>
                  {one.by}, {moment(one.at)}
                </small>
              </span>
            ) : (
              <span className={shared.quiet}>no answer yet</span>
            )}
            {open && (
              <div className={styles.buttons}>
                <Button size="small" onClick={() => answer.mutate({ owner: one.owner, answer: 'agrees' })}>
                  Agrees
                </Button>{' '}
                <Button size="small" onClick={() => setObjecting(one.owner)}>
                  Objects
                </Button>
              </div>
            )}
          </div>
          {one.note && <p className={styles.note}>{one.note}</p>}
        </div>
      ))}
      {objecting && (
        <FormDialog<Answered>
          title={`${objecting} objects`}
          action="Object"
          sending={{
            mutate: ({ note }, options) =>
              answer.mutate({ owner: objecting, answer: 'objects', note }, options),
            isPending: answer.isPending,
            error: answer.error,
          }}
          onClose={() => setObjecting(undefined)}
        >
          <Form.Item name="note" label="Why, or what is still needed" rules={[{ required: true }]}>
            <Input.TextArea rows={3} />
          </Form.Item>
        </FormDialog>
      )}
    </section>
  )
}
