import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { assetPath, flowWords, shortRef, stepsPath } from './format'
import { useInks } from './useInks'

/** A thread as a line of steps to be read from left to right, each with what was done on the way. */
export function ThreadPath({ hops }: { hops: Schemas['Hop'][] }) {
  const ink = useInks()
  if (hops.length === 0) return <span style={{ color: ink.quiet }}>it is the place itself</span>
  return (
    <ol
      aria-label="thread"
      style={{ display: 'flex', flexWrap: 'wrap', gap: 4, listStyle: 'none', margin: 0, padding: 0 }}
    >
      <Stop refText={hops[0].from} name={hops[0].fromName} />
      {hops.map((hop) => (
        <li
          key={`${hop.from} ${hop.to} ${hop.flow}`}
          style={{ display: 'flex', alignItems: 'center', gap: 4 }}
        >
          <How hop={hop} />
          <Stop refText={hop.to} name={hop.toName} inline />
        </li>
      ))}
    </ol>
  )
}

/** What was done on the way; of a column, a way into the text that did it. */
function How({ hop }: { hop: Schemas['Hop'] }) {
  const ink = useInks()
  const words = `―${flowWords(hop.flow)}${hop.masking ? ', masked' : ''}→`
  const style = { color: ink.thread, fontSize: 11, textAlign: 'center' as const }
  return hop.job && hop.to.includes('#') ? (
    <Link to={stepsPath(hop.job, hop.to)} title={`how ${hop.job} does it`} style={style}>
      {words}
    </Link>
  ) : (
    <span style={style} title={hop.job}>
      {words}
    </span>
  )
}

function Stop({ refText, name, inline }: { refText: string; name: string; inline?: boolean }) {
  const ink = useInks()
  const chip = (
    <Link
      to={assetPath(refText)}
      title={refText}
      style={{
        border: `1px solid ${ink.line}`,
        background: ink.panel,
        borderRadius: 3,
        padding: '1px 6px',
        color: ink.text,
      }}
    >
      {name.includes('#') || !refText.includes('#') ? name : shortRef(refText)}
    </Link>
  )
  return inline ? chip : <li>{chip}</li>
}
