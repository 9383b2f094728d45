import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { AssetPage } from './asset/AssetPage'
import { CausesPage } from './causes/CausesPage'
import { FindPage } from './find/FindPage'
import { ImpactPage } from './impact/ImpactPage'
import { IntakePage } from './intake/IntakePage'
import { RunsPage } from './runs/RunsPage'
import { SignInPage } from './session/SignInPage'
import { showPage, stubService } from './testPages'

// Boxes are placed by a worker, which only a browser has.
vi.mock('./graph/LineageCanvas', () => ({ LineageCanvas: () => <div /> }))

afterEach(() => vi.unstubAllGlobals())

const hit = {
  ref: 'n/core.a',
  kind: 'table',
  name: 'a',
  system: 'barn',
  container: ['core'],
  description: 'All of a',
  owners: ['Warehouse'],
  labels: ['core'],
  retired: false,
  described: false,
  columns: ['fat'],
  score: 1,
}
const facets = { kind: { table: 1 }, system: { barn: 1 }, owner: {}, label: {} }

describe('find', () => {
  it('shows hits with what matched, and puts a chosen filter into the address', async () => {
    stubService({ search: { hits: [hit], total: 1, facets } })
    showPage(<FindPage />, '/find?q=fat')
    expect(await screen.findByText('1 asset for “fat”')).toBeInTheDocument()
    expect(screen.getByText(/columns: fat/)).toBeInTheDocument()
    expect(screen.getByText('only mentioned')).toBeInTheDocument()
    fireEvent.click(screen.getByRole('button', { name: /table/ }))
    await waitFor(() => expect(screen.getByLabelText('address')).toHaveTextContent('/find?q=fat&kind=table'))
  })

  it('says what to try when nothing matches', async () => {
    stubService({ search: { hits: [], total: 0, facets } })
    showPage(<FindPage />, '/find?q=nothing')
    expect(await screen.findByText(/No asset matches/)).toBeInTheDocument()
  })

  it('says that the service does not answer', async () => {
    vi.stubGlobal('fetch', () => Promise.reject(new Error('refused')))
    showPage(<FindPage />, '/find?q=x')
    expect((await screen.findAllByText('The service does not answer')).length).toBeGreaterThan(0)
  })
})

const asset = {
  ...hit,
  described: true,
  owners: [{ name: 'Warehouse', what: 'team', address: 'w@x.example' }],
  parts: ['n/core.a', 'n/other'],
  columns: [
    {
      name: 'fat_pct',
      ref: 'n/core.a#fat_pct',
      type: 'numeric',
      labels: ['personal'],
      inherited: [{ label: 'financial', title: 'Financial', how: 'inherited', from: 'n/raw.a#price' }],
      terms: [],
      listed: false,
      feeds: 2,
      constants: [],
      sources: [
        { ref: 'n/raw.a#fat', flow: 'TRANSFORMATION', how: 'computed', masking: true, jobs: ['@n/job'] },
      ],
    },
  ],
  freshness: { state: 'failed' },
  health: { state: 'failed', reason: 'its last run failed', notices: [] },
  checks: [
    { name: 'rows', passed: false, at: '2031-05-01T00:00:00Z', job: '@n/c', run: 'run:1', detail: 'found 0' },
  ],
  notices: [],
  evidence: { observed: 3, declared: 1 },
  upstream: [],
  downstream: [{ ref: 'n/r', name: 'The report', kind: 'report', system: 'bi', holds: true }],
  runs: [],
  versions: [],
  facets: [],
  details: [{ name: 'table format', value: 'iceberg' }],
  ties: [],
  formerly: [],
  values: [],
  terms: [],
  links: [],
  names: [],
  partCount: 2,
  folded: false,
}

