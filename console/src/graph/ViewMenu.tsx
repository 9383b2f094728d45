import { Alert, Button, Checkbox, Input, Popover, Select } from 'antd'
import { useState } from 'react'
import { FACTS } from './facts'
import styles from './graph.module.css'
import { type Grouping, RELATIONS } from './groups'
import type { GraphState } from './useGraphState'
import { nameOf, type Settings, SHIPPED, useDeleteView, useSaveView, useViews } from './views'

const KINDS = [
  'table',
  'view',
  'file',
  'topic',
  'dataset',
  'model',
  'chart',
  'report',
  'dashboard',
  'job',
  'pipeline',
]
const GROUPINGS: { value: Grouping; label: string }[] = [
  { value: 'alike', label: 'like ones together' },
  { value: 'place', label: 'by schema, workspace or pipeline' },
  { value: 'system', label: 'by system' },
  { value: 'none', label: 'each for itself' },
]

const options = (words: readonly string[]) => words.map((word) => ({ value: word, label: word }))
const listed = (text: string) => text.split(',').filter((word) => word !== '' && word !== '-')

/** How the picture is shown: a named view, or grouping, hidden kinds and facts chosen one by one. */
export function ViewMenu({ state }: { state: GraphState }) {
  const views = useViews()
  const all = [...SHIPPED, ...(views.data?.items ?? [])]
  const now = nameOf(all, state.settings)
  return (
    <Popover trigger="click" placement="bottomRight" content={<Choices state={state} />}>
      <Button size="small">{now ? `View: ${now}` : 'View'}</Button>
    </Popover>
  )
}

function Choices({ state }: { state: GraphState }) {
  const views = useViews()
  const saved = views.data?.items ?? []
  const all = [...SHIPPED, ...saved]
  const apply = (settings: Settings) =>
    state.write({ ...settings, open: undefined, groups: undefined, keep: undefined, column: undefined })
  return (
    <div className={styles.viewForm}>
      <span>View</span>
      <Select
        size="small"
        aria-label="Named view"
        placeholder="a named view"
        value={nameOf(all, state.settings)}
        options={[
          { label: 'Shipped', options: options(SHIPPED.map((view) => view.name)) },
          {
            label: 'Saved',
            options: saved.map((view) => ({
              value: view.name,
              label: view.mine ? view.name : `${view.name} (${view.owner})`,
            })),
          },
        ]}
        onChange={(name) => apply(all.find((view) => view.name === name)?.settings ?? {})}
      />
      <span>Group</span>
      <Select
        size="small"
        aria-label="Group"
        value={state.grouping}
        options={GROUPINGS}
        onChange={(group) => state.write({ group, groups: undefined, keep: undefined })}
      />
      <span>Hide</span>
      <Select
        size="small"
        mode="multiple"
        aria-label="Hide kinds and relations"
        placeholder="nothing"
        value={listed(state.hidden)}
        options={options([...KINDS, 'only mentioned', ...Object.keys(RELATIONS)])}
        onChange={(kinds: string[]) => state.write({ hide: kinds.join(',') || '-' })}
      />
      <span>On the boxes</span>
      <Select
        size="small"
        mode="multiple"
        aria-label="Facts on the boxes"
        placeholder="name and state"
        value={listed(state.facts)}
        options={options(FACTS)}
        onChange={(facts: string[]) => state.write({ facts: facts.join(',') || '-' })}
      />
      <SaveView settings={state.settings} mine={saved.filter((view) => view.mine).map((view) => view.name)} />
    </div>
  )
}

/** Keeps the choice as it is under a name, for oneself or for all, and for kinds that open with it. */
function SaveView({ settings, mine }: { settings: Settings; mine: string[] }) {
  const [name, setName] = useState('')
  const [shared, setShared] = useState(false)
  const [kinds, setKinds] = useState<string[]>([])
  const save = useSaveView()
  const remove = useDeleteView()
  const error = save.error ?? remove.error
  return (
    <>
      <span>Save as</span>
      <Input
        size="small"
        aria-label="Name of the view"
        placeholder="a name"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <span>Opens</span>
      <Select
        size="small"
        mode="multiple"
        aria-label="Default for kinds"
        placeholder="no kind by itself"
        value={kinds}
        options={options(KINDS)}
        onChange={setKinds}
      />
      <div className={`${styles.viewWhole} ${styles.actions}`}>
        <Checkbox checked={shared} onChange={(event) => setShared(event.target.checked)}>
          for all
        </Checkbox>
        <Button
          size="small"
          type="primary"
          disabled={name.trim() === ''}
          loading={save.isPending}
          onClick={() => save.mutate({ name, shared, settings, defaultFor: kinds })}
        >
          Save view
        </Button>
        {mine.includes(name.trim()) && (
          <Button size="small" danger onClick={() => remove.mutate(name.trim())}>
            Delete
          </Button>
        )}
      </div>
      {error && <Alert className={styles.viewWhole} type="error" title={error.message} />}
    </>
  )
}
