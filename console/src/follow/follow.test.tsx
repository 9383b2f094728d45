import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { relevantTo } from '../causes/CauseCanvas'
import { HealthMark, healthLine } from '../health/HealthMark'
import { showPage, stubService } from '../testPages'
import { TodayPage } from '../today/TodayPage'
import { FollowPage } from './FollowPage'

// Boxes are placed by a worker, which only a browser has.
vi.mock('../graph/LineageCanvas', () => ({ LineageCanvas: () => <div /> }))

afterEach(() => vi.unstubAllGlobals())

const well = { state: 'healthy', reason: 'nothing deviates', notices: [] }
const inherited = {
  state: 'failed',
  reason: 'land: its last run failed',
  since: '',
  ref: '@n/land',
  name: 'land',
}
const notice = { id: '1', level: 'stop', text: 'Wrong unit', by: 'ada', of: 'n/t', name: 't' }

describe('health', () => {
  it('shows what is inherited apart from its own state, and no sign of health beside it', () => {
    showPage(<HealthMark health={{ ...well, inherited }} />, '/')
    expect(screen.getByText(/source failed/)).toHaveAttribute('title', inherited.reason)
    expect(screen.queryByText('healthy')).not.toBeInTheDocument()
  })

  it('says nothing on a box where all is well, and warns first of what must not be used', () => {
    expect(healthLine(well)).toBeUndefined()
    expect(healthLine({ ...well, inherited })?.words).toBe('↳ source failed')
    expect(healthLine({ ...well, state: 'late', inherited })?.words).toBe('◆ late')
    expect(healthLine({ ...well, state: 'late', notices: [notice] })?.words).toBe('✎ do not use')
  })
})

describe('today', () => {
  const cause = {
    ref: '@n/land',
    name: 'land',
    kind: 'job',
    what: 'missing',
    state: 'overdue',
    since: '2031-05-01T02:10:00Z',
    evidence: 'it usually runs every 24 h',
    owners: [],
    affects: 33,
    pages: [{ ref: 'n/r', name: 'Payout' }],
    effects: [{ ref: '@n/build', name: 'build', what: 'failed', since: '2031-05-01T03:00:00Z' }],
  }
  const page = { ref: 'n/r', name: 'Payout', kind: 'report', health: { ...well, inherited }, owners: [] }
  const answer = {
    at: '2031-05-01T08:00:00Z',
    causeCount: 1,
    causes: [cause],
    pageCount: 1,
    pages: [page],
    notices: [],
    blindSpots: { total: 9, fresh: 2, newest: [] },
    intake: { applying: true, lagSeconds: 0, waiting: 0, refused: 0, silent: ['tank-stream'] },
  }

  it('lists causes with what rests on them, reports in trouble, blind spots and the intake', async () => {
    stubService({ today: answer })
    showPage(<TodayPage />, '/today')
    const row = await screen.findByRole('article', { name: 'land' })
    expect(within(row).getByText('affects 33')).toBeInTheDocument()
    expect(within(row).getByText(/followed by build/)).toBeInTheDocument()
    const reports = screen.getByRole('region', { name: 'Reports' })
    expect(within(reports).getByText('not known')).toBeInTheDocument()
    expect(screen.getByText('2 new blind spots')).toBeInTheDocument()
    expect(screen.getByText('Silent: tank-stream')).toBeInTheDocument()
  })

  it('asks for one owner, and says so when nothing needs anybody', async () => {
    const asked = stubService({
      today: { ...answer, causeCount: 0, causes: [], pageCount: 0, pages: [] },
    })
    showPage(<TodayPage />, '/today?owner=Quality')
    expect(await screen.findByText('Nothing fails, is late or deviates')).toBeInTheDocument()
    expect(asked.some((url) => url.includes('owner=Quality'))).toBe(true)
  })
})

describe('follow-up', () => {
  it('lifts a notice after asking', async () => {
    const row = {
      ...notice,
      ref: 'n/t',
      at: '2031-05-01T08:00:00Z',
      from: '2031-05-01T08:00:00Z',
      state: 'active',
      affects: 4,
    }
    const asked = stubService({ 'notices?': { items: [row] }, 'notices/lift': { id: '1' } })
    showPage(<FollowPage />, '/follow')
    fireEvent.click(await screen.findByRole('button', { name: 'Lift' }))
    const dialog = await screen.findByRole('tooltip')
    fireEvent.click(within(dialog).getByRole('button', { name: 'Lift' }))
    await waitFor(() => expect(asked.some((url) => url.includes('notices/lift?id=1'))).toBe(true))
  })

  it('sends a message again that was given up', async () => {
    const message = {
      id: 'm',
      watch: 'w',
      madeAt: '',
      subject: 'land failed',
      state: 'dead',
      tries: 8,
      problem: 'no route',
    }
    const asked = stubService({ 'deliveries?': { items: [message] }, 'deliveries/retry': {} })
    showPage(<FollowPage />, '/follow?tab=messages')
    expect(await screen.findByText(/given up after 8 tries/)).toBeInTheDocument()
    fireEvent.click(screen.getByRole('button', { name: 'Send again' }))
    await waitFor(() => expect(asked.some((url) => url.includes('deliveries/retry?id=m'))).toBe(true))
  })

  it('shows which threads that were found right have lapsed, and why', async () => {
    const one = {
      id: '1',
      from: 'n/a#x',
      to: 'n/b#x',
      by: 'ada',
      at: '',
      state: 'lapsed',
      lapsed: 'there is no thread any more',
    }
    stubService({ followed: { items: [one] } })
    showPage(<FollowPage />, '/follow?tab=followed')
    expect(await screen.findByText('lapsed: there is no thread any more')).toBeInTheDocument()
  })
})

it('the canvas of causes keeps what lies on a thread, and leaves out the rest', () => {
  const boxes = ['n/a', '@n/job', 'n/b', 'n/aside'].map((id) => ({ id, columns: ['x'] }))
  const wires = [
    { from: 'n/a', to: '@n/job' },
    { from: '@n/job', to: 'n/b' },
    { from: 'n/aside', to: 'n/b' },
  ]
  const thread = [{ from: 'n/a#x', to: 'n/b#x', job: '@n/job' }]
  const answer = { symptom: { ref: 'n/b#x' }, suspects: [{ ref: '@n/job', thread, unobserved: [] }] }
  const kept = relevantTo({ boxes, wires } as never, answer as never)
  expect(kept.boxes.map((box) => box.id)).toEqual(['n/a', '@n/job', 'n/b'])
  expect(kept.wires).toHaveLength(2)
})