describe('an asset', () => {
  it('says what it is, what it is merged from, and where its columns come from', async () => {
    stubService({ asset })
    showPage(<AssetPage />, '/asset?ref=n%2Fcore.a')
    expect(await screen.findByText('All of a')).toBeInTheDocument()
    expect(screen.getByText(/financial from raw\.a#price/).closest('a')).toHaveAttribute(
      'href',
      expect.stringContaining('n%2Fraw.a%23price'),
    )
    expect(screen.getByText('n/other')).toBeInTheDocument()
    expect(screen.getByText('1 failing')).toBeInTheDocument()
    expect(screen.getByRole('link', { name: 'Warehouse' })).toHaveAttribute('href', 'mailto:w@x.example')
    expect(screen.getByText(/computed, masked/)).toBeInTheDocument()
    expect(screen.getByText('unlisted')).toBeInTheDocument()
    expect(screen.getByText('No known sources')).toBeInTheDocument()
  })

  it('opens a tab by the address', async () => {
    const result = { at: '2031-05-01T00:00:00Z', status: 'fail', detail: 'found 0', run: 'run:1' }
    const check = { name: 'present', job: '@n/j', status: 'fail', content: 'select 1', results: [result] }
    stubService({ asset, checks: { ref: 'n/core.a', checks: [check] } })
    showPage(<AssetPage />, '/asset?ref=n%2Fcore.a&tab=checks')
    expect(await screen.findByText(/found 0/)).toBeInTheDocument()
    expect(screen.getAllByText('failed').length).toBeGreaterThan(1)
  })

  it('that is not known is reported with the nearest names', async () => {
    const body = {
      title: 'Nothing has this name',
      detail: 'x is not in the catalog',
      status: 404,
      nearest: ['n/y'],
    }
    stubService({ asset: { status: 404, body } })
    showPage(<AssetPage />, '/asset?ref=x')
    expect(await screen.findByText('x is not in the catalog')).toBeInTheDocument()
    expect(screen.getByRole('link', { name: 'n/y' })).toBeInTheDocument()
  })
})

const item = {
  ref: 'n/r',
  kind: 'report',
  name: 'The report',
  system: 'bi',
  verdict: 'breaks',
  verdicts: [{ verdict: 'breaks', certainty: 'possible' }],
  certainty: 'possible',
  hops: 2,
  thread: [],
  columns: [],
  owners: ['Payout office'],
  ownerAddresses: [],
  labels: [],
  terms: [],
  url: 'http://x/asset',
}
const impact = {
  of: 'n/a',
  change: 'drop',
  changes: [],
  summary: {
    verdicts: { breaks: 1, 'goes-stale': 0, 'values-shift': 0, 'rows-shift': 0 },
    kinds: {},
    owners: {},
  },
  items: [item],
  total: 1,
  untouched: {
    count: 1,
    certain: 0,
    items: [
      { ref: 'n/u', kind: 'table', name: 'u', hops: 1, certainty: 'possible', missing: 'half the map' },
    ],
  },
}

describe('impact', () => {
  it('lists verdicts with their doubt, and why untouched is not certain', async () => {
    stubService({ impact })
    showPage(<ImpactPage />, '/impact?ref=n%2Fa&change=drop')
    expect(await screen.findByText('The report')).toBeInTheDocument()
    expect(screen.getAllByText('(possible)').length).toBe(2)
    expect(screen.getByText('half the map')).toBeInTheDocument()
  })

  it('asks again with the verdict chosen', async () => {
    const asked = stubService({ impact })
    showPage(<ImpactPage />, '/impact?ref=n%2Fa&change=drop')
    fireEvent.click(await screen.findByRole('button', { name: /1\s*breaks/ }))
    await waitFor(() => expect(asked.some((url) => url.includes('verdict=breaks'))).toBe(true))
  })

  it('shows whom it concerns first, and lists only what is theirs when chosen', async () => {
    const group = {
      addresses: ['ada@farm.example'],
      items: 1,
      verdicts: { breaks: 1, 'goes-stale': 0, 'values-shift': 0, 'rows-shift': 0 },
      certain: 1,
      foremost: [],
    }
    const asked = stubService({
      impact: {
        ...impact,
        groups: [
          { ...group, name: 'Ada' },
          { ...group, addresses: [] },
        ],
      },
    })
    showPage(<ImpactPage />, '/impact?ref=n%2Fa&change=drop')
    expect(await screen.findByText('1 break · ada@farm.example')).toBeInTheDocument()
    expect(screen.getByRole('button', { name: /nobody owns these/ })).toBeDisabled()
    fireEvent.click(screen.getByRole('button', { name: /Ada/ }))
    await waitFor(() => expect(screen.getByLabelText('address')).toHaveTextContent('owner=Ada'))
    await waitFor(() => expect(asked.some((url) => url.includes('owner=Ada'))).toBe(true))
    fireEvent.click(screen.getByText('workspace'))
    await waitFor(() => expect(asked.some((url) => url.includes('groupBy=workspace'))).toBe(true))
  })

  it('waits for the new type of a retype', async () => {
    const asked = stubService({ impact })
    showPage(<ImpactPage />, '/impact?ref=n%2Fa%23x&change=retype')
    expect(await screen.findByText('Enter the new type to judge this change.')).toBeInTheDocument()
    expect(asked.filter((url) => url.includes('/impact'))).toHaveLength(0)
  })
})

describe('causes', () => {
  const incident = { kind: 'job', at: '2031-05-01T03:00:00Z', evidence: '', owners: [] }
  const suspect = {
    ...incident,
    ref: '@n/land',
    name: 'flow.land',
    what: 'missing',
    at: '2031-05-01T02:10:00Z',
    score: 0.75,
    parts: { kind: 1, time: 1, thread: 0.8, explains: 0.9, rarity: 1 },
    evidence: 'it runs every 24 h',
    thread: [],
    explains: [{ ...incident, ref: '@n/build', name: 'build', what: 'failed', error: 'boom' }],
    unobserved: [{ ref: 'n/drop', name: 'the drop', owners: [] }],
    affects: 3,
    affected: ['Payout'],
    toConfirm: 'Look at the drop.',
    toRuleOut: 'A newer run.',
  }
  const symptom = { ref: 'n/r', name: 'The report', kind: 'report', symptom: 'any', goodUntil: '' }
  const none = {
    symptom,
    at: '2031-05-01T06:00:00Z',
    suspects: [],
    suspectCount: 0,
    explained: [],
    changes: [],
  }

  it('show the suspect, why, whom to ask, and what follows from it', async () => {
    const follows = { ...suspect.explains[0], by: '@n/land' }
    stubService({ causes: { ...none, suspects: [suspect], explained: [follows] } })
    showPage(<CausesPage />, '/causes?ref=n%2Fr')
    const card = await screen.findByLabelText('Suspect 1')
    expect(within(card).getByText('did not run')).toBeInTheDocument()
    expect(within(card).getByText(/boom/)).toBeInTheDocument()
    expect(within(card).getByText(/Nothing reports what writes/)).toBeInTheDocument()
    expect(within(card).getByText(/Affects 3 assets downstream, among them Payout/)).toBeInTheDocument()
    expect(within(card).getByText(/To rule out: A newer run/)).toBeInTheDocument()
    expect(screen.getByLabelText('What deviated, in order')).toBeInTheDocument()
    expect(screen.getByText(/time of recovery is not known/)).toBeInTheDocument()
  })

  it('show the parts of a score on demand', async () => {
    stubService({ causes: { ...none, suspects: [suspect], suspectCount: 31 } })
    showPage(<CausesPage />, '/causes?ref=n%2Fr')
    fireEvent.click(await screen.findByRole('button', { name: 'Score 0.75' }))
    expect(await screen.findByText('share that it explains')).toBeInTheDocument()
    expect(screen.getByText(/30 more went wrong upstream/)).toBeInTheDocument()
    expect(screen.getByText('0.80')).toBeInTheDocument()
  })

  it('are asked for the symptom that is chosen', async () => {
    const asked = stubService({ causes: none })
    showPage(<CausesPage />, '/causes?ref=n%2Fr&symptom=late&good=2031-04-01T00:00:00Z')
    expect(await screen.findByText(/Nothing upstream failed/)).toBeInTheDocument()
    expect(asked.some((url) => url.includes('symptom=late') && url.includes('good='))).toBe(true)
  })

  it('list what changed and moved no figure', async () => {
    const change = {
      ...incident,
      ref: '@n/build',
      name: 'build',
      what: 'code-changed',
      evidence: 'version 2',
    }
    stubService({ causes: { ...none, changes: [change] } })
    showPage(<CausesPage />, '/causes?ref=n%2Fr')
    expect(await screen.findByText(/version 2/)).toBeInTheDocument()
  })
})

describe('runs and intake', () => {
  it('runs that match nothing say when they appear', async () => {
    stubService({ runs: { runs: [], states: {} }, search: { hits: [], total: 0, facets } })
    showPage(<RunsPage />, '/runs?state=failed')
    expect(await screen.findByText(/No run matches/)).toBeInTheDocument()
  })

  const intake = {
    received: 2,
    applied: 1,
    duplicates: 0,
    refused: 1,
    waiting: 3,
    lagSeconds: 1.25,
    graphChange: 1,
    applying: true,
    minutes: [{ minute: new Date().toISOString(), emitter: 'nightshift', events: 7 }],
    recent: [],
    refusals: [],
  }

  it('an empty intake says where to begin, and shows rate and lag', async () => {
    stubService({ intake })
    showPage(<IntakePage />, '/intake')
    expect(await screen.findByText(/No event has come in yet/)).toBeInTheDocument()
    expect(screen.getByText('3, 1.3 s')).toBeInTheDocument()
    expect(screen.getByRole('figure', { name: /7 events in the last hour/ })).toBeInTheDocument()
  })

  it('an intake without its database says since when', async () => {
    stubService({ intake: { ...intake, unreachableSince: '2031-05-01T00:00:00Z' } })
    showPage(<IntakePage />, '/intake')
    expect(await screen.findByText(/Database unreachable since/)).toBeInTheDocument()
  })

  it('a refusal shows its reason and can be tried again', async () => {
    const refusal = {
      id: 1,
      receivedAt: '2031-05-01T00:00:00Z',
      problem: 'bad-time',
      reason: 'write an offset',
    }
    stubService({
      intake,
      'intake/refused': { refusals: [refusal], problems: { 'bad-time': 1 }, total: 1 },
      'intake/refused/1/retry': { tried: 1, accepted: 1, refused: [], receipt: '7' },
    })
    showPage(<IntakePage />, '/intake?tab=refused')
    expect(await screen.findByText('write an offset')).toBeInTheDocument()
    fireEvent.click(screen.getByRole('button', { name: 'Retry' }))
    expect(await screen.findByText('1 of 1 accepted now')).toBeInTheDocument()
  })

  it('an emitter that is silent stands out', async () => {
    stubService({
      intake,
      'intake/emitters': {
        overdue: 1,
        emitters: [
          {
            producer: 'https://e.example/2',
            namespace: 'nightshift',
            version: '2.3',
            firstEvent: '2031-05-01T00:00:00Z',
            lastEvent: '2031-05-01T00:00:00Z',
            lastReceived: '2031-05-01T00:00:00Z',
            events: 12,
            usualRest: 86_400,
            overdueSince: '2031-05-02T13:00:00Z',
          },
        ],
      },
    })
    showPage(<IntakePage />, '/intake?tab=emitters')
    expect(await screen.findByText(/is silent for longer/)).toBeInTheDocument()
    expect(screen.getByText('24 h')).toBeInTheDocument()
  })

  it('an opened event shows its facts and which of them are current', async () => {
    stubService({
      intake,
      'intake/event': {
        id: '4.0',
        receivedAt: '2031-05-01T00:00:00Z',
        bytes: 2,
        body: '{}',
        type: 'COMPLETE',
        farFuture: false,
        producer: 'p',
        job: '@n/j',
        inputs: [],
        outputs: ['n/core.a'],
        links: [{ from: 'n/core.b#x', to: 'n/core.a#x', flow: 'IDENTITY', how: 'copied', masking: false }],
        facets: [{ about: 'n/core.a', role: 'dataset', key: 'schema', current: false }],
        touched: ['n/core.a'],
        changed: ['new dataset core.a'],
        warnings: ["an object has the member 'x' more than once; the last value counts"],
      },
    })
    showPage(<IntakePage />, '/intake?event=4.0')
    expect(await screen.findByText('new dataset core.a')).toBeInTheDocument()
    expect(screen.getByText(/Warning: an object has the member/)).toBeInTheDocument()
    fireEvent.click(screen.getByRole('tab', { name: /Facts/ }))
    expect(await screen.findByText('superseded')).toBeInTheDocument()
  })
})

describe('signing in', () => {
  it('says why it failed', async () => {
    stubService({ session: { status: 401, body: { title: 'no', detail: 'check both', status: 401 } } })
    showPage(<SignInPage />, '/')
    fireEvent.change(screen.getByLabelText('Name'), { target: { value: 'ida' } })
    fireEvent.change(screen.getByLabelText('Password'), { target: { value: 'guess' } })
    fireEvent.click(screen.getByRole('button', { name: 'Sign in' }))
    expect(await screen.findByText('check both')).toBeInTheDocument()
  })
})
