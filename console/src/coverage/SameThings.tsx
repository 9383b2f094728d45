import { Alert, Button, Empty, Space } from 'antd'
import { type Change, useMaySet, useStating } from '../hand/queries'
import { Answer } from '../shared/Answer'
import { AssetLink } from '../shared/marks'
import shared from '../shared/shared.module.css'
import styles from './coverage.module.css'
import { type MergeSuggestion, useMergeSuggestions } from './queries'

/** Names that are probably one asset, each with what speaks for it. */
export function SameThings() {
  const maySet = useMaySet()
  const stating = useStating()
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
                      <Button
                        size="small"
                        title={one.rule}
                        loading={stating.isPending}
                        onClick={() => decide([{ set: 'rule', value: { rule: one.rule } }])}
                      >
                        Join all that differ like this
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
    </>
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
