import { Empty, Segmented } from 'antd'
import type { Schemas } from '../api/client'
import { count, spoken } from '../shared/format'
import shared from '../shared/shared.module.css'
import styles from './impact.module.css'
import { GROUPS, type GroupBy } from './useImpact'

const NONE: Record<GroupBy, string> = {
  owner: 'nobody owns these',
  system: 'no system',
  workspace: 'in no workspace',
  kind: 'no kind',
  label: 'without a label',
}
const WORDS: Record<string, string> = {
  breaks: 'break',
  'goes-stale': 'go stale',
  'values-shift': 'values',
  'rows-shift': 'rows',
}

type Props = {
  by: GroupBy
  groups: Schemas['Group'][]
  chosen: string | undefined
  onBy: (by: GroupBy) => void
  onChoose: (name: string | undefined) => void
}

/** What is touched, by whom to tell or where it is; choosing a group lists only what is in it. */
export function Groups({ by, groups, chosen, onBy, onChoose }: Props) {
  return (
    <aside className={`${shared.panel} ${styles.groups}`} aria-label="Groups">
      <Segmented
        size="small"
        value={by}
        onChange={onBy}
        options={GROUPS.map((value) => ({ value, label: spoken(value) }))}
      />
      <div className={styles.groupList}>
        {groups.length === 0 && (
          <Empty image={Empty.PRESENTED_IMAGE_SIMPLE} description="Nothing is touched." />
        )}
        {groups.map((group) => (
          <button
            key={group.name ?? ''}
            type="button"
            disabled={group.name === undefined}
            aria-pressed={group.name !== undefined && chosen === group.name}
            className={`${styles.group} ${group.name !== undefined && chosen === group.name ? styles.groupChosen : ''}`}
            onClick={() => onChoose(chosen === group.name ? undefined : group.name)}
          >
            <span className={styles.groupName} title={group.name}>
              {group.name ?? NONE[by]}
            </span>
            <span className={styles.groupCount}>{count(group.items)}</span>
            <small className={shared.quiet}>{inWords(group)}</small>
          </button>
        ))}
      </div>
    </aside>
  )
}

function inWords(group: Schemas['Group']): string {
  const parts = Object.entries(group.verdicts)
    .filter(([, items]) => items > 0)
    .map(([verdict, items]) => `${count(items)} ${WORDS[verdict] ?? verdict}`)
  return [...parts, ...group.addresses.slice(0, 1)].join(' · ')
}
