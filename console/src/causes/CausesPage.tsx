import { useQuery } from '@tanstack/react-query'
import { Empty, Progress } from 'antd'
import { get, type Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { AssetPicker } from '../shared/AssetPicker'
import { ago, moment, shortRef } from '../shared/format'
import { AssetLink, KindMark, Owners } from '../shared/marks'
import { ThreadPath } from '../shared/ThreadPath'
import { useInks } from '../shared/useInks'
import { useUrlState } from '../shared/useUrlState'

const WHAT: Record<string, string> = {
  failed: 'failed',
  missing: 'did not run',
  late: 'runs far too long',
  empty: 'wrote nothing',
  'check-failed': 'fails a check',
}

/** Why something is wrong or late: the causes, apart from what only follows from them. */
export function CausesPage() {
  const [read, write] = useUrlState()
  const ref = read('ref')
  const at = read('at')
  const causes = useQuery({
    queryKey: ['causes', ref, at],
    queryFn: ({ signal }) => get<Schemas['CauseAnswer']>('causes', { ref, at }, signal),
    enabled: ref !== undefined,
  })
  return (
    <div style={{ padding: 16, maxWidth: 1200, margin: '0 auto' }}>
      <div style={{ display: 'flex', gap: 10, alignItems: 'center', marginBottom: 12 }}>
        <span>Why is</span>
        <AssetPicker
          label="Symptom"
          placeholder="a report, a table, a column"
          value={ref}
          width={480}
          onPick={(next) => write({ ref: next })}
        />
        <span>wrong or late?</span>
      </div>
      {ref ? (
        <Answer of={causes}>{(answer) => <Suspects answer={answer} />}</Answer>
      ) : (
        <Empty style={{ padding: 60 }} description="Name what is wrong or late." />
      )}
    </div>
  )
}

function Suspects({ answer }: { answer: Schemas['CauseAnswer'] }) {
  const ink = useInks()
  const { symptom, suspects, expectedRecovery } = answer
  return (
    <>
      <p style={{ fontSize: 15 }}>
        <KindMark kind={symptom.kind} /> <AssetLink refText={symptom.ref} name={symptom.name} /> was refreshed{' '}
        {ago(symptom.written)}.{' '}
        {expectedRecovery ? (
          <>
            It is likely right again by <strong>{moment(expectedRecovery)}</strong>.
          </>
        ) : (
          suspects.length > 0 && 'Nothing tells when it will be right again.'
        )}
      </p>
      {suspects.length === 0 && (
        <Empty description="Nothing upstream failed, is missing or late, and no check fails." />
      )}
      {suspects.map((suspect, i) => (
        <article
          key={`${suspect.ref} ${suspect.what}`}
          aria-label={`Suspect ${i + 1}`}
          style={{
            background: ink.panel,
            border: `1px solid ${ink.line}`,
            borderLeft: `4px solid ${ink.bad}`,
            padding: '12px 16px',
            marginBottom: 12,
          }}
        >
          <div style={{ display: 'flex', gap: 10, alignItems: 'baseline' }}>
            <strong style={{ fontSize: 15 }}>
              <AssetLink refText={suspect.ref} name={suspect.name} />
            </strong>
            <span style={{ color: ink.bad, fontWeight: 600 }}>{WHAT[suspect.what] ?? suspect.what}</span>
            <span>since {moment(suspect.at)}</span>
            <span style={{ flex: 1 }} />
            <span
              style={{ width: 190 }}
              title="share of what went wrong on these threads that it accounts for"
            >
              <Progress
                percent={Math.round(suspect.score * 100)}
                format={(share) => `${share}%`}
                size="small"
                strokeColor={ink.thread}
              />
            </span>
          </div>
          <p style={{ margin: '4px 0' }}>{suspect.evidence}</p>
          {suspect.error && <p style={{ color: ink.bad, margin: '4px 0' }}>{suspect.error}</p>}
          <p style={{ margin: '4px 0' }}>
            Call <Owners owners={suspect.owners} />
          </p>
          {suspect.explains.length > 0 && <Effects effects={suspect.explains} />}
          <div style={{ marginTop: 8 }}>
            <ThreadPath hops={suspect.thread} />
          </div>
        </article>
      ))}
    </>
  )
}

function Effects({ effects }: { effects: Schemas['Incident'][] }) {
  const ink = useInks()
  return (
    <details open style={{ margin: '6px 0' }}>
      <summary style={{ color: ink.quiet, cursor: 'pointer' }}>
        explains {effects.length} more that only {effects.length === 1 ? 'follows' : 'follow'} from it
      </summary>
      <ul style={{ margin: '4px 0', paddingLeft: 20 }}>
        {effects.map((effect) => (
          <li key={`${effect.ref} ${effect.what} ${effect.at}`}>
            <AssetLink refText={effect.ref} name={shortRef(effect.ref)} /> {WHAT[effect.what] ?? effect.what},{' '}
            {moment(effect.at)}
            {effect.error && <span style={{ color: ink.quiet }}>: {effect.error}</span>}
          </li>
        ))}
      </ul>
    </details>
  )
}
