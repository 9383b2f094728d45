import { Empty, Tabs } from 'antd'
import { useEffect } from 'react'
import type { Schemas } from '../api/client'
import { Behind } from '../behind/Behind'
import { useFollowed, useNoteStep } from '../follow/queries'
import { Names } from '../hand/Names'
import { Touching } from '../planned/Touching'
import { useLimited } from '../session/useSession'
import { Answer } from '../shared/Answer'
import { isJob, shortRef } from '../shared/format'
import { AssetLink } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { useAsset } from '../shared/useAsset'
import { useUrlState } from '../shared/useUrlState'
import { JobSteps } from '../sql/JobSteps'
import styles from './asset.module.css'
import { ByHand } from './ByHand'
import { CheckLines } from './CheckLines'
import { Columns } from './Columns'
import { Facets } from './Facets'
import { Heading } from './Heading'
import { History } from './History'
import { JobMap } from './JobMap'
import { Neighbours, Ties } from './Neighbours'
import { Parts } from './Parts'
import { PreviewTab } from './PreviewTab'
import { RunHistory } from './RunHistory'
import { Statistics } from './Statistics'
import { ReadsTable, UsedFields } from './UsedFields'
import { readsOf, usedFields, wordsFor } from './workspaceItem'

type Detail = Schemas['AssetDetail']

/** One asset: what it is first, the machinery behind it on demand. */
export function AssetPage() {
  const [read, write] = useUrlState()
  const ref = read('ref') ?? ''
  const asset = useAsset(ref)
  const limited = useLimited()
  useNoteLooked(asset.data?.ref)
  if (!ref) {
    return (
      <Empty className={shared.empty} description="No asset is named. Find one, or open one in the graph." />
    )
  }
  return (
    <Answer of={asset}>
      {(detail) => (
        <div className={shared.page}>
          <Heading asset={detail} />
          {!limited && <Touching refText={detail.ref} />}
          <div className={styles.body}>
            <Tabs
              className={styles.tabs}
              activeKey={read('tab') ?? (isJob(detail.ref) ? 'map' : 'columns')}
              onChange={(tab) => write({ tab })}
              items={tabsOf(detail, limited)}
            />
            <aside className={styles.aside} aria-label="Neighbours">
              <Neighbours
                title="Comes from"
                none="No known sources"
                containing="contained in it"
                list={detail.upstream}
              />
              <Neighbours
                title="Feeds"
                none="No known consumers"
                containing="contains it"
                list={detail.downstream}
              />
              <Ties ties={detail.ties} />
              {!limited && <FoundRight refText={detail.ref} />}
            </aside>
          </div>
        </div>
      )}
    </Answer>
  )
}

/** The threads at an asset that people followed and found right, and whether that still holds. */
function FoundRight({ refText }: { refText: string }) {
  const followed = useFollowed(refText)
  const items = followed.data?.items ?? []
  if (items.length === 0) return null
  return (
    <section aria-label="Threads found right">
      <h2 className={shared.subheading}>Threads found right ({items.length})</h2>
      {items.map((one) => (
        <div key={one.id} title={one.note}>
          <AssetLink refText={one.from} name={shortRef(one.from)} /> →{' '}
          <AssetLink refText={one.to} name={shortRef(one.to)} />{' '}
          <small className={one.state === 'holds' ? shared.good : shared.bad} title={one.lapsed}>
            {one.state}
          </small>{' '}
          <small className={shared.quiet}>{one.by}</small>
        </div>
      ))}
    </section>
  )
}

/** Adds an asset that is opened to one's trail. */
function useNoteLooked(ref: string | undefined) {
  const { mutate } = useNoteStep()
  useEffect(() => {
    if (ref) mutate(ref)
  }, [ref, mutate])
}

/** Of what is shown to people who see a part, the history and what others set is left out. */
function tabsOf(asset: Detail, limited: boolean) {
  const { ref, code, checks } = asset
  const job = isJob(ref)
  const words = wordsFor(asset.kind)
  const used = usedFields(asset)
  const reads = readsOf(asset)
  const tabs = [
    job && { key: 'map', label: 'Column map', children: <JobMap refText={ref} /> },
    job && { key: 'steps', label: 'Steps', children: <JobSteps refText={ref} /> },
    !job && {
      key: 'columns',
      label: `${words.columns} (${asset.columns.length})`,
      children: <Columns asset={asset} title={words.column} />,
    },
    used.length > 0 && { key: 'used', label: 'Uses', children: <UsedFields fields={used} /> },
    code && {
      key: 'code',
      label: code.language.toUpperCase(),
      children: <pre className="code">{code.text}</pre>,
    },
    !job && { key: 'preview', label: 'Preview', children: <PreviewTab refText={ref} /> },
    { key: 'runs', label: words.runs, children: <RunHistory runs={asset.runs} /> },
    !job && { key: 'behind', label: 'Runs behind it', children: <Behind refText={ref} /> },
    !job && { key: 'statistics', label: 'Row counts', children: <Statistics refText={ref} /> },
    reads.length > 0 && { key: 'reads', label: 'Readers', children: <ReadsTable reads={reads} /> },
    checks.length > 0 && {
      key: 'checks',
      label: `Checks (${checks.length})`,
      children: <CheckLines refText={ref} />,
    },
    asset.names.length > 1 && {
      key: 'names',
      label: `Names (${asset.names.length})`,
      children: <Names asset={asset} />,
    },
    !limited && { key: 'recorded', label: 'By hand', children: <ByHand asset={asset} /> },
    asset.folded && { key: 'parts', label: `Parts (${asset.partCount})`, children: <Parts refText={ref} /> },
    !limited && { key: 'history', label: 'History', children: <History refText={ref} /> },
    { key: 'facets', label: 'All facets', children: <Facets facets={asset.facets} /> },
  ]
  return tabs.filter((tab) => tab !== undefined && tab !== false)
}
