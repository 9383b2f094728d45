import { render, screen } from '@testing-library/react'
import { MemoryRouter } from 'react-router'
import { describe, expect, it } from 'vitest'
import { ProblemError } from '../api/client'
import { durationsOf } from '../asset/RunHistory'
import { rowCountsOf } from '../asset/Statistics'
import { grown } from '../find/useBrowse'
import { totalsByAge } from '../intake/MinuteBars'
import { ProblemNotice } from './Answer'
import { TimeBars } from './charts'
import { spoken } from './format'
import { StateMark, VerdictMark } from './marks'
import { Name } from './Name'
import { ThreadPath } from './ThreadPath'
import { filtersOf, pagesOf } from './tables'

const hop = {
  from: 'n/a#x',
  to: 'n/b#x',
  flow: 'AGGREGATION',
  how: 'aggregated',
  masking: true,
  fromName: 'a#x',
  toName: 'b#x',
}

describe('a thread', () => {
  it('is read step by step with what was done', () => {
    render(
      <MemoryRouter>
        <ThreadPath hops={[hop]} />
      </MemoryRouter>,
    )
    expect(screen.getByRole('list', { name: 'thread' })).toHaveTextContent('a#x―aggregated, masked→b#x')
    expect(screen.getAllByRole('link')[0]).toHaveAttribute('href', '/asset?ref=n%2Fa')
  })

  it('of no hops says so', () => {
    render(<ThreadPath hops={[]} />)
    expect(screen.getByText(/the changed asset itself/)).toBeInTheDocument()
  })
})

describe('marks', () => {
  it('show state and verdict by words, not by colour alone', () => {
    render(
      <>
        <StateMark state="failed" />
        <VerdictMark verdict="breaks" certainty="possible" />
      </>,
    )
    expect(screen.getByText('failed')).toBeInTheDocument()
    expect(screen.getByText('breaks')).toHaveTextContent('breaks (possible)')
  })
})

describe('a problem', () => {
  it('is shown in the service’s words with the names that may be meant', () => {
    const error = new ProblemError({
      type: '/problems/ambiguous-reference',
      title: 'Several things have this name',
      status: 409,
      detail: 'write more of its beginning',
      candidates: ['n/one', 'n/two'],
    })
    render(
      <MemoryRouter>
        <ProblemNotice error={error} />
      </MemoryRouter>,
    )
    expect(screen.getByText('write more of its beginning')).toBeInTheDocument()
    expect(screen.getByRole('link', { name: 'n/two' })).toHaveAttribute('href', '/?ref=n%2Ftwo')
  })
})

describe('the tree of places', () => {
  it('takes children under the nodes that were opened and leaves the others', () => {
    const tree = [{ key: 'a' }, { key: 'c' }]
    const after = grown(tree, { a: [{ key: 'b' }], b: [{ key: 'd' }] })
    expect(after).toEqual([{ key: 'a', children: [{ key: 'b', children: [{ key: 'd' }] }] }, { key: 'c' }])
  })
})

describe('a name', () => {
  it('keeps both its ends and shows whole on hover', () => {
    render(<Name text="reporting_milk_quality_by_collection_route_v2" />)
    const name = screen.getByTitle('reporting_milk_quality_by_collection_route_v2')
    expect(name).toHaveTextContent('reporting_milk_quality_by_collection_route_v2')
    expect(name.lastChild).toHaveTextContent(/^.{10}$/)
  })

  it('that is short is not cut', () => {
    render(<Name text="pickup" />)
    expect(screen.getByTitle('pickup').children).toHaveLength(1)
  })
})

describe('the filters of a table', () => {
  it('are its values once and in order', () => {
    expect(filtersOf(['goes-stale', 'breaks', 'breaks'], spoken)).toEqual([
      { text: 'breaks', value: 'breaks' },
      { text: 'goes stale', value: 'goes-stale' },
    ])
    expect(pagesOf([1, 2, 3], 2)).toMatchObject({ pageSize: 2 })
    expect(pagesOf([1, 2], 2)).toBe(false)
  })
})

describe('numbers over time', () => {
  const statistic = (at: string, rows: number | undefined, reportedBy = 'output') => ({
    at,
    rows,
    reportedBy,
    columns: {},
  })

  it('go from old to new, one report apart from another, and none stands out', () => {
    const points = rowCountsOf(
      [statistic('2031-05-02', 0), statistic('2031-05-01', 12), statistic('2031-05-01', 9, 'input')],
      'output',
    )
    expect(points.map((point) => [point.value, point.tone])).toEqual([
      [12, 'thread'],
      [0, 'bad'],
    ])
    expect(rowCountsOf([statistic('2031-05-02', undefined)], 'output')).toEqual([])
  })

  it('show durations of runs that ended, failures by their tone', () => {
    const run = (start: string, state: string, seconds: number | undefined) => ({
      ref: `run:${start}`,
      job: '@n/j',
      state,
      start,
      seconds,
      hasTasks: false,
      lastReportedAt: start,
      stalled: false,
    })
    const points = durationsOf([
      run('2031-05-03', 'running', undefined),
      run('2031-05-02', 'failed', 3),
      run('2031-05-01', 'completed', 60),
    ])
    expect(points.map((point) => [point.value, point.tone])).toEqual([
      [60, 'good'],
      [3, 'bad'],
    ])
  })

  it('say what a chart shows', () => {
    render(<TimeBars points={[]} label="nothing yet" caption={<span>none</span>} />)
    expect(screen.getByRole('figure', { name: 'nothing yet' })).toHaveTextContent('none')
  })

  it('count events by the age of their minute', () => {
    const now = Date.parse('2031-05-01T12:00:30Z')
    const totals = totalsByAge(
      [
        { minute: '2031-05-01T12:00:00Z', emitter: 'a', events: 2 },
        { minute: '2031-05-01T11:59:00Z', emitter: 'a', events: 3 },
        { minute: '2031-05-01T11:59:00Z', emitter: 'b', events: 4 },
        { minute: '2031-05-01T10:00:00Z', emitter: 'a', events: 9 },
      ],
      now,
    )
    expect(totals.slice(0, 3)).toEqual([2, 7, 0])
    expect(totals.reduce((a, b) => a + b)).toBe(9)
  })
})

it('what grants do not cover is named restricted and leads nowhere', () => {
  const hop = {
    from: 'n/core.a#x',
    to: 'restricted/0a1b2c#77',
    flow: 'IDENTITY',
    how: 'copied',
    masking: false,
    job: '@restricted/99',
    fromName: 'a#x',
    toName: 'restricted',
  }
  render(
    <MemoryRouter>
      <ThreadPath hops={[hop]} />
    </MemoryRouter>,
  )
  expect(screen.getByText('restricted')).toHaveAttribute('title', 'Your grants do not cover this.')
  expect(screen.getAllByRole('link')).toHaveLength(1)
})
