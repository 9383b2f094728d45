import { describe, expect, it } from 'vitest'
import { withQuery } from '../api/client'
import { ago, assetPath, count, duration, flowWords, shortRef } from './format'

describe('words for people', () => {
  it('tell how long ago in one unit', () => {
    const now = Date.parse('2031-05-10T12:00:00Z')
    expect(ago('2031-05-10T11:59:50Z', now)).toBe('just now')
    expect(ago('2031-05-10T11:20:00Z', now)).toBe('40 min ago')
    expect(ago('2031-05-10T02:00:00Z', now)).toBe('10 h ago')
    expect(ago('2031-05-01T12:00:00Z', now)).toBe('9 days ago')
    expect(ago('2031-05-11T12:00:00Z', now)).toBe('in the future')
    expect(ago(undefined, now)).toBe('never')
  })

  it('shorten references to what is enough', () => {
    expect(shortRef('postgres://h:5432/barn.mart.payout#amount')).toBe('mart.payout#amount')
    expect(shortRef('s3://lake/landed/pickup')).toBe('pickup')
  })

  it('leave out what is not known', () => {
    expect(duration(undefined)).toBe('–')
    expect(duration(75)).toBe('1 min 15 s')
    expect(count(undefined)).toBe('–')
    expect(count(1234)).toBe('1,234')
  })

  it('name flows plainly, also those not heard of', () => {
    expect(flowWords('AGGREGATION')).toBe('aggregated')
    expect(flowWords('TELEPATHY')).toBe('telepathy')
  })
})

describe('addresses', () => {
  it('keep a reference whole and leave a column off', () => {
    expect(assetPath('postgres://h/a#b')).toBe('/asset?ref=postgres%3A%2F%2Fh%2Fa')
    expect(withQuery('/x', { a: 'b c', none: undefined, empty: '', zero: 0 })).toBe('/x?a=b+c&zero=0')
  })
})
