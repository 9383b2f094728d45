import { Button } from 'antd'
import { Link } from 'react-router'
import { HealthMark } from '../health/HealthMark'
import { assetPath, isJob, moment, pagePath, workspacePath } from '../shared/format'
import { KindMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import type { Box, Workspace } from './queries'
import { isFailed, relaysOf, stateWords } from './state'
import styles from './workspace.module.css'

type Props = { box: Box; workspace: Workspace; onClose: () => void }

/** The picked box in detail, with the ways on from it. */
export function BoxPanel({ box, workspace, onClose }: Props) {
  const relays = relaysOf(box, workspace)
  const names = new Map(workspace.boxes.map((one) => [one.ref, one.name]))
  const state = stateWords(box)
  return (
    <aside className={styles.side} aria-label="The picked item">
      <KindMark kind={box.reuses ? `reused ${box.kind}` : box.kind} />
      <h2 className={styles.sideTitle}>{box.name}</h2>
      {box.description && <p>{box.description}</p>}
      <HealthMark health={box.health} />
      <div className={styles.facts}>
        <div>Owner: {box.owners.join(', ') || '–'}</div>
        <div>
          {box.workspace ? `Workspace: ${box.workspace}` : `System: ${box.system}`}
          {relays.length > 0 && `, through ${relays.join(', ')}`}
        </div>
        {state && <div className={isFailed(box) ? shared.bad : undefined}>{state}</div>}
        {isFailed(box) && box.refresh && (
          <div className={styles.error}>
            {moment(box.refresh.startedAt)}: {box.refresh.error ?? 'no reason was given'}
          </div>
        )}
        {box.refresh?.completedAt && (
          <div className={shared.quiet}>Data as of {moment(box.refresh.completedAt)}</div>
        )}
        {box.affectedBy.length > 0 && (
          <div>Rests on: {box.affectedBy.map((ref) => names.get(ref) ?? ref).join(', ')}</div>
        )}
        {!box.matched && (
          <div className={shared.wait}>
            No other system describes it. It is matched by itself when its table appears under this reference.
          </div>
        )}
      </div>
      <div className={styles.buttons}>
        {box.workspaceRef && (
          <Link to={`${workspacePath(box.workspaceRef)}&pick=${encodeURIComponent(box.ref)}`}>
            <Button size="small" type="primary">
              Open {box.workspace}
            </Button>
          </Link>
        )}
        <Link to={assetPath(box.ref)}>
          <Button size="small">Page</Button>
        </Link>
        {!isJob(box.ref) && (
          <Link to={pagePath('reader', box.ref)}>
            <Button size="small">In plain words</Button>
          </Link>
        )}
        <Link to={pagePath('graph', box.ref)}>
          <Button size="small">Graph</Button>
        </Link>
        <Link to={pagePath('impact', box.ref)}>
          <Button size="small">Impact</Button>
        </Link>
        <Button size="small" type="text" onClick={onClose}>
          Close
        </Button>
      </div>
      {box.url && (
        <p>
          <a href={box.url}>In its tool</a>
        </p>
      )}
      <code className={styles.sideReference}>{box.ref}</code>
    </aside>
  )
}
