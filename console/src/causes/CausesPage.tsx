import { Empty } from 'antd'
import type { Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { AssetPicker } from '../shared/AssetPicker'
import { ago, moment } from '../shared/format'
import { AssetLink, KindMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { useUrlState } from '../shared/useUrlState'
import styles from './causes.module.css'
import { SuspectCard } from './SuspectCard'
import { useCauses } from './useCauses'

/** Why something is wrong or late: the causes, apart from what only follows from them. */
export function CausesPage() {
  const [read, write] = useUrlState()
  const ref = read('ref')
  const causes = useCauses(ref, read('at'))
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
  const { symptom, suspects, expectedRecovery } = answer
  return (
    <>
      <p>
        <KindMark kind={symptom.kind} /> <AssetLink refText={symptom.ref} name={symptom.name} /> was refreshed{' '}
        {ago(symptom.written)}.{' '}
        {expectedRecovery ? (
          <>
            Expected to be right again by <strong>{moment(expectedRecovery)}</strong>.
          </>
        ) : (
          suspects.length > 0 && 'The time of recovery is not known.'
        )}
      </p>
      {suspects.length === 0 && (
        <Empty description="Nothing upstream failed, is missing or late, and no check fails." />
      )}
      {suspects.map((suspect, i) => (
        <SuspectCard key={`${suspect.ref} ${suspect.what}`} suspect={suspect} place={i + 1} />
      ))}
    </>
  )
}
