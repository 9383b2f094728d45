import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { expect, test } from 'vitest'
import { showPage, stubService } from '../testPages'
import { AccessPage } from './AccessPage'

const ADA = {
  name: 'ada',
  displayName: 'Ada Hollin',
  role: 'reader',
  createdAt: '2026-11-01T08:00:00Z',
  lastSignInAt: '2026-11-20T08:00:00Z',
}

test('accounts show who may sign in, and disabling asks the service', async () => {
  const asked = stubService({
    accounts: { items: [ADA, { ...ADA, name: 'ben', disabledAt: '2026-11-10T08:00:00Z' }], total: 2 },
  })
  showPage(<AccessPage />, '/access')
  expect(await screen.findByText('ada')).toBeInTheDocument()
  expect(screen.getByText(/^disabled/)).toBeInTheDocument()
  expect(screen.getByText('may sign in')).toBeInTheDocument()
  await userEvent.click(screen.getByRole('button', { name: 'Disable' }))
  await waitFor(() => expect(asked).toContain('/api/v1/accounts?name=ada'))
})

test('what the service refuses is shown in its words', async () => {
  stubService({
    accounts: { items: [ADA], total: 1 },
    'accounts?name': { status: 409, body: { title: 'x', detail: "'ada' is the only administrator" } },
  })
  showPage(<AccessPage />, '/access')
  await userEvent.click(await screen.findByRole('button', { name: 'Disable' }))
  expect(await screen.findByText(/the only administrator/)).toBeInTheDocument()
})

test('the token of a new key is shown once, and a key is revoked by its number', async () => {
  const asked = stubService({
    keys: [{ id: 7, name: 'a/b', role: 'emitter', createdAt: '2026-11-01T08:00:00Z' }],
  })
  showPage(<AccessPage />, '/access?tab=keys')
  await userEvent.click(await screen.findByRole('button', { name: 'Revoke' }))
  const confirm = await screen.findAllByRole('button', { name: 'Revoke' })
  await userEvent.click(confirm[confirm.length - 1] as HTMLElement)
  await waitFor(() => expect(asked).toContain('/api/v1/keys?id=7'))
})
