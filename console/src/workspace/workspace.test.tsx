import { fireEvent, screen, within } from '@testing-library/react'
import { Route, Routes } from 'react-router'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { showPage, stubService } from '../testPages'
import { WorkspacePage } from './WorkspacePage'

const NS = 'tool://here/w/'

function box(id: string, layer: string, over: object = {}) {
  return {
    ref: NS + id,
    kind: layer === 'pages' ? 'report' : 'model',
    layer,
    depth: 0,
    name: id,
    system: 'tool',
    matched: true,
    connections: [],
    reuses: false,
    copies: true,
    owners: ['Ada'],
    affectedBy: [],
    ...over,
  }
}

const WORKSPACE = {
  ref: 'tool://here/w',
  id: 'w',
  title: 'Payments',
  system: 'tool',
  owners: ['Ada'],
  tags: [],
  describedAt: '2026-11-26T04:00:00Z',
  relays: [{ id: 'r', title: 'Relay One' }],
  connections: [{ id: 'c', title: 'Barn', kind: 'postgresql', through: 'r' }],
  boxes: [
    box('table', 'sources', { kind: 'table', system: 'barn', connections: ['c'], matched: false }),
    box('other', 'sources', { workspace: 'Elsewhere', workspaceRef: 'tool://here/e' }),
    box('good', 'models'),
    box('bad', 'models', {
      refresh: { state: 'failed', startedAt: '2026-11-26T03:00:00Z', error: 'no answer', job: '@j' },
    }),
    box('page', 'pages', { affectedBy: [`${NS}bad`] }),
  ],
  lines: [
    { from: `${NS}table`, to: `${NS}bad`, holds: false },
    { from: `${NS}other`, to: `${NS}good`, holds: false },
    { from: `${NS}bad`, to: `${NS}page`, holds: true },
  ],
}

function open(more = '') {
  showPage(
    <Routes>
      <Route path="/workspace" element={<WorkspacePage />} />
    </Routes>,
    `/workspace?ref=tool://here/w${more}`,
  )
}

describe('the page of a workspace', () => {
  beforeEach(() => {
    vi.stubGlobal(
      'ResizeObserver',
      class {
        observe() {}
        disconnect() {}
      },
    )
    stubService({ 'workspace?': WORKSPACE, workspaces: { items: [] } })
  })
  afterEach(() => vi.unstubAllGlobals())

  it('says at its head what failed and how much rests on it', async () => {
    open()
    expect(await screen.findByText(/bad failed to refresh; 1 rest on it/)).toBeInTheDocument()
    expect(screen.getByText('barn · not matched')).toBeInTheDocument()
    expect(screen.getByText('workspace Elsewhere')).toBeInTheDocument()
  })

  it('narrows picture and list to the thread of a chosen item, with what was set aside', async () => {
    open()
    fireEvent.click(await screen.findByLabelText('report page'))
    expect(screen.queryByLabelText('model good')).toBeNull()
    expect(screen.getByLabelText('model bad')).toBeInTheDocument()
    expect(screen.getByText('2 set aside')).toBeInTheDocument()
    expect(screen.getByText('List (3)')).toBeInTheDocument()
    const side = screen.getByRole('complementary', { name: 'The picked item' })
    expect(within(side).getByText('Rests on: bad')).toBeInTheDocument()
    fireEvent.click(screen.getByRole('button', { name: 'Show all' }))
    expect(screen.getByLabelText('model good')).toBeInTheDocument()
  })

  it('follows into another workspace, and tells why a refresh failed', async () => {
    open(`&pick=${encodeURIComponent(`${NS}other`)}`)
    expect((await screen.findByText('Open Elsewhere')).closest('a')).toHaveAttribute(
      'href',
      `/workspace?ref=tool%3A%2F%2Fhere%2Fe&pick=${encodeURIComponent(`${NS}other`)}`,
    )
  })

  it('shows the reason of a failed refresh and the relay of a source', async () => {
    open(`&pick=${encodeURIComponent(`${NS}bad`)}`)
    expect(await screen.findByText(/no answer/)).toBeInTheDocument()
    fireEvent.click(screen.getByLabelText('table table'))
    expect(await screen.findByText(/through Relay One/)).toBeInTheDocument()
  })

  it('filters by what is in trouble or not matched, and has a list', async () => {
    open('&only=trouble&form=list')
    expect(await screen.findByText('rests on a failed refresh')).toBeInTheDocument()
    expect(screen.queryByText('good')).toBeNull()
  })
})
