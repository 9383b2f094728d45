import { Button, Dropdown } from 'antd'
import { type ReactNode, useState } from 'react'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { NoticeDialog, ShareDialog, WatchDialog } from '../follow/dialogs'
import { useAddStep } from '../follow/queries'
import { EditDialog } from '../hand/EditDialog'
import { useMaySet } from '../hand/queries'
import { HealthMark, HealthReasons } from '../health/HealthMark'
import { useLimited } from '../session/useSession'
import { count, isJob, moment, pagePath, shortRef, workspacePath } from '../shared/format'
import { AssetLink, KindMark, Labels, Owners, StateMark, Terms } from '../shared/marks'
import { Since } from '../shared/Since'
import shared from '../shared/shared.module.css'
import { useUrlState } from '../shared/useUrlState'
import styles from './asset.module.css'
import { wordsFor, workspaceOf } from './workspaceItem'

type Detail = Schemas['AssetDetail']

/** What an asset is, whose, how fresh and how well known: the part that is read first. */
export function Heading({ asset }: { asset: Detail }) {
  const workspace = isJob(asset.ref) ? undefined : workspaceOf(asset)
  return (
    <header className={styles.heading}>
      <div className={styles.headLine}>
        <KindMark kind={asset.kind} />
        <h1 className={styles.title}>{asset.title ?? asset.name}</h1>
        <span className={shared.quiet}>
          {workspace ? (
            <>
              {asset.system} ›{' '}
              <Link to={`${workspacePath(workspace.ref)}&pick=${encodeURIComponent(asset.ref)}`}>
                {workspace.title}
              </Link>
            </>
          ) : (
            [asset.system, ...asset.container].join(' › ')
          )}
        </span>
        {!asset.described && <em className={shared.quiet}>only mentioned: no event described it</em>}
        {asset.retired && <em className={shared.bad}>retired</em>}
        <span className={shared.space} />
        <PageButtons asset={asset} />
      </div>
      <HealthReasons health={asset.health} name={asset.title ?? asset.name} />
      {asset.gap && <p className={styles.gap}>{asset.gap}</p>}
      {asset.description && <p className={styles.description}>{asset.description}</p>}
      <dl className={styles.facts}>
        <MainFacts asset={asset} />
        <OriginFacts asset={asset} />
      </dl>
    </header>
  )
}

function PageButtons({ asset }: { asset: Detail }) {
  const maySet = useMaySet()
  const [read, write] = useUrlState()
  return (
    <>
      {maySet && (
        <Button size="small" onClick={() => write({ edit: 'yes' })}>
          Edit
        </Button>
      )}
      {maySet && read('edit') && <EditDialog asset={asset} onClose={() => write({ edit: undefined })} />}
      <Link to={pagePath('graph', asset.ref)}>
        <Button size="small">Graph</Button>
      </Link>
      {!isJob(asset.ref) && (
        <Link to={pagePath('reader', asset.ref)}>
          <Button size="small">In plain words</Button>
        </Link>
      )}
      {!isJob(asset.ref) && (
        <Link to={pagePath('impact', asset.ref)}>
          <Button size="small">Impact</Button>
        </Link>
      )}
      <Link to={pagePath('causes', asset.ref)}>
        <Button size="small">Causes</Button>
      </Link>
      <FollowUp asset={asset} />
    </>
  )
}

/** What can be done about an asset: notify others, be notified, show its state, come back to it. */
function FollowUp({ asset }: { asset: Detail }) {
  const maySet = useMaySet()
  const limited = useLimited()
  const adding = useAddStep()
  const [open, setOpen] = useState<string>()
  const name = asset.title ?? asset.name
  const close = () => setOpen(undefined)
  const items = [
    maySet && !isJob(asset.ref) && { key: 'notice', label: 'Put a notice' },
    !limited && { key: 'watch', label: 'Watch' },
    maySet && !limited && !isJob(asset.ref) && { key: 'share', label: 'Share its state' },
    { key: 'later', label: adding.isSuccess ? 'Marked to look at later' : 'Look at later' },
  ].filter((item) => item !== false)
  return (
    <>
      <Dropdown
        trigger={['click']}
        menu={{
          items,
          onClick: ({ key }) =>
            key === 'later' ? adding.mutate({ ref: asset.ref, later: true }) : setOpen(key),
        }}
      >
        <Button size="small">Follow up</Button>
      </Dropdown>
      {open === 'notice' && <NoticeDialog refText={asset.ref} name={name} onClose={close} />}
      {open === 'watch' && <WatchDialog kind="asset" target={asset.ref} name={name} onClose={close} />}
      {open === 'share' && <ShareDialog refText={asset.ref} name={name} onClose={close} />}
    </>
  )
}

