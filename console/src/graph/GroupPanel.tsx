import { Button, Checkbox, Input, Segmented } from 'antd'
import { useState } from 'react'
import { Link } from 'react-router'
import { assetPath } from '../shared/format'
import { KindIcon } from '../shared/kinds'
import styles from './graph.module.css'
import { type Group, pairsOf } from './groups'
import { matches, type Picture } from './picture'
import { type GraphState, listOf } from './useGraphState'

const MAX_SHOWN = 300

type Props = { group: Group; whole: Picture; state: GraphState; isOpen: boolean }

/** A group in detail: its members, to be searched and kept in view, and its pairs. */
export function GroupPanel({ group, whole, state, isOpen }: Props) {
  const [words, setWords] = useState('')
  const [form, setForm] = useState('members')
  const kept = listOf(state.kept)
  const opened = listOf(state.groups)
  const members = group.members.filter((box) => words === '' || matches(box, words))
  const keep = (id: string, isKept: boolean) =>
    state.write({
      keep: JSON.stringify(isKept ? [...kept, id] : kept.filter((one) => one !== id)),
    })
  return (
    <div className={styles.sideText}>
      <h2 className={styles.title}>{group.members.length} in this group</h2>
      <div className={styles.actions}>
        <Button
          size="small"
          onClick={() =>
            state.write({
              groups: JSON.stringify(isOpen ? opened.filter((id) => id !== group.id) : [...opened, group.id]),
            })
          }
        >
          {isOpen ? 'Close the group' : 'Open the group'}
        </Button>
      </div>
      <Segmented
        size="small"
        value={form}
        onChange={setForm}
        options={[
          { value: 'members', label: 'Members' },
          { value: 'pairs', label: 'Pairs' },
        ]}
      />
      <Input
        size="small"
        allowClear
        aria-label="Search inside the group"
        placeholder="search inside the group"
        className={styles.groupSearch}
        value={words}
        onChange={(event) => setWords(event.target.value)}
      />
      {form === 'members' ? (
        <ul className={styles.members}>
          {members.slice(0, MAX_SHOWN).map((box) => (
            <li key={box.id}>
              <Checkbox
                checked={kept.includes(box.id)}
                onChange={(event) => keep(box.id, event.target.checked)}
                title="Keep in view outside the group"
                aria-label={`keep ${box.name} in view`}
              />{' '}
              <KindIcon kind={box.kind} /> <Link to={assetPath(box.id)}>{box.name}</Link>
            </li>
          ))}
        </ul>
      ) : (
        <ul className={styles.members}>
          {pairsOf(whole, group)
            .filter((pair) => words === '' || matches(pair.from, words) || matches(pair.to, words))
            .slice(0, MAX_SHOWN)
            .map(({ from, to }) => (
              <li key={`${from.id} ${to.id}`}>
                <Link to={assetPath(from.id)}>{from.name}</Link> <span className={styles.how}>→</span>{' '}
                <Link to={assetPath(to.id)}>{to.name}</Link>
              </li>
            ))}
        </ul>
      )}
      {members.length > MAX_SHOWN && <p>{members.length - MAX_SHOWN} more; search for one.</p>}
    </div>
  )
}
