import { screen } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { showPage, stubService } from '../testPages'
import { ReaderPage } from './ReaderPage'

const FIELD = {
  ref: 'tool://here/w/chart/c#paid',
  kind: 'chart',
  name: 'paid',
  place: 'Money, Board Room (tool)',
  definition: 'All money paid',
  definedAt: 'Money model',
  owners: [{ name: 'Ada', what: 'person', role: 'OWNER' }],
  freshAt: '2026-11-26T04:00:00Z',
  warnings: ['The last load of “Money model” failed: no answer'],
  fields: [],
  more: 0,
  stops: [
    {
      ref: 'tool://here/w/model/m#paid',
      name: 'paid',
      place: 'Money model',
      kind: 'model',
      where: 'Board Room (tool)',
      hops: 1,
      sentence: 'In “Money model”, paid is summarised from amount of “lines.csv”.',
      calculation: 'sum of amount',
      isRenamed: false,
      isCapture: false,
    },
    {
      ref: 'file://x/lines.csv#amount',
      name: 'amount',
      place: 'lines.csv',
      kind: 'file',
      where: 'x',
      hops: 2,
      sentence: 'amount is captured in “lines.csv” of x.',
      isRenamed: true,
      isCapture: true,
    },
  ],
}

describe('the page for readers', () => {
  afterEach(() => vi.unstubAllGlobals())

  it('gives the meaning first, then warnings, then the way with its names', async () => {
    stubService({ reader: FIELD })
    showPage(<ReaderPage />, `/reader?ref=${encodeURIComponent(FIELD.ref)}`)
    expect(await screen.findByText('All money paid')).toBeInTheDocument()
    expect(screen.getByText('(as described at Money model)')).toBeInTheDocument()
    expect(screen.getByText(/The last load of/)).toBeInTheDocument()
    expect(screen.getByText('sum of amount')).toBeInTheDocument()
    expect(screen.getByText(/called/)).toHaveTextContent('called amount here')
    expect(screen.getByRole('link', { name: 'Full graph' })).toHaveAttribute(
      'href',
      `/graph?ref=${encodeURIComponent(FIELD.ref)}`,
    )
    expect(screen.getByRole('link', { name: 'all its fields' })).toHaveAttribute(
      'href',
      '/reader?ref=tool%3A%2F%2Fhere%2Fw%2Fchart%2Fc',
    )
  })

  it('says so when nobody wrote down what it means', async () => {
    stubService({ reader: { ...FIELD, definition: undefined, definedAt: undefined, warnings: [] } })
    showPage(<ReaderPage />, `/reader?ref=${encodeURIComponent(FIELD.ref)}`)
    expect(await screen.findByText(/Nobody has written down/)).toBeInTheDocument()
  })
})