function MainFacts({ asset }: { asset: Detail }) {
  const words = wordsFor(asset.kind)
  const failing = asset.checks.filter((check) => !check.passed).length
  return (
    <>
      <Fact name="Owner">
        <Owners owners={asset.owners} />
      </Fact>
      <Fact name="Health">
        <HealthMark health={asset.health} />
      </Fact>
      {asset.dependents > 0 && <Fact name="Rest on it">{count(asset.dependents)} assets</Fact>}
      <Fact name={words.written}>
        <Since at={asset.freshness.written} />
      </Fact>
      {asset.freshness.expected && <Fact name="Next expected">{moment(asset.freshness.expected)}</Fact>}
      {asset.freshness.oldestInput && (
        <Fact name="Oldest input">
          <AssetLink refText={asset.freshness.oldestInput} name={shortRef(asset.freshness.oldestInput)} />{' '}
          taken <Since at={asset.freshness.oldestAt} />
        </Fact>
      )}
      <Fact name={words.lastRun}>
        <StateMark state={asset.freshness.state} />
      </Fact>
      {failing > 0 && (
        <Fact name="Checks">
          <span className={shared.bad}>{failing} failing</span>
        </Fact>
      )}
      {asset.labels.length > 0 && (
        <Fact name="Labels">
          <Labels labels={asset.labels} />
        </Fact>
      )}
      {asset.terms.length > 0 && (
        <Fact name="Terms">
          <Terms terms={asset.terms} />
        </Fact>
      )}
      <Fact name="Evidence">{evidenceWords(asset.evidence)}</Fact>
    </>
  )
}

function OriginFacts({ asset }: { asset: Detail }) {
  return (
    <>
      {asset.url && (
        <Fact name="In its tool">
          <a href={asset.url}>{asset.url.replace(/^https?:\/\//, '')}</a>
        </Fact>
      )}
      {asset.links.map((link) => (
        <Fact key={link.url} name="Link">
          <a href={link.url}>{link.title}</a>
        </Fact>
      ))}
      <Fact name="Reference">
        <code className={styles.reference}>{asset.ref}</code>
      </Fact>
      {asset.details.map((detail) => (
        <Fact key={`${detail.name} ${detail.value}`} name={detail.name}>
          {detail.value}
        </Fact>
      ))}
      {asset.folded && (
        <Fact name="Folded from">
          <Link to={`/asset?ref=${encodeURIComponent(asset.ref)}&tab=parts`}>{asset.partCount} parts</Link>
        </Fact>
      )}
      {asset.formerly.length > 0 && (
        <Fact name="Formerly">
          {asset.formerly.map((former) => (
            <span key={former.ref} title={`until ${moment(former.until)}`}>
              {shortRef(former.ref)}{' '}
            </span>
          ))}
        </Fact>
      )}
      {!asset.folded && asset.parts.length > 1 && (
        <Fact name="Merged from">
          {asset.parts.map((part) => (
            <code key={part} className={styles.reference}>
              {part}
            </code>
          ))}
        </Fact>
      )}
    </>
  )
}

function Fact({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className={styles.fact}>
      <dt className={styles.factName}>{name}</dt>
      <dd className={styles.factValue}>{children}</dd>
    </div>
  )
}

/** How many links into the asset are believed for which reason. */
function evidenceWords(evidence: Schemas['Evidence']): string {
  const parts: string[] = []
  if (evidence.observed > 0) parts.push(`${evidence.observed} observed`)
  if (evidence.confirmed > 0) parts.push(`${evidence.confirmed} of them confirmed by SQL`)
  if (evidence.derived > 0) parts.push(`${evidence.derived} derived from SQL`)
  if (evidence.declared > 0) parts.push(`${evidence.declared} declared`)
  if (evidence.recorded > 0) parts.push(`${evidence.recorded} recorded by hand`)
  return parts.length > 0 ? `links: ${parts.join(', ')}` : 'no links'
}
