import { Button, Space, Table } from 'antd'
import { useMaySet, useStating } from '../hand/queries'
import { Answer } from '../shared/Answer'
import { day, spoken } from '../shared/format'
import { AssetLink, Owners } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import styles from './labels.module.css'
import { useDisagreements, useReviews, useSuggestions } from './queries'

/** What a steward is asked to decide: columns without labels, sources that disagree, reviews. */
export function Work() {
  return (
    <div className={styles.lists}>
      <Suggested />
      <Disagreeing />
      <ToReview />
    </div>
  )
}

function Suggested() {
  const maySet = useMaySet()
  const stating = useStating()
  return (
    <Answer of={useSuggestions()}>
      {({ items }) => (
        <section aria-label="Columns that look sensitive">
          <h2 className={shared.heading}>Columns that look sensitive and have no label ({items.length})</h2>
          <Table
            size="small"
            className={shared.panel}
            rowKey="id"
            pagination={pagesOf(items)}
            dataSource={items}
            locale={{ emptyText: 'Every column with such a name has a label.' }}
            columns={[
              {
                title: 'Column',
                dataIndex: 'name',
                render: (name, one) => <AssetLink refText={one.ref} name={name} />,
              },
              { title: 'System', dataIndex: 'system' },
              { title: 'Label', dataIndex: 'title' },
              { title: 'Because', render: (_, one) => one.evidence.join('; ') },
              { title: 'Owner', render: (_, one) => <Owners owners={one.owners} /> },
              {
                title: '',
                align: 'right',
                render: (_, one) =>
                  maySet && (
                    <Space>
                      <Button
                        size="small"
                        onClick={() =>
                          stating.mutate({ changes: [{ set: 'tags', of: one.ref, value: [one.label] }] })
                        }
                      >
                        Give it
                      </Button>
                      <Button
                        size="small"
                        type="text"
                        onClick={() =>
                          stating.mutate({ changes: [{ set: 'dismissed', id: one.id, value: {} }] })
                        }
                      >
                        Decline
                      </Button>
                    </Space>
                  ),
              },
            ]}
          />
        </section>
      )}
    </Answer>
  )
}

function Disagreeing() {
  return (
    <Answer of={useDisagreements()}>
      {({ items }) => (
        <section aria-label="Sources that disagree">
          <h2 className={shared.heading}>Columns on which two sources disagree ({items.length})</h2>
          <Table
            size="small"
            className={shared.panel}
            rowKey="ref"
            pagination={pagesOf(items)}
            dataSource={items}
            locale={{ emptyText: 'Where several sources set labels, they set the same ones.' }}
            columns={[
              {
                title: 'Column',
                dataIndex: 'name',
                render: (name, one) => <AssetLink refText={one.ref} name={name} />,
              },
              {
                title: 'What each says',
                render: (_, one) =>
                  one.sources.map((source) => (
                    <div key={source.part}>
                      {source.system}: {source.labels.join(', ') || 'none'}{' '}
                      <small className={shared.quiet}>{source.part}</small>
                    </div>
                  )),
              },
              { title: 'Owner', render: (_, one) => <Owners owners={one.owners} /> },
            ]}
          />
        </section>
      )}
    </Answer>
  )
}

function ToReview() {
  const maySet = useMaySet()
  const stating = useStating()
  return (
    <Answer of={useReviews()}>
      {({ items }) => (
        <section aria-label="Reviews">
          <h2 className={shared.heading}>Exceptions to look at again ({items.length})</h2>
          <Table
            size="small"
            className={shared.panel}
            rowKey="id"
            pagination={pagesOf(items)}
            dataSource={items}
            locale={{ emptyText: 'No label is stopped by hand, and no leak is accepted.' }}
            columns={[
              {
                title: 'Due',
                dataIndex: 'due',
                render: (due, one) => (
                  <span className={one.isDue ? shared.bad : undefined}>
                    {day(due)} {one.isDue && '(due)'}
                  </span>
                ),
              },
              { title: 'What', dataIndex: 'what', render: spoken },
              { title: 'Label', dataIndex: 'label' },
              {
                title: 'Where',
                dataIndex: 'name',
                render: (name, one) => <AssetLink refText={one.ref} name={name} />,
              },
              { title: 'Reason', render: (_, one) => `${one.reason} (${one.by})` },
              {
                title: '',
                align: 'right',
                render: (_, one) =>
                  maySet && (
                    <Button
                      size="small"
                      onClick={() =>
                        stating.mutate({ changes: [{ set: one.what, id: one.id, value: null }] })
                      }
                    >
                      End it
                    </Button>
                  ),
              },
            ]}
          />
        </section>
      )}
    </Answer>
  )
}
