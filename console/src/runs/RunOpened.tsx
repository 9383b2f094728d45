import { Collapse } from 'antd'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { behindPath } from '../behind/Behind'
import { Answer } from '../shared/Answer'
import { count, shortRef } from '../shared/format'
import { AssetLink, KindMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { RunTable } from './RunTable'
import styles from './runs.module.css'
import { useRun } from './useRuns'

/** A run opened: its tasks, what it read and wrote, and what it reported of itself. */
export function RunOpened({ refText }: { refText: string }) {
  return (
    <Answer of={useRun(refText)}>
      {(detail) => (
        <div className={styles.opened}>
          <code className={`${shared.quiet} ${shared.small}`}>{detail.run.ref}</code>{' '}
          <Link to={behindPath(detail.run.ref)}>What rests on it, and runs behind it</Link>
          {detail.tasks.length > 0 && <RunTable runs={detail.tasks} />}
          {detail.parts.map((part) => (
            <PartLine key={`${part.ref} ${part.written}`} part={part} />
          ))}
          <Facets of="the run" facets={detail.facets} />
        </div>
      )}
    </Answer>
  )
}

function PartLine({ part }: { part: Schemas['Part'] }) {
  return (
    <div>
      <span className={styles.partWay}>{part.written ? 'wrote' : 'read'}</span>
      <KindMark kind={part.kind} /> <AssetLink refText={part.ref} name={shortRef(part.ref)} />{' '}
      {part.rows !== undefined && <span>{count(part.rows)} rows</span>}{' '}
      {part.bytes !== undefined && <span>{count(part.bytes)} bytes</span>}{' '}
      {part.subset && <span className={shared.quiet}>only {part.subset}</span>}
      <Facets of={part.written ? 'this writing' : 'this reading'} facets={part.facets} />
    </div>
  )
}

function Facets({ of, facets }: { of: string; facets: Schemas['RunDetail']['facets'] }) {
  const names = Object.keys(facets)
  if (names.length === 0) return null
  return (
    <Collapse
      size="small"
      className={styles.facets}
      items={[
        {
          key: 'facets',
          label: `Facets of ${of}: ${names.join(', ')}`,
          children: <pre className="code">{JSON.stringify(facets, null, 2)}</pre>,
        },
      ]}
    />
  )
}
