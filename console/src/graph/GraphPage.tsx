import { Alert, Button, Empty, Input, Segmented, Select, Skeleton } from 'antd'
import { useCallback, useMemo, useState } from 'react'
import { ProblemNotice } from '../shared/Answer'
import { AssetPicker } from '../shared/AssetPicker'
import { assetOf } from '../shared/format'
import { useInks } from '../shared/useInks'
import { useUrlState } from '../shared/useUrlState'
import { BoxDetails } from './BoxDetails'
import { BoxList } from './BoxList'
import { LineageCanvas } from './LineageCanvas'
import { matches, pictureOf } from './picture'
import { openedOf, openedText, useLineage } from './useLineage'

const ALL_THE_WAY = 100
const HOPS = [1, 2, 3, 5, ALL_THE_WAY]

/** The neighbourhood of an asset or column, drawn and as a list. */
export function GraphPage() {
  const [read] = useUrlState()
  const ref = read('ref')
  return ref ? <Lineage key={ref} refText={ref} /> : <Start />
}

function Start() {
  const [, write] = useUrlState()
  return (
    <div style={{ padding: 60, textAlign: 'center' }}>
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
  const ink = useInks()
  const [read, write] = useUrlState()
  const isColumn = refText.includes('#')
  const direction = read('direction') ?? 'both'
  const hops = Number(read('hops') ?? (isColumn ? ALL_THE_WAY : 2))
  const detail = read('detail') ?? (isColumn ? 'columns' : 'assets')
  const opened = useMemo(() => openedOf(read('open')), [read])
  const views = useLineage({ ref: refText, direction, hops, detail, opened })
  const [words, setWords] = useState('')
  const [foundAt, setFoundAt] = useState(-1)
  const answers = views.flatMap((view) => (view.data ? [view.data] : []))
  const stamp = views.map((view) => view.dataUpdatedAt).join()
  // biome-ignore lint/correctness/useExhaustiveDependencies: the stamp stands for the answers
  const picture = useMemo(() => pictureOf(answers), [stamp])
  const focus = answers[0]?.focus.ref ?? refText
  const column = read('column') ?? (focus.includes('#') ? focus : undefined)
  const picked = read('pick') ?? assetOf(focus)
  const hits = words === '' ? [] : picture.boxes.filter((box) => matches(box, words))
  const found = foundAt < 0 || hits.length === 0 ? undefined : hits[foundAt % hits.length].id

  const recentre = useCallback(
    (ref: string) => write({ ref, open: undefined, pick: undefined, column: undefined }),
    [write],
  )
  const open = useCallback(
    (ref: string, way: 'upstream' | 'downstream') =>
      write({ open: openedText([...openedOf(read('open')), { ref, direction: way }]) }),
    [read, write],
  )
  const pick = useCallback((id: string) => write({ pick: id }), [write])
  const light = useCallback(
    (ref: string | undefined) => write({ column: ref, pick: ref ? assetOf(ref) : undefined }),
    [write],
  )
  const failed = views.find((view) => view.isError)
  if (failed?.error && answers.length === 0) return <ProblemNotice error={failed.error} />
  const side = read('side') ?? 'details'
  return (
    <div style={{ height: '100%', display: 'flex', flexDirection: 'column' }}>
      <div
        role="toolbar"
        aria-label="What to show"
        style={{ display: 'flex', gap: 8, padding: '6px 12px', alignItems: 'center', flexWrap: 'wrap' }}
      >
        <AssetPicker
          label="Focus"
          placeholder="an asset or a column"
          value={focus}
          width={300}
          onPick={recentre}
        />
        <Segmented
          size="small"
          value={direction}
          onChange={(next) => write({ direction: String(next) })}
          options={['upstream', 'both', 'downstream']}
        />
        <Segmented
          size="small"
          value={detail}
          onChange={(next) => write({ detail: String(next), open: undefined, column: undefined })}
          options={['systems', 'assets', 'steps', 'columns']}
        />
        <Select
          size="small"
          aria-label="How far"
          value={hops}
          style={{ width: 110 }}
          onChange={(next) => write({ hops: String(next) })}
          options={HOPS.map((n) => ({
            value: n,
            label: n === ALL_THE_WAY ? 'all the way' : n === 1 ? '1 hop' : `${n} hops`,
          }))}
        />
        <Input
          size="small"
          aria-label="Search inside the picture"
          placeholder="search inside"
          allowClear
          style={{ width: 170 }}
          value={words}
          onChange={(event) => {
            setWords(event.target.value)
            setFoundAt(-1)
          }}
          onPressEnter={() => setFoundAt((at) => at + 1)}
          suffix={words === '' ? undefined : <small>{hits.length}</small>}
        />
        {opened.length > 0 && (
          <Button size="small" onClick={() => write({ open: undefined })}>
            Close what was opened
          </Button>
        )}
        <span style={{ flex: 1 }} />
        {side === 'none' && (
          <Button size="small" onClick={() => write({ side: undefined })}>
            Show details
          </Button>
        )}
        <small style={{ color: ink.quiet }}>
          {picture.boxes.length} places, {picture.wires.length} lines
        </small>
      </div>
      {answers.some((answer) => answer.truncated) && (
        <Alert
          type="info"
          banner
          title="Only the nearest are shown. Fewer hops, one direction, or a filter on the list show the rest."
        />
      )}
      <div style={{ flex: 1, minHeight: 0, display: 'flex', borderTop: `1px solid ${ink.line}` }}>
        <section style={{ flex: 1, minWidth: 0, position: 'relative' }} aria-label="Picture">
          {answers.length === 0 ? (
            <Skeleton active style={{ padding: 30 }} />
          ) : (
            <LineageCanvas
              picture={picture}
              focus={assetOf(focus)}
              picked={picked}
              column={column}
              words={words}
              found={found}
              onPick={pick}
              onColumn={light}
              onOpen={open}
              onRecentre={recentre}
            />
          )}
        </section>
        <aside
          style={{
            width: 310,
            flex: 'none',
            borderLeft: `1px solid ${ink.line}`,
            background: ink.panel,
            display: side === 'none' ? 'none' : 'flex',
            flexDirection: 'column',
            overflow: 'auto',
          }}
          aria-label="Beside the picture"
        >
          <Segmented
            block
            size="small"
            style={{ margin: 8 }}
            value={side}
            onChange={(next) => write({ side: String(next) })}
            options={[
              { value: 'details', label: 'Details' },
              { value: 'list', label: `List (${picture.boxes.length})` },
              { value: 'none', label: 'Hide' },
            ]}
          />
          {side === 'list' ? (
            <BoxList
              boxes={picture.boxes}
              deciding={answers[0]?.deciding ?? []}
              words={words}
              picked={picked}
              onPick={pick}
            />
          ) : picked.startsWith('system:') ? (
            <p style={{ padding: 12 }}>
              {picked.slice('system:'.length)}, a system. Its assets show at finer detail.
            </p>
          ) : (
            <BoxDetails refText={picked} column={column} onRecentre={recentre} />
          )}
        </aside>
      </div>
    </div>
  )
}
