import { fireEvent, screen, waitFor } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { showPage, stubService } from '../testPages'
import { ComparePage } from './ComparePage'

afterEach(() => vi.unstubAllGlobals())

const side = (at: string, words = at) => ({ at, words })

const found = {
  ref: 'n/t',
  from: side('2031-05-01T02:00:00Z'),
  to: side('2031-05-02T02:00:00Z', 'now'),
  summary: '1 asset changed, 2 columns renamed, 1 link added, 1 link removed.',
  assets: [
    {
      ref: 'n/t',
      name: 't',
      kind: 'table',
      change: 'changed',
      owners: ['Ada'],
      columns: [
        { name: 'volume_l', change: 'renamed', before: 'litres' },
        { name: 'day', change: 'retyped', before: 'text', after: 'date' },
      ],
    },
  ],
  links: [
    {
      change: 'added',
      from: 'n/b#x',
      to: 'n/t#x',
      flow: 'IDENTITY',
      how: 'copied',
      by: '@n/build',
      byName: 'build',
      at: '2031-05-02T01:00:00Z',
      version: 2,
      evidence: 'observed',
    },
    {
      change: 'removed',
      from: 'n/a#x',
      to: 'n/t#x',
      flow: 'IDENTITY',
      how: 'copied',
      by: '@n/build',
      byName: 'build',
      evidence: 'observed',
    },
  ],
  linksAdded: 1,
  linksRemoved: 1,
  code: [
    {
      job: '@n/build',
      name: 'build',
      language: 'sql',
      versionBefore: 1,
      versionAfter: 2,
      since: '2031-05-02T01:00:00Z',
      lines: [
        { change: 'same', before: 1, textBefore: 'select x', after: 1, textAfter: 'select x' },
        { change: 'changed', before: 2, textBefore: 'from a', after: 2, textAfter: 'from b' },
      ],
    },
  ],
}

describe('compare', () => {
  const address = '/compare?ref=n%2Ft&from=2031-05-01T02:00:00Z'

  it('says in one line what differs, then code, assets and links', async () => {
    stubService({ compare: found })
    showPage(<ComparePage />, address)
    expect(await screen.findByText(/1 asset changed, 2 columns renamed/)).toBeInTheDocument()
    expect(screen.getByText('from a', { exact: false })).toBeInTheDocument()
    expect(screen.getByText('from b', { exact: false })).toBeInTheDocument()
    expect(screen.getByText('volume_l')).toBeInTheDocument()
    expect(screen.getByText(/litres/)).toBeInTheDocument()
    expect(screen.getByRole('heading', { name: 'Links: 1 added, 1 removed' })).toBeInTheDocument()
    expect(screen.getByText('Ada')).toBeInTheDocument()
  })

  it('looks all the way, or as far as was chosen', async () => {
    const asked = stubService({ compare: found })
    showPage(<ComparePage />, address)
    await screen.findByText(/1 asset changed/)
    expect(asked.filter((url) => url.includes('/compare')).at(-1)).not.toContain('hops')
    fireEvent.mouseDown(screen.getByRole('combobox', { name: 'How far' }))
    fireEvent.click(await screen.findByText('2 hops'))
    await waitFor(() => expect(asked.filter((url) => url.includes('/compare')).at(-1)).toContain('hops=2'))
    expect(screen.getByLabelText('address')).toHaveTextContent('hops=2')
  })

  it('shows why there is no answer', async () => {
    const detail = 'more than 400000 links are reached; ask for fewer hops or one direction'
    stubService({ compare: { status: 400, body: { title: 'The request cannot be understood', detail } } })
    showPage(<ComparePage />, address)
    expect(await screen.findByText(detail, { exact: false })).toBeInTheDocument()
  })

  it('asks for an asset first', () => {
    const asked = stubService({ compare: found })
    showPage(<ComparePage />, '/compare')
    expect(screen.getByText('Name an asset or a job, and two moments.')).toBeInTheDocument()
    expect(asked.filter((url) => url.includes('/compare'))).toEqual([])
  })
})
