import { Alert, Button, Empty, Modal, Space, Table } from 'antd'
import { useState } from 'react'
import { type Change, useMaySet, useStating } from '../hand/queries'
import { Answer } from '../shared/Answer'
import { AssetLink } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import styles from './coverage.module.css'
import { type MergeSuggestion, useMergeSuggestions, useRuleTry } from './queries'

/** Names that are probably one asset, each with what speaks for it. */
export function SameThings() {
  const maySet = useMaySet()
  const stating = useStating()
  const [rule, setRule] = useState<string>()
  const decide = (changes: Change[]) => stating.mutate({ changes, reason: 'suggested by the catalog' })
  return (
    <>
      {stating.error && (
        <Alert type="error" showIcon className={shared.below} title={stating.error.message} />
      )}
      <Answer of={useMergeSuggestions()}>
        {({ items }) =>
          items.length === 0 ? (
            <Empty description="No names look like one asset. When two programs name the same table differently, they are proposed here." />
          ) : (
            items.map((one) => (
              <Proposal key={one.id} of={one}>
                {maySet && (
                  <Space wrap>
                    <Button
                      size="small"
                      type="primary"
                      loading={stating.isPending}
                      onClick={() => decide([{ set: 'join', of: one.with, with: one.of, value: 'one' }])}
                    >
                      Join the two
                    </Button>
                    {one.rule && (
                      <Button size="small" onClick={() => setRule(one.rule)}>
                        Join all that differ like this …
                      </Button>
                    )}
                    <Button
                      size="small"
                      type="text"
                      onClick={() => decide([{ set: 'dismissed', id: one.id, value: {} }])}
                    >
                      They are two things
                    </Button>
                  </Space>
                )}
              </Proposal>
            ))
          )
        }
      </Answer>
      {rule && (
        <RuleDialog
          rule={rule}
          onClose={() => setRule(undefined)}
          onSet={() => stating.mutate({ changes: [{ set: 'rule', value: { rule } }] })}
        />
      )}
    </>
  )
}

/** What a rule would join, before it is set. */
function RuleDialog({ rule, onSet, onClose }: { rule: string; onSet: () => void; onClose: () => void }) {
  const tried = useRuleTry(rule)
  return (
    <Modal
      open
      width={760}
      title="Join all names that differ like this"
      okText="Set the rule"
      onOk={() => {
        onSet()
        onClose()
      }}
      onCancel={onClose}
    >
      <p>
        <code>{rule}</code>
      </p>
      <Answer of={tried}>
        {({ joined, dangling }) => (
          <>
            <p>
              {joined.length} names become another one that is known; {dangling.length} would get a name that
              nothing has, and stay as they are.
            </p>
            <Table
              size="small"
              rowKey="name"
              pagination={pagesOf(joined)}
              dataSource={joined}
              columns={[
                { title: 'Name', dataIndex: 'name' },
                { title: 'Becomes', dataIndex: 'becomes' },
              ]}
            />
          </>
        )}
      </Answer>
    </Modal>
  )
}

function Proposal({ of, children }: { of: MergeSuggestion; children: React.ReactNode }) {
  return (
    <article className={styles.proposal}>
      <div className={styles.pair}>
        <AssetLink refText={of.with} name={of.with} />
      </div>
      <div className={shared.quiet}>is probably</div>
      <div className={styles.pair}>
        <AssetLink refText={of.of} name={of.of} />
      </div>
      <ul className={styles.evidence}>
        {of.evidence.map((sentence) => (
          <li key={sentence}>{sentence}</li>
        ))}
      </ul>
      {children}
    </article>
  )
}
