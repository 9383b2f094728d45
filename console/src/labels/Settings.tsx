import { Button, Form, Input, InputNumber, Popconfirm, Segmented, Select, Space, Table } from 'antd'
import { useState } from 'react'
import { useMaySet, useStating } from '../hand/queries'
import { Answer } from '../shared/Answer'
import { FormDialog } from '../shared/FormDialog'
import { day, shortRef } from '../shared/format'
import { AssetLink } from '../shared/marks'
import shared from '../shared/shared.module.css'
import styles from './labels.module.css'
import { useLabels, useMasks, usePolicies, useRules, useStops } from './queries'

const KINDS = ['table', 'view', 'file', 'topic', 'dataset', 'model', 'chart', 'report', 'dashboard']
const SHOWN = ['shown', 'generalised', 'partial', 'hashed', 'hidden']

type Kind = 'policy' | 'rule' | 'stop' | 'label'

/** What stewards say of labels: where each may be, what gets it, where it ends, who sees values. */
export function Settings() {
  const maySet = useMaySet()
  const [making, setMaking] = useState<Kind>()
  return (
    <>
      {maySet && (
        <Space className={shared.bar}>
          <Button type="primary" onClick={() => setMaking('policy')}>
            Add a policy
          </Button>
          <Button onClick={() => setMaking('rule')}>Add a rule on names</Button>
          <Button onClick={() => setMaking('stop')}>Stop a label at a place</Button>
          <Button onClick={() => setMaking('label')}>Define a label</Button>
        </Space>
      )}
      <div className={styles.lists}>
        <Policies />
        <Rules />
        <Stops />
        <Masks />
      </div>
      {making && <SettingDialog kind={making} onClose={() => setMaking(undefined)} />}
    </>
  )
}

/** The last cell of a row: takes away what a person set. */
function Removal({ set, id }: { set: string; id: string }) {
  const maySet = useMaySet()
  const stating = useStating()
  return maySet ? (
    <Popconfirm
      title="Remove it?"
      okText="Remove"
      onConfirm={() => stating.mutate({ changes: [{ set, id, value: null }] })}
    >
      <Button size="small">Remove</Button>
    </Popconfirm>
  ) : null
}

const words = (list: string[]) => list.join(', ') || <span className={shared.quiet}>any</span>

function Policies() {
  return (
    <Answer of={usePolicies()}>
      {({ items }) => (
        <section aria-label="Policies">
          <h2 className={shared.heading}>Where a label may be, and may not</h2>
          <Table
            size="small"
            className={shared.panel}
            rowKey="id"
            pagination={false}
            dataSource={items}
            locale={{ emptyText: 'No policy is set, so nothing counts as a leak.' }}
            columns={[
              { title: 'Label', dataIndex: 'label' },
              {
                title: 'Rule',
                dataIndex: 'allowed',
                render: (allowed) =>
                  allowed ? (
                    <span className={shared.good}>✓ may be in</span>
                  ) : (
                    <span className={shared.bad}>✕ may not be in</span>
                  ),
              },
              { title: 'Kinds', dataIndex: 'kinds', render: words },
              { title: 'Systems', dataIndex: 'systems', render: words },
              { title: 'Workspaces', dataIndex: 'workspaces', render: words },
              {
                title: 'Readers',
                render: (_, one) =>
                  one.audience.length > 0 && one.allowed
                    ? `only ${one.audience.join(', ')}`
                    : words(one.audience),
              },
              { title: 'Places', dataIndex: 'locations', render: words },
              {
                title: 'By',
                render: (_, one) => (
                  <span title={one.note}>
                    {one.by}, {day(one.at)}
                  </span>
                ),
              },
              { title: '', align: 'right', render: (_, one) => <Removal set="label-policy" id={one.id} /> },
            ]}
          />
        </section>
      )}
    </Answer>
  )
}

