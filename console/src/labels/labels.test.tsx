import { fireEvent, screen, waitFor } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { showPage, stubService } from '../testPages'
import { LabelsPage } from './LabelsPage'

// Boxes are placed by a worker, which only a browser has.
vi.mock('./SpreadCanvas', () => ({ SpreadCanvas: () => <div /> }))

afterEach(() => vi.unstubAllGlobals())

const leak = {
  id: '1',
  label: 'personal',
  level: 3,
  ref: 'n/report',
  name: 'Payout',
  kind: 'report',
  system: 'n',
  state: 'open',
  certainty: 'certain',
  from: 'n/farm#iban',
  fromName: 'farm#iban',
  policy: { id: 'p', words: 'personal may not be in report' },
  readers: [],
  owners: [],
  thread: [],
  places: [],
}
const accepted = { by: 'ada', until: '2031-05-31', reason: 'agreed' }

describe('leaks', () => {
  const replies = {
    leaks: { items: [leak, { ...leak, id: '2', name: 'Old sheet', state: 'accepted', accepted }], total: 2 },
    labels: { items: [], total: 0 },
  }

  it('are open ones or accepted ones', async () => {
    stubService(replies)
    showPage(<LabelsPage />, '/labels')
    expect(await screen.findByText('Payout')).toBeInTheDocument()
    expect(screen.queryByText('Old sheet')).not.toBeInTheDocument()
    fireEvent.click(screen.getByText('Accepted'))
    expect(await screen.findByText('Old sheet')).toBeInTheDocument()
    expect(screen.getByText('agreed')).toBeInTheDocument()
    expect(screen.queryByText('Payout')).not.toBeInTheDocument()
  })

  it('are the open ones again after another tab', async () => {
    stubService(replies)
    showPage(<LabelsPage />, '/labels?state=accepted')
    expect(await screen.findByText('Old sheet')).toBeInTheDocument()
    fireEvent.click(screen.getByRole('tab', { name: 'By label' }))
    await waitFor(() => expect(screen.queryByText('Old sheet')).not.toBeInTheDocument())
    fireEvent.click(screen.getByRole('tab', { name: 'Leaks' }))
    expect(await screen.findByText('Payout')).toBeInTheDocument()
    expect(screen.getByLabelText('address')).not.toHaveTextContent('state')
  })
})
