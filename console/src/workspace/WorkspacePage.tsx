import { Button, Input, Segmented, Select } from 'antd'
import { useMemo } from 'react'
import { Link } from 'react-router'
import { Answer } from '../shared/Answer'
import { PictureMenu } from '../shared/PictureMenu'
import { Since } from '../shared/Since'
import shared from '../shared/shared.module.css'
import { useUrlState } from '../shared/useUrlState'
import { BoxPanel } from './BoxPanel'
import { BoxRows } from './BoxRows'
import { type Box, useWorkspace, type Workspace } from './queries'
import { inTrouble, isFailed, matchesWords } from './state'
import { svgOf, WorkspacePicture } from './WorkspacePicture'
import { WorkspacesPage } from './WorkspacesPage'
import styles from './workspace.module.css'
import { layerTitle, threadOf } from './workspaceLayout'

/** One workspace from its outside sources to its dashboards; without a name, all of them. */
export function WorkspacePage() {
  const [read] = useUrlState()
  const ref = read('ref')
  return ref ? <OneWorkspace key={ref} refText={ref} /> : <WorkspacesPage />
}

function OneWorkspace({ refText }: { refText: string }) {
  return <Answer of={useWorkspace(refText)}>{(workspace) => <Whole workspace={workspace} />}</Answer>
}

function Whole({ workspace }: { workspace: Workspace }) {
  const [read, write] = useUrlState()
  const pick = read('pick')
  const words = read('words') ?? ''
  const layers = read('layers')?.split(',') ?? []
  const only = read('only')
  const shown = useMemo(
    () => narrowed(workspace, pick, words, layers, only),
    [workspace, pick, words, layers, only],
  )
  const picked = workspace.boxes.find((box) => box.ref === pick)
  const aside = workspace.boxes.length - shown.length
  const layerNames = [...new Set(workspace.boxes.map((box) => box.layer))]
  return (
    <div className={styles.whole}>
      <Head workspace={workspace} />
      <div className={styles.tools} role="toolbar" aria-label="What to show">
        <Segmented
          size="small"
          value={read('form') ?? 'picture'}
          onChange={(form) => write({ form: form === 'picture' ? undefined : form })}
          options={[
            { value: 'picture', label: 'Picture' },
            { value: 'list', label: `List (${shown.length})` },
          ]}
        />
        <Input
          size="small"
          allowClear
          aria-label="Search inside the workspace"
          placeholder="search inside"
          className={styles.search}
          value={words}
          onChange={(event) => write({ words: event.target.value })}
        />
        <Select
          size="small"
          mode="multiple"
          allowClear
          aria-label="Kinds"
          placeholder="all kinds"
          className={styles.layers}
          maxTagCount="responsive"
          value={layers}
          onChange={(next: string[]) => write({ layers: next.join(',') })}
          options={layerNames.map((layer) => ({ value: layer, label: layerTitle(layer) }))}
        />
        <Segmented
          size="small"
          value={only ?? 'all'}
          onChange={(next) => write({ only: next === 'all' ? undefined : String(next) })}
          options={[
            { value: 'all', label: 'All' },
            { value: 'trouble', label: 'In trouble' },
            { value: 'unmatched', label: 'Not matched' },
          ]}
        />
        <PictureMenu name={workspace.title} picture={() => svgOf(workspace, shown)} />
        {aside > 0 && (
          <>
            <span className={shared.quiet}>{aside} set aside</span>
            <Button
              size="small"
              onClick={() => write({ pick: undefined, words: undefined, layers: undefined, only: undefined })}
            >
              Show all
            </Button>
          </>
        )}
      </div>
      <div className={styles.body}>
        <section className={styles.scroll} aria-label="Contents">
          {read('form') === 'list' ? (
            <BoxRows boxes={shown} picked={pick} onPick={(ref) => write({ pick: ref })} />
          ) : (
            <WorkspacePicture
              workspace={workspace}
              boxes={shown}
              picked={pick}
              onPick={(ref) => write({ pick: ref === pick ? undefined : ref })}
            />
          )}
        </section>
        {picked && <BoxPanel box={picked} workspace={workspace} onClose={() => write({ pick: undefined })} />}
      </div>
    </div>
  )
}

/** What is left when one box, words or filters narrow the picture. */
function narrowed(
  workspace: Workspace,
  pick: string | undefined,
  words: string,
  layers: string[],
  only: string | undefined,
): Box[] {
  const thread = pick ? threadOf(workspace.lines, pick) : undefined
  return workspace.boxes.filter(
    (box) =>
      (!thread || thread.has(box.ref)) &&
      (words === '' || box.ref === pick || matchesWords(box, words)) &&
      (layers.length === 0 || layers.includes(box.layer)) &&
      (only !== 'trouble' || inTrouble(box)) &&
      (only !== 'unmatched' || !box.matched),
  )
}

function Head({ workspace }: { workspace: Workspace }) {
  const failed = workspace.boxes.filter((box) => isFailed(box) && !box.workspace)
  const resting = workspace.boxes.filter((box) => box.affectedBy.length > 0).length
  return (
    <header className={styles.head}>
      <div className={styles.headLine}>
        <Link to="/workspace" className={shared.quiet}>
          Workspaces
        </Link>
        <h1 className={styles.title}>{workspace.title}</h1>
        <span className={shared.quiet}>
          {workspace.system} · {workspace.owners.join(', ') || 'no owner'} · described{' '}
          <Since at={workspace.describedAt} />
        </span>
        {failed.length > 0 && (
          <span className={styles.failing} role="status">
            ■ {failed.map((box) => box.name).join(', ')} failed to refresh; {resting} rest on it
          </span>
        )}
      </div>
      {workspace.description && <div className={shared.quiet}>{workspace.description}</div>}
    </header>
  )
}
