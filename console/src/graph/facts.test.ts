import { describe, expect, it } from 'vitest'
import { factLines } from './facts'
import type { Box } from './picture'

const BOX = {
  owners: ['Ada', 'Ben'],
  labels: [],
  terms: ['mart'],
  written: undefined,
  rows: 1200,
  checks: 3,
  failedChecks: 1,
  description: 'What farms are paid',
} as unknown as Box

describe('facts on a box', () => {
  it('are those asked for, in their order, without those it has not', () => {
    expect(factLines(BOX, ['row counts', 'freshness', 'checks', 'owner'])).toEqual([
      '1,200 rows',
      '1 of 3 checks failed',
      'Ada, Ben',
    ])
    expect(factLines({ ...BOX, failedChecks: 0, checks: 1 }, ['checks', 'terms'])).toEqual([
      '1 check passed',
      'mart',
    ])
    expect(factLines(BOX, [])).toEqual([])
  })
})
