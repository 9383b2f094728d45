import { Form, Input, Select } from 'antd'
import type { Schemas } from '../api/client'
import { FormDialog } from '../shared/FormDialog'
import { isJob, spelled } from '../shared/format'
import { type Change, useStating, useTerms } from './queries'

type Detail = Schemas['AssetDetail']
type Column = Schemas['ColumnDetail']

type Values = {
  description?: string
  owners?: string[]
  tags?: string[]
  terms?: string[]
  links?: string
  reason?: string
}

const SEPARATORS = [';', '\n']

/** Sets description, owners, tags, terms and links of an asset, or the words of one of its columns. */
export function EditDialog({
  asset,
  column,
  onClose,
}: {
  asset: Detail
  column?: Column
  onClose: () => void
}) {
  const stating = useStating()
  const terms = useTerms()
  const of = column?.ref ?? asset.ref
  const before = valuesOf(asset, column)
  const sending = {
    isPending: stating.isPending,
    error: stating.error,
    mutate: (given: Values, options: { onSuccess: () => void }) => {
      const changes = changesOf(of, before, given)
      if (changes.length === 0) options.onSuccess()
      else stating.mutate({ changes, reason: given.reason }, options)
    },
  }
  return (
    <FormDialog<Values>
      title={column ? `Column ${spelled(column.name)}` : `Edit ${asset.title ?? asset.name}`}
      action="Save"
      sending={sending}
      initial={before}
      onClose={onClose}
    >
      <Form.Item name="description" label="Description">
        <Input.TextArea autoSize={{ minRows: 2, maxRows: 8 }} />
      </Form.Item>
      {!column && (
        <Form.Item name="owners" label="Owners" extra="As team:Name, or Name <address>">
          <Select mode="tags" open={false} suffixIcon={null} tokenSeparators={SEPARATORS} />
        </Form.Item>
      )}
      <Form.Item name="tags" label="Tags" extra="Those from a source stay; others are added">
        <Select mode="tags" open={false} suffixIcon={null} tokenSeparators={SEPARATORS} />
      </Form.Item>
      <Form.Item name="terms" label="Glossary terms">
        <Select
          mode="multiple"
          optionFilterProp="label"
          options={(terms.data?.items ?? []).map((term) => ({
            value: term.id,
            label: term.path.join(' / '),
          }))}
        />
      </Form.Item>
      {!column && !isJob(asset.ref) && (
        <Form.Item name="links" label="Links" extra="One a line: title and address">
          <Input.TextArea
            autoSize={{ minRows: 1, maxRows: 4 }}
            placeholder="Handbook https://wiki.example/milk"
          />
        </Form.Item>
      )}
      <Form.Item name="reason" label="Reason">
        <Input placeholder="kept with the change" />
      </Form.Item>
    </FormDialog>
  )
}

function valuesOf(asset: Detail, column: Column | undefined): Values {
  if (column) {
    return {
      description: column.description,
      tags: column.labels,
      terms: column.terms.map((term) => term.id),
    }
  }
  const labelsOfColumns = new Set(asset.columns.flatMap((one) => one.labels))
  return {
    description: asset.description,
    owners: asset.owners.map((owner) => (owner.what === 'team' ? `team:${owner.name}` : owner.name)),
    tags: asset.labels.filter((label) => !labelsOfColumns.has(label)),
    terms: asset.terms.map((term) => term.id),
    links: asset.links.map((link) => `${link.title} ${link.url}`).join('\n'),
  }
}

/** Only what was changed is set, so that what comes from elsewhere is not copied by the way. */
export function changesOf(of: string, before: Values, given: Values): Change[] {
  const changes: Change[] = []
  const words = given.description?.trim() ?? ''
  if (words !== (before.description ?? '')) {
    changes.push({ set: 'description', of, value: words === '' ? null : words })
  }
  for (const list of ['owners', 'tags', 'terms'] as const) {
    const now = given[list] ?? []
    const then = before[list] ?? []
    if (given[list] !== undefined && now.join('\n') !== then.join('\n')) {
      changes.push({ set: list, of, value: now.length === 0 ? null : now })
    }
  }
  if (given.links !== undefined && given.links !== (before.links ?? '')) {
    const links = given.links
      .split('\n')
      .filter((line) => line.trim() !== '')
      .map((line) => {
        const cut = line.trim().lastIndexOf(' ')
        return { title: line.trim().slice(0, cut).trim() || 'Link', url: line.trim().slice(cut + 1) }
      })
    changes.push({ set: 'links', of, value: links.length === 0 ? null : links })
  }
  return changes
}
