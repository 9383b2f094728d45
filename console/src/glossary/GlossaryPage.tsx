import { Button, Empty, Form, Input, Popconfirm, Select, Space, Table } from 'antd'
import { useState } from 'react'
import { useMaySet, useStating, useTerms } from '../hand/queries'
import { Answer } from '../shared/Answer'
import { FormDialog } from '../shared/FormDialog'
import { shortRef } from '../shared/format'
import { AssetLink, KindMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import { useUrlState } from '../shared/useUrlState'
import styles from './glossary.module.css'
import { type Term, useTerm, useTermSuggestions } from './queries'

/** The words of the organisation, what they mean, and where they belong. */
export function GlossaryPage() {
  const [read, write] = useUrlState()
  const maySet = useMaySet()
  const terms = useTerms()
  const [defining, setDefining] = useState(false)
  return (
    <div className={shared.page}>
      <div className={shared.bar}>
        {maySet && (
          <Button type="primary" onClick={() => setDefining(true)}>
            Define a term
          </Button>
        )}
        <a href="api/v1/terms" download="terms.json">
          <Button>Download JSON</Button>
        </a>
      </div>
      <Answer of={terms}>
        {({ items }) =>
          items.length === 0 ? (
            <Empty description="The glossary is empty. Define a term, or send a sheet with longthread edit apply terms.csv." />
          ) : (
            <div className={styles.body}>
              <nav className={styles.tree} aria-label="Terms">
                {items.map((term) => (
                  <button
                    key={term.id}
                    type="button"
                    className={styles.term}
                    aria-current={term.id === (read('term') ?? items[0].id)}
                    style={{ paddingLeft: 8 + 18 * (term.path.length - 1) }}
                    onClick={() => write({ term: term.id })}
                  >
                    <span>{term.name}</span>
                    <span className={shared.quiet}>{term.uses > 0 ? term.uses : ''}</span>
                  </button>
                ))}
              </nav>
              <TermPage id={read('term') ?? items[0].id} all={items} />
            </div>
          )
        }
      </Answer>
      {defining && <TermDialog all={terms.data?.items ?? []} onClose={() => setDefining(false)} />}
    </div>
  )
}

function TermPage({ id, all }: { id: string; all: Term[] }) {
  const maySet = useMaySet()
  const stating = useStating()
  const [editing, setEditing] = useState(false)
  return (
    <Answer of={useTerm(id)}>
      {({ term, uses }) => (
        <article>
          <p className={shared.quiet}>{term.path.slice(0, -1).join(' / ')}</p>
          <div className={shared.bar}>
            <h1 className={styles.title}>{term.name}</h1>
            <span className={shared.space} />
            {maySet && (
              <Space>
                <Button size="small" onClick={() => setEditing(true)}>
                  Edit
                </Button>
                <Popconfirm
                  title={`Remove ${term.name}?`}
                  description={uses.length > 0 ? `${uses.length} places lose it.` : undefined}
                  okText="Remove"
                  onConfirm={() => stating.mutate({ changes: [{ set: 'term', id: term.id, value: null }] })}
                >
                  <Button size="small">Remove</Button>
                </Popconfirm>
              </Space>
            )}
          </div>
          <p className={styles.definition}>{term.definition ?? 'No definition yet.'}</p>
          {term.synonyms.length > 0 && <p className={shared.quiet}>Also called {term.synonyms.join(', ')}</p>}
          {term.owners.length > 0 && <p className={shared.quiet}>Answered for by {term.owners.join(', ')}</p>}
          <h2 className={shared.heading}>Where it belongs</h2>
          <Table
            size="small"
            className={shared.panel}
            rowKey="ref"
            pagination={pagesOf(uses)}
            dataSource={uses}
            locale={{ emptyText: 'No asset or column has this term. Give it on the page of one.' }}
            columns={[
              {
                title: 'Asset or column',
                dataIndex: 'name',
                render: (name, use) => <AssetLink refText={use.ref} name={name} />,
              },
              { title: 'Kind', dataIndex: 'kind', render: (kind) => <KindMark kind={kind} /> },
              { title: 'System', dataIndex: 'system' },
            ]}
          />
          <Suggested id={term.id} />
          {editing && <TermDialog term={term} all={all} onClose={() => setEditing(false)} />}
        </article>
      )}
    </Answer>
  )
}

/** Columns that hold the same values as one that has the term. */
function Suggested({ id }: { id: string }) {
  const maySet = useMaySet()
  const stating = useStating()
  const items = (useTermSuggestions().data?.items ?? []).filter((one) => one.term === id)
  if (items.length === 0) return null
  return (
    <>
      <h2 className={shared.heading}>Where it probably belongs too</h2>
      <Table
        size="small"
        className={shared.panel}
        rowKey="id"
        pagination={pagesOf(items)}
        dataSource={items}
        columns={[
          {
            title: 'Column',
            dataIndex: 'of',
            render: (of) => <AssetLink refText={of} name={shortRef(of)} />,
          },
          { title: 'Why', dataIndex: 'from', render: (from) => `It holds the values of ${shortRef(from)}` },
          {
            title: '',
            align: 'right',
            render: (_, one) =>
              maySet && (
                <Space>
                  <Button
                    size="small"
                    onClick={() =>
                      stating.mutate({ changes: [{ set: 'terms', of: one.of, value: [one.term] }] })
                    }
                  >
                    Give it
                  </Button>
                  <Button
                    size="small"
                    type="text"
                    onClick={() => stating.mutate({ changes: [{ set: 'dismissed', id: one.id, value: {} }] })}
                  >
                    Decline
                  </Button>
                </Space>
              ),
          },
        ]}
      />
    </>
  )
}

type Given = {
  name: string
  definition?: string
  parent?: string
  owners?: string[]
  synonyms?: string[]
}

function TermDialog({ term, all, onClose }: { term?: Term; all: Term[]; onClose: () => void }) {
  const stating = useStating()
  const sending = {
    isPending: stating.isPending,
    error: stating.error,
    mutate: ({ name, definition, parent, owners, synonyms }: Given, options: { onSuccess: () => void }) => {
      const value: Record<string, unknown> = { name }
      if (definition) value.definition = definition
      if (parent) value.parent = parent
      if (owners?.length) value.owners = owners
      if (synonyms?.length) value.synonyms = synonyms
      stating.mutate({ changes: [{ set: 'term', ...(term ? { id: term.id } : {}), value }] }, options)
    },
  }
  return (
    <FormDialog<Given>
      title={term ? `Edit ${term.name}` : 'Define a term'}
      action="Save"
      sending={sending}
      initial={term}
      onClose={onClose}
    >
      <Form.Item name="name" label="Name" rules={[{ required: true, message: 'It is needed' }]}>
        <Input />
      </Form.Item>
      <Form.Item name="definition" label="Definition">
        <Input.TextArea autoSize={{ minRows: 2, maxRows: 8 }} />
      </Form.Item>
      <Form.Item name="parent" label="Under">
        <Select
          allowClear
          showSearch={{ optionFilterProp: 'label' }}
          options={all
            .filter((other) => other.id !== term?.id)
            .map((other) => ({ value: other.id, label: other.path.join(' / ') }))}
        />
      </Form.Item>
      <Form.Item name="synonyms" label="Also called">
        <Select mode="tags" open={false} suffixIcon={null} tokenSeparators={[';']} />
      </Form.Item>
      <Form.Item name="owners" label="Answered for by">
        <Select mode="tags" open={false} suffixIcon={null} tokenSeparators={[';']} />
      </Form.Item>
    </FormDialog>
  )
}