function Rules() {
  return (
    <Answer of={useRules()}>
      {({ items }) => (
        <section aria-label="Rules">
          <h2 className={shared.heading}>Columns that get a label by what they are called</h2>
          <Table
            size="small"
            className={shared.panel}
            rowKey="id"
            pagination={false}
            dataSource={items}
            locale={{ emptyText: 'No rule is set. Try one first: longthread label try.' }}
            columns={[
              { title: 'Label', dataIndex: 'label' },
              { title: 'Names', dataIndex: 'names', render: words },
              { title: 'Except', dataIndex: 'except', render: (list: string[]) => list.join(', ') },
              { title: 'Types', dataIndex: 'types', render: words },
              { title: 'Terms', dataIndex: 'terms', render: words },
              { title: 'Systems', dataIndex: 'systems', render: words },
              { title: 'By', render: (_, one) => `${one.by}, ${day(one.at)}` },
              { title: '', align: 'right', render: (_, one) => <Removal set="label-rule" id={one.id} /> },
            ]}
          />
        </section>
      )}
    </Answer>
  )
}

function Stops() {
  return (
    <Answer of={useStops()}>
      {({ items }) => (
        <section aria-label="Stops">
          <h2 className={shared.heading}>Places at which a label ends</h2>
          <Table
            size="small"
            className={shared.panel}
            rowKey="id"
            pagination={false}
            dataSource={items}
            locale={{ emptyText: 'No label is stopped by hand.' }}
            columns={[
              { title: 'Label', dataIndex: 'label' },
              {
                title: 'Ends at',
                dataIndex: 'ref',
                render: (ref) => <AssetLink refText={ref} name={shortRef(ref)} />,
              },
              { title: 'Reason', dataIndex: 'reason' },
              { title: 'By', render: (_, one) => `${one.by}, ${day(one.at)}` },
              { title: 'Review', dataIndex: 'review', render: day },
              { title: '', align: 'right', render: (_, one) => <Removal set="label-stop" id={one.id} /> },
            ]}
          />
        </section>
      )}
    </Answer>
  )
}

function Masks() {
  const maySet = useMaySet()
  const stating = useStating()
  return (
    <Answer of={useMasks()}>
      {({ items }) => {
        const labels = [...new Set(items.map((mask) => mask.label))]
        const of = (label: string, role: string) =>
          items.find((mask) => mask.label === label && mask.role === role)
        return (
          <section aria-label="Masks">
            <h2 className={shared.heading}>How much of values each role sees in a preview</h2>
            <Table
              size="small"
              className={shared.panel}
              rowKey="label"
              pagination={false}
              dataSource={labels.map((label) => ({ label }))}
              columns={[
                { title: 'Label', dataIndex: 'label' },
                ...['reader', 'steward', 'admin'].map((role) => ({
                  title: role,
                  render: (_: unknown, { label }: { label: string }) => {
                    const mask = of(label, role)
                    return maySet ? (
                      <Select
                        size="small"
                        aria-label={`${label} for ${role}`}
                        value={mask?.shown}
                        popupMatchSelectWidth={false}
                        options={SHOWN.map((value) => ({ value, label: value }))}
                        onChange={(shown) =>
                          stating.mutate({ changes: [{ set: 'label-mask', value: { label, role, shown } }] })
                        }
                      />
                    ) : (
                      mask?.shown
                    )
                  },
                })),
              ]}
            />
          </section>
        )
      }}
    </Answer>
  )
}

const TITLES: Record<Kind, string> = {
  policy: 'Where a label may be, or may not',
  rule: 'Give a label to columns by what they are called',
  stop: 'Stop a label at a place',
  label: 'Define a label',
}

type Given = Record<string, unknown>

