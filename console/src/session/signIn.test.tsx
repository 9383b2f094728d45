import { screen } from '@testing-library/react'
import { expect, test } from 'vitest'
import { showPage, stubService } from '../testPages'
import { SignInPage } from './SignInPage'

test('the way to the provider comes back to the page that was asked for', () => {
  stubService({})
  showPage(<SignInPage provider="Hollin Vale" />, '/labels?tab=work')
  const way = screen.getByRole('link', { name: 'Sign in with Hollin Vale' })
  expect(way).toHaveAttribute('href', 'api/v1/session/provider?target=%2Flabels%3Ftab%3Dwork')
})

test('a refusal of the provider is shown in words, and only one that is known', () => {
  stubService({})
  showPage(<SignInPage provider="Hollin Vale" />, '/?refused=no-role')
  expect(screen.getByText(/None of your groups may use this catalog/)).toBeInTheDocument()
})

test('without a provider there is a name and a password', () => {
  stubService({})
  showPage(<SignInPage />, '/?refused=call%20this%20number')
  expect(screen.queryByRole('link')).not.toBeInTheDocument()
  expect(screen.queryByText(/call this number/)).not.toBeInTheDocument()
  expect(screen.getByRole('button', { name: 'Sign in' })).toBeInTheDocument()
})
