import {
  Alert,
  AutoComplete,
  Button,
  Form,
  Input,
  Popconfirm,
  Select,
  Table,
  type TableColumnsType,
} from 'antd'
import { Answer } from '../shared/Answer'
import { ago, day } from '../shared/format'
import { Since } from '../shared/Since'
import shared from '../shared/shared.module.css'
import { useSearch } from '../shared/useSearch'
import {
  type Grant,
  type NewGrant,
  useAccounts,
  useEndGrant,
  useGiveGrant,
  useGrants,
  useGroups,
  useKeys,
} from './queries'

const HOLDERS = [
  { value: 'account', label: 'Account' },
  { value: 'group', label: 'Group' },
  { value: 'key', label: 'Key' },
]
const SCOPES = [
  { value: 'system', label: 'the system' },
  { value: 'workspace', label: 'the workspace' },
  { value: 'label', label: 'what has the label' },
  { value: 'everything', label: 'everything' },
]
const ON_PARTS = [
  { value: 'reader', label: 'reader' },
  { value: 'steward', label: 'steward' },
]
const ON_ALL = [...ON_PARTS, ...['auditor', 'emitter', 'admin'].map((value) => ({ value, label: value }))]

/** Who holds which role on what part of the catalog. */
export function GrantTable() {
  const give = useGiveGrant()
  const end = useEndGrant()
  const error = give.error ?? end.error
  const columns: TableColumnsType<Grant> = [
    {
      title: 'Holder',
      render: (_, grant) => (
        <>
          {grant.holderKind} <strong>{grant.holder}</strong>
        </>
      ),
    },
    { title: 'Role', dataIndex: 'role' },
    {
      title: 'On',
      render: (_, grant) => (
        <>
          {grant.scope} <strong>{grant.value}</strong>
        </>
      ),
    },
    {
      title: 'Given',
      render: (_, grant) => (
        <>
          by {grant.grantedBy}, <Since at={grant.grantedAt} />
        </>
      ),
    },
    { title: 'State', render: (_, grant) => <State of={grant} /> },
    {
      title: '',
      align: 'right',
      render: (_, grant) => (
        <Popconfirm
          title="End this grant?"
          description="What it covers is hidden from its holder within five seconds."
          okText="End grant"
          onConfirm={() => end.mutate(grant.id)}
        >
          <Button size="small" danger>
            End
          </Button>
        </Popconfirm>
      ),
    },
  ]
  return (
    <Answer of={useGrants()}>
      {({ items }) => (
        <>
          <GrantForm onGive={give.mutate} sending={give.isPending} />
          {error && <Alert type="error" showIcon className={shared.below} title={error.message} />}
          <Table
            size="small"
            className={shared.panel}
            rowKey="id"
            pagination={false}
            dataSource={items}
            columns={columns}
            locale={{
              emptyText:
                'Grants appear here. Accounts and keys with the role “limited” see only what grants cover.',
            }}
          />
        </>
      )}
    </Answer>
  )
}

/** Reads as a sentence: who gets which role on what, until when. */
function GrantForm({ onGive, sending }: { onGive: (grant: NewGrant) => void; sending: boolean }) {
  const [form] = Form.useForm<NewGrant>()
  const kind = Form.useWatch('holderKind', form) ?? 'account'
  const scope = Form.useWatch('scope', form) ?? 'system'
  const holders = useHolders(kind)
  const facets = useSearch({ limit: 1 }).data?.facets
  const counts = scope === 'system' ? facets?.system : scope === 'label' ? facets?.label : undefined
  return (
    <Form
      form={form}
      layout="inline"
      colon={false}
      className={shared.bar}
      initialValues={{ holderKind: 'account', role: 'reader', scope: 'system' }}
      onFinish={({ until, ...given }: NewGrant) =>
        onGive({ ...given, until: until ? `${until}T23:59:59Z` : undefined })
      }
    >
      <Form.Item name="holderKind">
        <Select options={HOLDERS} aria-label="Kind of holder" onChange={() => form.resetFields(['holder'])} />
      </Form.Item>
      <Form.Item name="holder" rules={[{ required: true, message: 'It is needed' }]}>
        <Select
          showSearch
          style={{ minWidth: 130 }}
          placeholder="Name"
          popupMatchSelectWidth={false}
          aria-label="Holder"
          options={holders.map((value) => ({ value }))}
        />
      </Form.Item>
      <Form.Item name="role" label="is">
        <Select options={scope === 'everything' ? ON_ALL : ON_PARTS} aria-label="Role of the grant" />
      </Form.Item>
      <Form.Item name="scope" label="on">
        <Select
          options={SCOPES}
          popupMatchSelectWidth={false}
          aria-label="Scope"
          onChange={() => form.resetFields(['value', 'role'])}
        />
      </Form.Item>
      {scope !== 'everything' && (
        <Form.Item name="value" rules={[{ required: true, message: 'It is needed' }]}>
          <AutoComplete
            style={{ minWidth: 140 }}
            placeholder={scope}
            popupMatchSelectWidth={false}
            aria-label="Value of the scope"
            options={Object.keys(counts ?? {}).map((value) => ({ value }))}
            showSearch={{ filterOption: true }}
          />
        </Form.Item>
      )}
      <Form.Item name="until" label="until">
        <Input type="date" aria-label="Last day of the grant" />
      </Form.Item>
      <Button type="primary" htmlType="submit" loading={sending}>
        Give grant
      </Button>
    </Form>
  )
}

/** Who of a kind may hold a grant. */
function useHolders(kind: string): string[] {
  const accounts = useAccounts()
  const groups = useGroups()
  const keys = useKeys()
  if (kind === 'group') return (groups.data?.items ?? []).map((group) => group.name)
  if (kind === 'key') return (keys.data ?? []).filter((key) => !key.revokedAt).map((key) => key.name)
  return (accounts.data?.items ?? []).map((account) => account.name)
}

function State({ of }: { of: Grant }) {
  if (of.expiresAt && Date.parse(of.expiresAt) <= Date.now()) {
    return <span className={shared.bad}>ended {ago(of.expiresAt)}</span>
  }
  return <span className={shared.good}>valid{of.expiresAt && ` until ${day(of.expiresAt)}`}</span>
}