function SettingDialog({ kind, onClose }: { kind: Kind; onClose: () => void }) {
  const stating = useStating()
  const sending = {
    isPending: stating.isPending,
    error: stating.error,
    mutate: (given: Given, options: { onSuccess: () => void }) => {
      const value = Object.fromEntries(
        Object.entries(given).filter(
          ([, said]) => said !== undefined && (!Array.isArray(said) || said.length),
        ),
      )
      stating.mutate({ changes: [{ set: kind === 'label' ? 'label' : `label-${kind}`, value }] }, options)
    },
  }
  return (
    <FormDialog<Given>
      title={TITLES[kind]}
      action="Save"
      sending={sending}
      initial={kind === 'policy' ? { allowed: false } : kind === 'label' ? { level: 2 } : undefined}
      onClose={onClose}
    >
      {kind !== 'label' && <LabelField />}
      {kind === 'policy' && <PolicyFields />}
      {kind === 'rule' && <RuleFields />}
      {kind === 'stop' && <StopFields />}
      {kind === 'label' && <LabelFields />}
    </FormDialog>
  )
}

const needed = [{ required: true, message: 'It is needed' }]

function LabelField() {
  const labels = useLabels().data?.items ?? []
  return (
    <Form.Item name="label" label="Label" rules={needed}>
      <Select options={labels.map((label) => ({ value: label.id, label: label.title }))} />
    </Form.Item>
  )
}

function Words({ name, label, help }: { name: string; label: string; help?: string }) {
  return (
    <Form.Item name={name} label={label} extra={help}>
      <Select mode="tags" open={false} suffixIcon={null} tokenSeparators={[',', ';']} />
    </Form.Item>
  )
}

function PolicyFields() {
  return (
    <>
      <Form.Item name="allowed" label="Rule">
        <Segmented
          options={[
            { value: false, label: 'may not be there' },
            { value: true, label: 'may be there' },
          ]}
        />
      </Form.Item>
      <Form.Item name="kinds" label="Kinds">
        <Select mode="multiple" options={KINDS.map((value) => ({ value, label: value }))} />
      </Form.Item>
      <Words name="systems" label="Systems" />
      <Words name="workspaces" label="Workspaces" />
      <Words
        name="audience"
        label="Readers"
        help="May not: where any of these reads. May: where only these read."
      />
      <Words
        name="locations"
        label="Places"
        help="The namespace, or a tag location; * stands for any letters."
      />
      <Form.Item name="note" label="Note">
        <Input />
      </Form.Item>
    </>
  )
}

function RuleFields() {
  return (
    <>
      <Words name="names" label="Names of columns" help="* stands for any letters: *iban*" />
      <Words name="except" label="But not" />
      <Words name="types" label="Types" />
      <Words name="terms" label="Terms" />
      <Words name="systems" label="Systems" />
    </>
  )
}

function StopFields() {
  return (
    <>
      <Form.Item name="at" label="At" rules={needed}>
        <Input placeholder="core.farm#phone" />
      </Form.Item>
      <Form.Item name="reason" label="Reason" rules={needed}>
        <Input placeholder="numbers of the office, not of persons" />
      </Form.Item>
      <Form.Item name="review" label="Look at it again on" rules={needed}>
        <Input type="date" />
      </Form.Item>
    </>
  )
}

function LabelFields() {
  return (
    <>
      <Form.Item name="title" label="Name" rules={needed}>
        <Input />
      </Form.Item>
      <Form.Item name="definition" label="Definition">
        <Input.TextArea autoSize={{ minRows: 2, maxRows: 6 }} />
      </Form.Item>
      <Form.Item name="level" label="Level, from 1 to 4">
        <InputNumber min={1} max={4} />
      </Form.Item>
      <Words name="words" label="Tags that set it" />
      <Form.Item name="overAggregation" label="Goes on into sums and counts">
        <YesNo />
      </Form.Item>
      <Form.Item name="overConditional" label="Goes on into what it only decides">
        <YesNo />
      </Form.Item>
      <Form.Item name="overMasks" label="Goes on through hashes and masks">
        <YesNo />
      </Form.Item>
    </>
  )
}

function YesNo(props: { value?: boolean; onChange?: (value: boolean) => void }) {
  return (
    <Segmented
      {...props}
      value={props.value ?? false}
      options={[
        { value: false, label: 'no' },
        { value: true, label: 'yes' },
      ]}
    />
  )
}
