import { Form, Input, Select } from 'antd'
import { AssetPicker } from '../shared/AssetPicker'
import { FormDialog } from '../shared/FormDialog'
import { assetOf, shortRef } from '../shared/format'
import shared from '../shared/shared.module.css'
import { useAsset } from '../shared/useAsset'
import { useStating } from './queries'

const FLOWS = [
  { value: 'identity', label: 'copied' },
  { value: 'transformation', label: 'computed' },
  { value: 'aggregation', label: 'aggregated' },
  { value: 'filter', label: 'filters the rows' },
  { value: 'join', label: 'joins the rows' },
]

type Given = { from: string; to: string; flow: string; job?: string; until?: string; reason?: string }

/** Records one link by hand: between two assets, or between two of their columns. */
export function RecordDialog({ from, to, onClose }: { from?: string; to?: string; onClose: () => void }) {
  const stating = useStating()
  const sending = {
    isPending: stating.isPending,
    error: stating.error,
    mutate: (
      { from: source, to: target, flow, job, until, reason }: Given,
      options: { onSuccess: () => void },
    ) => {
      const value: Record<string, unknown> = { until, job: job?.trim() || undefined }
      if (source.includes('#')) value.columns = [{ from: source, to: target, flow }]
      else Object.assign(value, { reads: [source], writes: [target] })
      stating.mutate({ changes: [{ set: 'recorded', value }], reason }, options)
    },
  }
  return (
    <FormDialog<Given>
      title="Record a link by hand"
      action="Record"
      sending={sending}
      initial={{ from, to, flow: 'identity' }}
      onClose={onClose}
    >
      <Form.Item name="from" label="Comes from" rules={[{ required: true, message: 'Name what is read' }]}>
        <PickedAsset label="Comes from" />
      </Form.Item>
      <Form.Item
        name="to"
        label="Goes to"
        extra="An asset, or asset#column on both ends; what is new is given in full, as namespace/name"
        rules={[{ required: true, message: 'Name what is written' }]}
      >
        <PickedAsset label="Goes to" />
      </Form.Item>
      <Form.Item shouldUpdate noStyle>
        {({ getFieldValue }) =>
          String(getFieldValue('from') ?? '').includes('#') && (
            <Form.Item name="flow" label="How">
              <Select options={FLOWS} />
            </Form.Item>
          )
        }
      </Form.Item>
      <Form.Item name="job" label="Job that does it, if one is known">
        <Input placeholder="@office/export" />
      </Form.Item>
      <Form.Item name="until" label="Holds until">
        <Input type="date" />
      </Form.Item>
      <Form.Item name="reason" label="Reason" rules={[{ required: true, message: 'Say how you know' }]}>
        <Input placeholder="copied by the office every Monday" />
      </Form.Item>
    </FormDialog>
  )
}

/** The picker as a field of a form. */
function PickedAsset({
  value,
  label,
  onChange,
}: {
  value?: string
  label: string
  onChange?: (ref: string) => void
}) {
  const known = useAsset(value ? assetOf(value) : undefined)
  return (
    <>
      <AssetPicker
        label={label}
        width={470}
        takesTyped
        placeholder={value ? shortRef(value) : 'an asset or a column'}
        value={value}
        onPick={(ref) => onChange?.(ref)}
      />
      {known.error && (
        <div className={shared.quiet}>
          {known.error.message}. If it is new, check its spelling: namespace/name.
        </div>
      )}
    </>
  )
}
