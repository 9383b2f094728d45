import { Button, Empty } from 'antd'
import { Answer, ProblemNotice } from '../shared/Answer'
import shared from '../shared/shared.module.css'
import { useUrlState } from '../shared/useUrlState'
import { ChangeForm } from './ChangeForm'
import { ImpactItems } from './ImpactItems'
import { UntouchedItems } from './UntouchedItems'
import { type ImpactQuery, useImpact, useImpactCsv } from './useImpact'
import { VerdictCounts } from './VerdictCounts'

/** What a change would do downstream: choose it, read the list, hand the list on. */
export function ImpactPage() {
  const [read, write] = useUrlState()
  const query: ImpactQuery = {
    ref: read('ref') ?? '',
    change: read('change') ?? 'drop',
    to: read('to'),
    kind: read('kind'),
    owner: read('owner'),
    system: read('system'),
    verdict: read('verdict'),
  }
  const ready = query.ref !== '' && !(query.change === 'retype' && !query.to)
  const impact = useImpact(query, ready)
  const csv = useImpactCsv(query)
  return (
    <div className={shared.page}>
      <ChangeForm refText={read('ref')} change={query.change} to={query.to}>
        {ready && (
          <Button loading={csv.isPending} onClick={() => csv.mutate()}>
            Download CSV
          </Button>
        )}
      </ChangeForm>
      {csv.isError && <ProblemNotice error={csv.error} />}
      {ready ? (
        <Answer of={impact}>
          {(answer) => (
            <>
              <VerdictCounts
                answer={answer}
                chosen={query.verdict}
                onChoose={(verdict) => write({ verdict })}
              />
              <ImpactItems items={answer.items} />
              <UntouchedItems list={answer.untouched} />
            </>
          )}
        </Answer>
      ) : (
        <Empty
          className={shared.empty}
          description={
            query.ref
              ? 'Enter the new type to judge this change.'
              : 'Name what changes, and how, to see what it would do.'
          }
        />
      )}
      <p className={shared.quiet}>
        “Possible” means that some lineage on the way is known for whole tables only, or that a value is
        masked.
      </p>
    </div>
  )
}
