import { DatePicker, Form, Input } from 'antd'
import type { Dayjs } from 'dayjs'
import { useNavigate } from 'react-router'
import { FormDialog } from '../shared/FormDialog'
import { planPath } from './PlannedPage'
import { type Proposal, usePropose } from './queries'

type Given = { title: string; reason?: string; planned?: Dayjs }

/** Keeps a change that was judged, so that its owners can answer. */
export function PlanDialog({ step, onClose }: { step: Proposal['steps'][number]; onClose: () => void }) {
  const propose = usePropose()
  const navigate = useNavigate()
  return (
    <FormDialog<Given>
      title="Plan this change"
      action="Propose"
      sending={{
        mutate: ({ title, reason, planned }, { onSuccess }) =>
          propose.mutate(
            { title, reason: reason || undefined, planned: planned?.toISOString(), steps: [step] },
            {
              onSuccess: (plan) => {
                onSuccess()
                navigate(planPath(plan.id))
              },
            },
          ),
        isPending: propose.isPending,
        error: propose.error,
      }}
      onClose={onClose}
    >
      <Form.Item name="title" label="What it is, in a few words" rules={[{ required: true }]}>
        <Input maxLength={200} />
      </Form.Item>
      <Form.Item name="reason" label="Why">
        <Input.TextArea rows={3} maxLength={4000} />
      </Form.Item>
      <Form.Item name="planned" label="When it is to be made">
        <DatePicker showTime={{ format: 'HH:mm' }} format="YYYY-MM-DD HH:mm" />
      </Form.Item>
    </FormDialog>
  )
}
