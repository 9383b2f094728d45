import { Button, Dropdown, Empty, Tag } from 'antd'
import { useMemo, useState } from 'react'
import { Link } from 'react-router'
import { useMaySet } from '../hand/queries'
import { PlanDialog } from '../planned/PlanDialog'
import { useLimited } from '../session/useSession'
import { Answer, ProblemNotice } from '../shared/Answer'
import shared from '../shared/shared.module.css'
import { useUrlState } from '../shared/useUrlState'
import { ChangeForm } from './ChangeForm'
import { Groups } from './Groups'
import { ImpactItems } from './ImpactItems'
import styles from './impact.module.css'
import { UntouchedItems } from './UntouchedItems'
import {
  FILES,
  type FileKind,
  GROUPS,
  type GroupBy,
  type ImpactQuery,
  useImpact,
  useImpactFile,
  useImpactItems,
} from './useImpact'
import { VerdictCounts } from './VerdictCounts'

/** What a change would do downstream: choose it, read whom it concerns, read the list, hand it on. */
export function ImpactPage() {
  const [read, write] = useUrlState()
  const query: ImpactQuery = {
    ref: read('ref') ?? '',
    change: read('change') ?? 'drop',
    to: read('to'),
    kind: read('kind'),
    owner: read('owner'),
    system: read('system'),
    workspace: read('workspace'),
    label: read('label'),
    verdict: read('verdict'),
  }
  const by = GROUPS.find((one) => one === read('by')) ?? 'owner'
  const ready = query.ref !== '' && !(query.change === 'retype' && !query.to)
  const impact = useImpact(query, by, ready)
  const file = useImpactFile(query)
  const maySet = useMaySet()
  const limited = useLimited()
  const [planning, setPlanning] = useState(false)
  return (
    <div className={shared.page}>
      <ChangeForm refText={read('ref')} change={query.change} to={query.to}>
        {ready && (
          <Dropdown
            trigger={['click']}
            menu={{
              items: Object.entries(FILES).map(([key, { name }]) => ({ key, label: name })),
              onClick: ({ key }) => file.mutate(key as FileKind),
            }}
          >
            <Button disabled={file.isPending}>Download</Button>
          </Dropdown>
        )}
        {ready && maySet && <Button onClick={() => setPlanning(true)}>Plan this change</Button>}
        {!limited && <Link to="/planned">Planned changes</Link>}
      </ChangeForm>
      {planning && (
        <PlanDialog
          step={{ change: query.change ?? 'drop', of: query.ref, to: query.to || undefined }}
          onClose={() => setPlanning(false)}
        />
      )}
      {file.isError && <ProblemNotice error={file.error} />}
      {ready ? (
        <Answer of={impact}>
          {(answer) => (
            <>
              <VerdictCounts
                answer={answer}
                chosen={query.verdict}
                onChoose={(verdict) => write({ verdict })}
              />
              <div className={styles.parts}>
                <Groups
                  by={by}
                  groups={answer.groups ?? []}
                  chosen={query[by]}
                  onBy={(next) => write({ by: next })}
                  onChoose={(name) => write({ [by]: name })}
                />
                <div className={styles.main}>
                  <Filters query={query} onClear={(name) => write({ [name]: undefined })} />
                  <Items query={query} ready={ready} />
                </div>
              </div>
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
        “Possible” means that some lineage on the way is known for whole tables only, that a value is masked,
        or that only some of several writers are touched.
      </p>
    </div>
  )
}

function Items({ query, ready }: { query: ImpactQuery; ready: boolean }) {
  const pages = useImpactItems(query, ready)
  const items = useMemo(() => pages.data?.pages.flatMap((page) => page.items) ?? [], [pages.data])
  if (pages.isError) return <ProblemNotice error={pages.error} />
  return (
    <ImpactItems
      items={items}
      total={pages.data?.pages[0]?.total ?? 0}
      loading={pages.isPending}
      onMore={pages.hasNextPage && !pages.isFetchingNextPage ? () => void pages.fetchNextPage() : undefined}
    />
  )
}

/** What the list is narrowed to, each to be taken back. */
function Filters({ query, onClear }: { query: ImpactQuery; onClear: (name: GroupBy) => void }) {
  const set = GROUPS.filter((name) => query[name])
  if (set.length === 0) return null
  return (
    <p className={styles.filters}>
      Only{' '}
      {set.map((name) => (
        <Tag key={name} closable onClose={() => onClear(name)}>
          {name} {query[name]}
        </Tag>
      ))}
    </p>
  )
}
