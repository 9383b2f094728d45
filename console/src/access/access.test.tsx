import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { expect, test } from 'vitest'
import { showPage, stubService } from '../testPages'
import { AccessPage } from './AccessPage'

const session = { signedIn: true, name: 'root', displayName: 'Root', role: 'admin' }

const ADA = {
  name: 'ada',
  displayName: 'Ada Hollin',
  role: 'reader',
  createdAt: '2026-11-01T08:00:00Z',
  lastSignInAt: '2026-11-20T08:00:00Z',
}

test('accounts show who may sign in, and disabling asks the service', async () => {
  const asked = stubService({
    session,
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
    session,
    accounts: { items: [ADA], total: 1 },
    'accounts?name': { status: 409, body: { title: 'x', detail: "'ada' is the only administrator" } },
  })
  showPage(<AccessPage />, '/access')
  await userEvent.click(await screen.findByRole('button', { name: 'Disable' }))
  expect(await screen.findByText(/the only administrator/)).toBeInTheDocument()
})

test('the token of a new key is shown once, and a key is revoked by its number', async () => {
  const asked = stubService({
    session,
    keys: [{ id: 7, name: 'a/b', role: 'emitter', createdAt: '2026-11-01T08:00:00Z' }],
  })
  showPage(<AccessPage />, '/access?tab=keys')
  await userEvent.click(await screen.findByRole('button', { name: 'Revoke' }))
  const confirm = await screen.findAllByRole('button', { name: 'Revoke' })
  await userEvent.click(confirm[confirm.length - 1] as HTMLElement)
  await waitFor(() => expect(asked).toContain('/api/v1/keys?id=7'))
})

test('an auditor reads the log and has no accounts to change', async () => {
  const asked = stubService({
    session: { ...session, role: 'auditor' },
    'audit/actions': { items: ['preview', 'makeKey'] },
    audit: {
      items: [
        {
          id: 9,
          at: '2026-11-01T08:00:00Z',
          who: 'ida',
          role: 'reader',
          byKey: false,
          address: '10.0.0.1',
          action: 'preview',
          about: 'postgres://barn:5432/barn.core.farm',
          outcome: 'refused',
          detail: 'status 403',
          times: 4,
        },
      ],
      cursor: 'b9',
    },
  })
  showPage(<AccessPage />, '/access')
  expect(await screen.findByText('ida')).toBeInTheDocument()
  expect(screen.getByText('refused × 4')).toBeInTheDocument()
  expect(screen.getByText('core.farm')).toBeInTheDocument()
  expect(screen.queryByText('Accounts of people')).not.toBeInTheDocument()
  await userEvent.click(screen.getByRole('button', { name: 'Show more' }))
  await waitFor(() => expect(asked.some((url) => url.includes('cursor=b9'))).toBe(true))
})

test('who signs in at the provider has no password and no role to set here', async () => {
  stubService({
    session,
    accounts: { items: [{ ...ADA, provider: 'https://id.example' }], total: 1 },
  })
  showPage(<AccessPage />, '/access')
  expect(await screen.findByText('reader (by the provider)')).toBeInTheDocument()
  expect(screen.queryByRole('button', { name: 'Set password' })).not.toBeInTheDocument()
})

const GRANT = {
  id: 4,
  holderKind: 'group',
  holder: 'payments',
  role: 'reader',
  scope: 'workspace',
  value: 'Farm Payments',
  grantedBy: 'root',
  grantedAt: '2026-11-01T08:00:00Z',
}

test('grants say who may do what where, and are ended by their number', async () => {
  const asked = stubService({
    session,
    grants: { items: [GRANT], total: 1 },
    groups: { items: [], total: 0 },
    accounts: { items: [ADA], total: 1 },
    keys: [],
    search: {
      hits: [],
      total: 0,
      restricted: 0,
      facets: { kind: {}, system: { barn: 3 }, owner: {}, label: {} },
    },
  })
  showPage(<AccessPage />, '/access?tab=grants')
  expect(await screen.findByText('Farm Payments')).toBeInTheDocument()
  expect(screen.getByText('payments')).toBeInTheDocument()
  await userEvent.click(screen.getByRole('button', { name: 'Give grant' }))
  expect((await screen.findAllByText('It is needed')).length).toBe(2)
  await userEvent.click(screen.getByRole('button', { name: 'End' }))
  await userEvent.click(await screen.findByRole('button', { name: 'End grant' }))
  await waitFor(() => expect(asked).toContain('/api/v1/grants?id=4'))
})

test('a group shows whom it has from where, and is made by a name', async () => {
  const asked = stubService({
    session,
    groups: {
      items: [{ name: 'payments', title: 'Payout office', members: ['ida'], fromProvider: ['cass'] }],
      total: 1,
    },
    accounts: { items: [ADA], total: 1 },
  })
  showPage(<AccessPage />, '/access?tab=groups')
  expect(await screen.findByText('ida')).toBeInTheDocument()
  expect(screen.getByText('cass (by the provider)')).toBeInTheDocument()
  await userEvent.type(screen.getByLabelText('Name of the group'), 'cellar')
  await userEvent.click(screen.getByRole('button', { name: 'Make group' }))
  await waitFor(() => expect(asked.filter((url) => url === '/api/v1/groups').length).toBeGreaterThan(0))
})
