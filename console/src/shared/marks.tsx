import { Tag, Tooltip } from 'antd'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { assetPath } from './format'
import { useInks } from './useInks'

/** What an asset is, in small letters before its name. */
export function KindMark({ kind }: { kind: string }) {
  const ink = useInks()
  return (
    <span
      style={{
        color: ink.quiet,
        fontSize: 11,
        letterSpacing: '0.04em',
        fontVariant: 'small-caps',
        minWidth: 62,
        display: 'inline-block',
      }}
    >
      {kind}
    </span>
  )
}

export function AssetLink({ refText, name }: { refText: string; name: string }) {
  return (
    <Tooltip title={refText} mouseEnterDelay={0.6}>
      <Link to={assetPath(refText)}>{name}</Link>
    </Tooltip>
  )
}

const STATE_INK = { completed: 'good', failed: 'bad', aborted: 'bad', running: 'wait' } as const

/** How a run stands, as a word and not by colour alone. */
export function StateMark({ state }: { state: string | undefined }) {
  const ink = useInks()
  if (!state) return <span style={{ color: ink.quiet }}>–</span>
  const colour = ink[STATE_INK[state as keyof typeof STATE_INK] ?? 'quiet']
  return (
    <span style={{ color: colour, whiteSpace: 'nowrap' }}>
      <span aria-hidden style={{ fontSize: 9, marginRight: 4 }}>
        {state === 'completed' ? '●' : state === 'running' ? '◌' : '■'}
      </span>
      {state}
    </span>
  )
}

const VERDICT_INK = {
  breaks: 'bad',
  'goes-stale': 'wait',
  'values-shift': 'thread',
  'rows-shift': 'thread',
  untouched: 'good',
} as const

export function VerdictMark({ verdict, certainty }: { verdict: string; certainty: string }) {
  const ink = useInks()
  const colour = ink[VERDICT_INK[verdict as keyof typeof VERDICT_INK] ?? 'quiet']
  return (
    <span style={{ color: colour, fontWeight: 600, whiteSpace: 'nowrap' }}>
      {verdict}
      {certainty === 'possible' && <span style={{ fontWeight: 400 }}> possibly</span>}
    </span>
  )
}

export function Labels({ labels }: { labels: string[] }) {
  return (
    <>
      {labels.map((label) => (
        <Tag key={label} variant="outlined" style={{ fontSize: 11, lineHeight: '16px' }}>
          {label}
        </Tag>
      ))}
    </>
  )
}

export function Owners({ owners }: { owners: Schemas['Owner'][] }) {
  if (owners.length === 0) return <span>nobody named</span>
  return (
    <>
      {owners.map((owner, i) => (
        <span key={`${owner.name} ${owner.role}`}>
          {i > 0 && ', '}
          {owner.address ? <a href={`mailto:${owner.address}`}>{owner.name}</a> : owner.name}
          {owner.what !== 'text' && <small> ({owner.what})</small>}
        </span>
      ))}
    </>
  )
}
