import { Segmented } from 'antd'
import type { Schemas } from '../api/client'
import { isSystem } from '../shared/format'
import { BoxDetails } from './BoxDetails'
import { BoxList } from './BoxList'
import { GroupPanel } from './GroupPanel'
import styles from './graph.module.css'
import type { Group } from './groups'
import type { Box, Picture } from './picture'
import type { GraphState } from './useGraphState'

type Props = {
  state: GraphState
  picked: string
  column: string | undefined
  boxes: Box[]
  deciding: Schemas['ViewLink'][]
  words: string
  whole: Picture
  groups: Map<string, Group>
}

/** What stands beside the picture: the picked place in detail, or all places as a list. */
export function GraphSide({ state, picked, column, boxes, deciding, words, whole, groups }: Props) {
  if (state.side === 'none') return null
  const group = groups.get(picked)
  return (
    <aside className={styles.side} aria-label="Beside the picture">
      <Segmented
        block
        size="small"
        className={styles.sideChoice}
        value={state.side}
        onChange={(next) => state.write({ side: next })}
        options={[
          { value: 'details', label: 'Details' },
          { value: 'list', label: `List (${boxes.length})` },
          { value: 'none', label: 'Hide' },
        ]}
      />
      {state.side === 'list' ? (
        <BoxList boxes={boxes} deciding={deciding} words={words} picked={picked} onPick={state.pick} />
      ) : group ? (
        <GroupPanel
          key={group.id}
          group={group}
          whole={whole}
          state={state}
          isOpen={!boxes.some((box) => box.id === group.id)}
        />
      ) : isSystem(picked) ? (
        <p className={styles.sideText}>
          {boxes.find((box) => box.id === picked)?.name}, a system. Its assets show at finer detail.
        </p>
      ) : (
        <BoxDetails refText={picked} column={column} onRecentre={state.recentre} />
      )}
    </aside>
  )
}
