import { useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { Button, Input, Select, Table } from 'antd'
import { answered, api, type Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { moment, shortRef } from '../shared/format'
import shared from '../shared/shared.module.css'
import { useUrlState } from '../shared/useUrlState'

const PAGE = 200

type Filter = { who?: string; action?: string; outcome?: string; about?: string }

function useAudit(filter: Filter) {
  return useInfiniteQuery({
    queryKey: ['audit', filter],
    initialPageParam: undefined as string | undefined,
    getNextPageParam: (last: Schemas['AuditList']) => last.cursor,
    queryFn: ({ signal, pageParam }) =>
      answered(
        api.GET('/api/v1/audit', {
          params: { query: { ...filter, limit: PAGE, cursor: pageParam } as never },
          signal,
        }),
      ) as Promise<Schemas['AuditList']>,
  })
}

function useActions() {
  return useQuery({
    queryKey: ['audit-actions'],
    queryFn: ({ signal }) =>
      answered(api.GET('/api/v1/audit/actions', { params: { query: { limit: 1000 } }, signal })),
  })
}

/** Who did what, who saw what, and who was refused what. */
export function AuditTable() {
  const [read, write] = useUrlState()
  const filter: Filter = {
    who: read('who') || undefined,
    action: read('action') || undefined,
    outcome: read('outcome') || undefined,
    about: read('about') || undefined,
  }
  const entries = useAudit(filter)
  const actions = useActions()
  const query = new URLSearchParams(Object.entries(filter).filter(([, value]) => value)).toString()
  return (
    <>
      <div className={shared.bar}>
        <Input.Search
          placeholder="Who"
          aria-label="Who"
          defaultValue={filter.who}
          style={{ width: 170 }}
          allowClear
          onSearch={(who) => write({ who: who || undefined })}
        />
        <Select
          placeholder="Any action"
          aria-label="Action"
          allowClear
          showSearch
          style={{ width: 200 }}
          value={filter.action}
          onChange={(action) => write({ action })}
          options={(actions.data?.items ?? []).map((value) => ({ value, label: wordsOf(value) }))}
        />
        <Select
          placeholder="Done or refused"
          aria-label="Outcome"
          allowClear
          style={{ width: 160 }}
          value={filter.outcome}
          onChange={(outcome) => write({ outcome })}
          options={['done', 'refused'].map((value) => ({ value, label: value }))}
        />
        <Input.Search
          placeholder="About"
          aria-label="About"
          defaultValue={filter.about}
          style={{ width: 240 }}
          allowClear
          onSearch={(about) => write({ about: about || undefined })}
        />
        <span className={shared.space} />
        <Button onClick={() => takeAway(query)}>Download NDJSON</Button>
      </div>
      <Answer of={entries}>
        {({ pages }) => (
          <>
            <Table
              size="small"
              className={shared.panel}
              rowKey="id"
              pagination={false}
              dataSource={pages.flatMap((page) => page.items)}
              locale={{ emptyText: 'No entry fits. Take a filter away.' }}
              columns={[
                {
                  title: 'When',
                  dataIndex: 'at',
                  render: (at) => <span className={shared.state}>{moment(at)}</span>,
                },
                {
                  title: 'Who',
                  render: (_, entry) =>
                    entry.who ? (
                      <>
                        <strong>{entry.who}</strong>{' '}
                        <span className={shared.quiet}>
                          {entry.role}
                          {entry.byKey && ', key'}
                        </span>
                      </>
                    ) : (
                      <span className={shared.quiet}>nobody known</span>
                    ),
                },
                { title: 'What', dataIndex: 'action', render: wordsOf },
                {
                  title: 'Outcome',
                  render: (_, entry) => (
                    <span className={entry.outcome === 'refused' ? shared.bad : undefined}>
                      {entry.outcome}
                      {entry.times > 1 && ` × ${entry.times}`}
                    </span>
                  ),
                },
                {
                  title: 'About',
                  dataIndex: 'about',
                  render: (about: string) => <span title={about}>{shortened(about)}</span>,
                },
                {
                  title: 'Detail',
                  dataIndex: 'detail',
                  render: (detail) => <span className={shared.quiet}>{detail}</span>,
                },
                { title: 'From', dataIndex: 'address' },
              ]}
            />
            {entries.hasNextPage && (
              <div className={shared.bar} style={{ marginTop: 12 }}>
                <Button loading={entries.isFetchingNextPage} onClick={() => entries.fetchNextPage()}>
                  Show more
                </Button>
              </div>
            )}
          </>
        )}
      </Answer>
    </>
  )
}

/** An operation's name in words: {@code makeKey} is "make key". */
function wordsOf(action: string): string {
  return action.includes(' ') ? action : action.replace(/([A-Z])/g, ' $1').toLowerCase()
}

function shortened(about: string): string {
  const short = /^[a-z+]+:\/\/\S+$/.test(about) ? shortRef(about) : about
  return short.length > 90 ? `${short.slice(0, 90)}…` : short
}

/** Saves the entries that fit, one as JSON on each line. */
async function takeAway(query: string) {
  const answer = await fetch(`api/v1/audit?${query}`, { headers: { Accept: 'application/x-ndjson' } })
  const link = document.createElement('a')
  link.href = URL.createObjectURL(await answer.blob())
  link.download = 'audit.ndjson'
  link.click()
  URL.revokeObjectURL(link.href)
}
