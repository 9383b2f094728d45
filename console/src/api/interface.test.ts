import { createConfig, lint } from '@redocly/openapi-core'
import { expect, test } from 'vitest'

// The service's own tests hold that this file is what the service publishes.
const DESCRIPTION = 'openapi.json'

test('the published description keeps every rule of the strict set', async () => {
  // No licence has been chosen yet; all other rules hold.
  const config = await createConfig({ extends: ['recommended-strict'], rules: { 'info-license': 'off' } })
  const problems = await lint({ ref: DESCRIPTION, config })
  expect(problems.map((p) => `${p.location[0]?.pointer}: ${p.message}`)).toEqual([])
}, 30_000)
