import { fireEvent, screen, waitFor } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { leads } from '../asset/ByHand'
import { ConnectPage } from '../connect/ConnectPage'
import { trendWords } from '../coverage/BySystem'
import { CoveragePage } from '../coverage/CoveragePage'
import { GlossaryPage } from '../glossary/GlossaryPage'
import { endOf } from '../graph/edges'
import { showPage, stubService } from '../testPages'
import { changesOf } from './EditDialog'
import { lastDay } from './RecordedTable'

const steward = { signedIn: true, name: 'ruth', displayName: 'Ruth', role: 'steward' }
const reader = { ...steward, role: 'reader' }

describe('the edit dialog', () => {
  it('sets only what was changed', () => {
    const before = { description: 'a', owners: ['team:x'], tags: [], terms: ['t'], links: '' }
    expect(changesOf('n/a', before, { ...before })).toEqual([])
    expect(
      changesOf('n/a', before, {
        ...before,
        description: ' ',
        owners: ['team:y'],
        terms: [],
        links: 'Hand book https://w.example/x',
      }),
    ).toEqual([
      { set: 'description', of: 'n/a', value: null },
      { set: 'owners', of: 'n/a', value: ['team:y'] },
      { set: 'terms', of: 'n/a', value: null },
      { set: 'links', of: 'n/a', value: [{ title: 'Hand book', url: 'https://w.example/x' }] },
    ])
  })
})

describe('a line drawn in the graph', () => {
  it('ends at the column it was drawn from, else at the box', () => {
    expect(endOf('n/a', 'out#fat')).toBe('n/a#fat')
    expect(endOf('n/a', 'out')).toBe('n/a')
  })
})

describe('the end of a record', () => {
  it('is the last day on which it holds', () => {
    expect(lastDay('2027-04-01T00:00:00Z')).toBe('2027-03-31')
    expect(lastDay(undefined)).toBe('no end')
  })
})

describe('who says what', () => {
  it('counts the values of the first source', () => {
    const value = (source: string) => ({ what: 'owners', column: '', texts: ['x'], source })
    const all = [value('hand'), value('emitter')]
    expect(leads(all, all[0])).toBe(true)
    expect(leads(all, all[1])).toBe(false)
  })
})

describe('the trend of coverage', () => {
  it('is told in points since the oldest day', () => {
    const day = { day: '2026-09-01', assets: 10, columnLevel: 3, tableLevel: 2, noLineage: 5 }
    expect(trendWords({ share: 0.7, trend: [day] })).toBe('+20 points')
    expect(trendWords({ share: 0.5, trend: [day] })).toBe('as before')
    expect(trendWords({ share: 0.5, trend: [] })).toBe('–')
  })
})

const spot = {
  id: 'never-written:n/a',
  kind: 'never-written',
  ref: 'n/a',
  name: 'core.price',
  system: 'barn',
  why: 'It is read, and nothing is known to write it.',
  owners: [],
  rests: 18,
  action: 'connect',
}

describe('blind spots', () => {
  const lists = {
    'blind-spots': { items: [spot], total: 1, counts: { 'never-written': 1 } },
  }
  it('are set aside with a reason by whoever may', async () => {
    const asked = stubService({ ...lists, session: steward, statements: { changes: [], conflicts: [] } })
    showPage(<CoveragePage />, '/coverage')
    fireEvent.click(await screen.findByRole('button', { name: 'Set aside' }))
    fireEvent.change(await screen.findByPlaceholderText(/people type it in/), {
      target: { value: 'typed by hand' },
    })
    fireEvent.click(screen.getAllByRole('button', { name: 'Set aside' }).slice(-1)[0])
    await waitFor(() => expect(asked.some((url) => url.includes('/statements'))).toBe(true))
  })
  it('are only shown to a reader', async () => {
    stubService({ ...lists, session: reader })
    showPage(<CoveragePage />, '/coverage')
    expect(await screen.findByText('core.price')).toBeInTheDocument()
    expect(screen.queryByRole('button', { name: 'Set aside' })).toBeNull()
  })
})

describe('the connect page', () => {
  it('gives settings and waits for the first event', async () => {
    stubService({
      session: steward,
      'connections/key': {
        name: 'night',
        accepted: 2,
        refused: 1,
        refusal: 'eventTime is missing',
        events: [{ id: '1.0', receivedAt: '', type: 'START', about: '@n/j', changed: ['new job j'] }],
      },
      connections: { items: [], kind: 'http', name: 'night', settings: [{ title: 'Paste', text: 'key' }] },
    })
    showPage(<ConnectPage />, '/connect?kind=http')
    fireEvent.change(await screen.findByLabelText('Name of the connection'), { target: { value: 'night' } })
    fireEvent.click(screen.getByRole('button', { name: 'Get a key and settings' }))
    expect(await screen.findByText('Paste')).toBeInTheDocument()
    expect(await screen.findByText('night is connected: 2 events came in')).toBeInTheDocument()
    expect(screen.getByText('eventTime is missing')).toBeInTheDocument()
    expect(screen.getByText('new job j')).toBeInTheDocument()
  })
})

describe('the glossary', () => {
  it('shows the tree and the first term', async () => {
    const term = { id: 'v', name: 'Volume', path: ['Volume'], owners: [], synonyms: ['litres'], uses: 1 }
    stubService({
      session: reader,
      terms: { items: [term] },
      'suggestions/terms': { items: [] },
      term: { term: { ...term, definition: 'How much' }, below: [], uses: [] },
    })
    showPage(<GlossaryPage />, '/glossary')
    expect(await screen.findByText('How much')).toBeInTheDocument()
    expect(screen.getByText('Also called litres')).toBeInTheDocument()
    expect(screen.queryByRole('button', { name: 'Define a term' })).toBeNull()
  })
})
