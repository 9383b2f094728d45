import { Button, Input, Segmented } from 'antd'
import { AssetPicker } from '../shared/AssetPicker'
import { HopsSelect } from '../shared/HopsSelect'
import styles from './graph.module.css'
import type { GroupedPicture } from './groups'
import type { Drawn } from './LineageCanvas'
import { TakeAway } from './TakeAway'
import type { GraphState, SearchInside } from './useGraphState'
import { ViewMenu } from './ViewMenu'

type Props = {
  focus: string
  state: GraphState
  inside: SearchInside
  picture: GroupedPicture
  drawn: Drawn | undefined
  /** Opens the form for a link that no program reports; absent where nobody may record. */
  onRecord?: () => void
}

/** What to show: of what, which way, how fine and how far. */
export function GraphToolbar({ focus, state, inside, picture, drawn, onRecord }: Props) {
  const { write } = state
  return (
    <div role="toolbar" aria-label="What to show" className={styles.toolbar}>
      <AssetPicker
        label="Focus"
        placeholder="an asset or a column"
        value={focus}
        width={290}
        onPick={state.recentre}
      />
      <Segmented
        size="small"
        value={state.direction}
        onChange={(next) => write({ direction: next })}
        options={['upstream', 'both', 'downstream']}
      />
      <Segmented
        size="small"
        value={state.detail}
        onChange={(next) => write({ detail: next, open: undefined, column: undefined })}
        options={['systems', 'assets', 'steps', 'columns']}
      />
      <HopsSelect value={state.hops} onChange={(next) => write({ hops: String(next) })} />
      <Input
        size="small"
        aria-label="Search inside the picture"
        placeholder="search inside"
        allowClear
        className={styles.search}
        value={inside.words}
        onChange={(event) => inside.search(event.target.value)}
        onPressEnter={inside.next}
        suffix={inside.words === '' ? undefined : <small>{inside.hits}</small>}
      />
      <Button
        size="small"
        type={state.time === undefined ? 'default' : 'primary'}
        onClick={() => write({ time: state.time === undefined ? 'now' : undefined })}
      >
        Time
      </Button>
      <ViewMenu state={state} />
      <TakeAway picture={picture} drawn={drawn} focus={focus} part={state} />
      {onRecord && (
        <Button
          size="small"
          title="Or draw it: from the right edge of a box to the left of another"
          onClick={onRecord}
        >
          Record a link
        </Button>
      )}
      {state.opened.length > 0 && (
        <Button size="small" onClick={() => write({ open: undefined })}>
          Close what was opened
        </Button>
      )}
      <span className={styles.space} />
      {state.side === 'none' && (
        <Button size="small" onClick={() => write({ side: undefined })}>
          Show details
        </Button>
      )}
      <small className={styles.counts}>
        {picture.boxes.length} places, {picture.wires.length} lines
      </small>
    </div>
  )
}
