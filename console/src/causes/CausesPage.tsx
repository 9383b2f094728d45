import { Empty, Input, Select } from 'antd'
import type { Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { AssetPicker } from '../shared/AssetPicker'
import { ago, count, moment, shortRef } from '../shared/format'
import { AssetLink, KindMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { useUrlState } from '../shared/useUrlState'
import { CauseCanvas } from './CauseCanvas'
import styles from './causes.module.css'
import { SuspectCard } from './SuspectCard'
import { Timeline } from './Timeline'
import { SYMPTOMS, type SymptomWord, useCauses } from './useCauses'

const SEEN: Record<SymptomWord, string> = {
  any: 'whatever it is',
  late: 'it is late',
  'wrong-values': 'values are wrong',
  'missing-rows': 'rows are missing',
  'failed-check': 'a check fails',
}

/** Why something is wrong or late: the causes, apart from what only follows from them. */
export function CausesPage() {
  const [read, write] = useUrlState()
  const ref = read('ref')
  const symptom = SYMPTOMS.find((word) => word === read('symptom'))
  const causes = useCauses({ ref, symptom, at: read('at'), good: read('good') })
  return (
    <div className={styles.page}>
      <div className={shared.bar}>
        <span>Why is</span>
        <AssetPicker
          label="Symptom"
          placeholder="a report, a table, a column"
          value={ref}
          width={480}
          onPick={(next) => write({ ref: next })}
        />
        <span>wrong or late?</span>
        <Select
          aria-label="What is seen"
          value={symptom ?? 'any'}
          options={SYMPTOMS.map((word) => ({ value: word, label: SEEN[word] }))}
          style={{ width: 170 }}
          onChange={(word: SymptomWord) => write({ symptom: word === 'any' ? undefined : word })}
        />
        <span>
          Right until{' '}
          <Input
            type="date"
            aria-label="Right until"
            style={{ width: 150 }}
            value={read('good')?.slice(0, 10) ?? ''}
            onChange={(event) =>
              write({ good: event.target.value ? `${event.target.value}T00:00:00Z` : undefined })
            }
          />
        </span>
      </div>
      {ref ? (
        <Answer of={causes}>{(answer) => <Suspects answer={answer} />}</Answer>
      ) : (
        <Empty className={shared.empty} description="Name what is wrong or late to see its causes." />
      )}
    </div>
  )
}

function Suspects({ answer }: { answer: Schemas['CauseAnswer'] }) {
  const { symptom, suspects, changes, expectedRecovery } = answer
  return (
    <>
      <p>
        <KindMark kind={symptom.kind} /> <AssetLink refText={symptom.ref} name={symptom.name} /> was refreshed{' '}
        {ago(symptom.written)}.{' '}
        {symptom.oldestInput && (
          <>
            Its oldest input, <AssetLink refText={symptom.oldestInput} name={shortRef(symptom.oldestInput)} />
            , was taken {ago(symptom.oldestAt)}.{' '}
          </>
        )}
        {expectedRecovery ? (
          <>
            Expected to be right again by <strong>{moment(expectedRecovery)}</strong>.
          </>
        ) : (
          suspects.length > 0 && 'The time of recovery is not known.'
        )}
      </p>
      {suspects.length === 0 && (
        <Empty description="Nothing upstream failed, is missing or late; no check fails, and no figure deviates." />
      )}
      {suspects.length > 0 && <Timeline answer={answer} />}
      {suspects.length > 0 && <CauseCanvas answer={answer} />}
      {suspects.map((suspect, i) => (
        <SuspectCard
          key={`${suspect.ref} ${suspect.what} ${suspect.column}`}
          suspect={suspect}
          place={i + 1}
          symptom={symptom}
        />
      ))}
      {answer.suspectCount > suspects.length && (
        <p className={shared.quiet}>
          {count(answer.suspectCount - suspects.length)} more went wrong upstream; these are the likeliest.
        </p>
      )}
      {changes.length > 0 && (
        <section>
          <h3 className={shared.heading}>Changed since then, with no figure that moved</h3>
          <ul>
            {changes.map((change) => (
              <li key={`${change.ref} ${change.at}`}>
                {moment(change.at)} <AssetLink refText={change.ref} name={shortRef(change.ref)} />{' '}
                {change.evidence}
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  )
}
