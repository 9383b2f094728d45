import { Alert, Button, Empty, Skeleton } from 'antd'
import { useMemo, useState } from 'react'
import { useMaySet } from '../hand/queries'
import { RecordDialog } from '../hand/RecordDialog'
import { ProblemNotice } from '../shared/Answer'
import { AssetPicker } from '../shared/AssetPicker'
import { assetOf, count } from '../shared/format'
import { useAsset } from '../shared/useAsset'
import { useUrlState } from '../shared/useUrlState'
import { withChanges } from './changes'
import { GraphSide } from './GraphSide'
import { GraphToolbar } from './GraphToolbar'
import styles from './graph.module.css'
import { groupedBy, withoutKinds, withoutRelations } from './groups'
import { type Drawn, LineageCanvas } from './LineageCanvas'
import { pictureOf } from './picture'
import { type Moment, TimeSlider } from './TimeSlider'
import { listOf, useGraphState, useSearchInside } from './useGraphState'
import { MANY_PLACES, useLineage, useMoments } from './useLineage'
import { defaultsFor, useViews } from './views'

/** The neighbourhood of an asset or column, drawn and as a list. */
export function GraphPage() {
  const [read] = useUrlState()
  const ref = read('ref')
  return ref ? <Lineage key={ref} refText={ref} /> : <Start />
}

function Start() {
  const [, write] = useUrlState()
  return (
    <div className={styles.start}>
      <Empty description="Name an asset, or a column as asset#column, to see what feeds it and what it feeds." />
      <AssetPicker
        label="Focus"
        placeholder="an asset or a column"
        value={undefined}
        onPick={(ref) => write({ ref })}
      />
    </div>
  )
}

function Lineage({ refText }: { refText: string }) {
  const kind = useAsset(assetOf(refText)).data?.kind
  const saved = useViews().data
  const defaults = useMemo(() => defaultsFor(saved?.items ?? [], kind), [saved, kind])
  const state = useGraphState(refText, defaults)
  const moments = useMoments(refText, state.direction, state.hops, state.time !== undefined).data?.items
  const { at, asOf, before } = placeOf(state.time, moments)
  const { views, picture: whole } = usePicture(refText, state, asOf, before)
  const { hidden, grouping, groups, kept, facts } = state
  const picture = useMemo(() => {
    const names = new Set(hidden.split(','))
    const focusId = assetOf(refText)
    const shown = withoutKinds(withoutRelations(whole, names, focusId), names, focusId)
    return groupedBy(shown, grouping, new Set(listOf(groups)), new Set(listOf(kept)), focusId)
  }, [whole, hidden, grouping, groups, kept, refText])
  const factList = useMemo(() => facts.split(',').filter(Boolean), [facts])
  const [drawn, setDrawn] = useState<Drawn>()
  const maySet = useMaySet()
  const [line, setLine] = useState<{ from?: string; to?: string }>()
  const inside = useSearchInside(picture.boxes)
  const first = views[0].data
  const focus = first?.focus.ref ?? refText
  const column = state.column ?? (focus.includes('#') ? focus : undefined)
  const picked = state.picked ?? assetOf(focus)
  const failed = views.find((view) => view.isError)
  if (failed?.error && !first) return <ProblemNotice error={failed.error} />
  return (
    <div className={styles.whole}>
      <GraphToolbar
        focus={focus}
        state={state}
        inside={inside}
        picture={picture}
        drawn={drawn}
        onRecord={maySet ? () => setLine({ to: assetOf(focus) }) : undefined}
      />
      {state.time !== undefined && (
        <TimeSlider
          moments={moments}
          at={at}
          refText={refText}
          onAt={(moment) => state.write({ time: moment?.at ?? 'now' })}
          onClose={() => state.write({ time: undefined })}
        />
      )}
      {line && <RecordDialog {...line} onClose={() => setLine(undefined)} />}
      {views.some((view) => view.data?.truncated) && (
        <Alert
          type="info"
          banner
          title="Only the nearest are shown. Choose fewer hops, one direction or a coarser detail to see the rest."
          action={
            state.most < MANY_PLACES && (
              <Button size="small" onClick={() => state.write({ most: String(MANY_PLACES) })}>
                Show up to {count(MANY_PLACES)}
              </Button>
            )
          }
        />
      )}
      <div className={styles.body}>
        <section className={styles.picture} aria-label="Picture">
          {first ? (
            <LineageCanvas
              picture={picture}
              focus={assetOf(focus)}
              picked={picked}
              column={column}
              words={inside.words}
              found={inside.found}
              facts={factList}
              onDrawn={setDrawn}
              onPick={state.pick}
              onColumn={state.light}
              onOpen={state.open}
              onRecentre={state.recentre}
              onConnect={maySet ? (from, to) => setLine({ from, to }) : undefined}
            />
          ) : (
            <Skeleton active className={styles.loading} />
          )}
        </section>
        <GraphSide
          state={state}
          picked={picked}
          column={column}
          boxes={picture.boxes}
          deciding={first?.deciding ?? []}
          words={inside.words}
          whole={whole}
          groups={picture.groups}
        />
      </div>
    </div>
  )
}

/** Where a moment stands among those at which something changed, and the one before it. */
function placeOf(time: string | undefined, moments: Moment[] | undefined) {
  const found = time === undefined ? -1 : (moments?.findIndex((one) => one.at === time) ?? -1)
  const at = found < 0 ? (moments?.length ?? 0) : found
  return { at, asOf: found < 0 ? undefined : time, before: found > 0 ? moments?.[found - 1].at : undefined }
}

function usePicture(ref: string, state: ReturnType<typeof useGraphState>, asOf?: string, before?: string) {
  const { direction, hops, detail, opened, most } = state
  const views = useLineage({ ref, direction, hops, detail, opened, most, asOf })
  const earlier = useLineage({
    ref,
    direction,
    hops,
    detail,
    opened,
    most,
    asOf: before ?? 'never', // a key of its own while it is not asked for
    enabled: before !== undefined,
  })
  const stamp = [...views, ...earlier].map((view) => view.dataUpdatedAt).join()
  // biome-ignore lint/correctness/useExhaustiveDependencies: the stamp stands for the answers
  const picture = useMemo(() => {
    const now = pictureOf(views.flatMap((view) => (view.data ? [view.data] : [])))
    if (before === undefined || earlier.some((view) => !view.data)) return now
    return withChanges(now, pictureOf(earlier.flatMap((view) => (view.data ? [view.data] : []))))
  }, [stamp, before])
  return { views, picture }
}
