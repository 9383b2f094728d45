import { describe, expect, it } from 'vitest'
import { ago, assetPath, count, duration, isJob, pause, shortRef, spoken, stepsPath } from './format'

describe('words for people', () => {
  it('say how long ago in one unit', () => {
    const now = Date.parse('2031-05-10T12:00:00Z')
    expect(ago('2031-05-10T11:59:50Z', now)).toBe('a few seconds ago')
    expect(ago('2031-05-10T11:20:00Z', now)).toBe('40 minutes ago')
    expect(ago('2031-05-10T02:00:00Z', now)).toBe('10 hours ago')
    expect(ago('2031-05-01T12:00:00Z', now)).toBe('9 days ago')
    expect(ago('2031-05-11T12:00:00Z', now)).toBe('in a day')
    expect(ago(undefined, now)).toBe('never')
  })

  it('shorten references to what is enough', () => {
    expect(shortRef('postgres://h:5432/barn.mart.payout#amount')).toBe('mart.payout#amount')
    expect(shortRef('s3://lake/landed/pickup')).toBe('pickup')
    expect(shortRef('n/t#%2E%2E/shelf')).toBe('t#../shelf')
  })

  it('leave out what is not known', () => {
    expect(duration(undefined)).toBe('–')
    expect(duration(75)).toBe('1 min 15 s')
    expect(count(undefined)).toBe('–')
    expect(count(1234)).toBe('1,234')
  })

  it('say a machine’s word as people do', () => {
    expect(spoken('goes-stale')).toBe('goes stale')
    expect(spoken('GROUP_BY')).toBe('group by')
  })

  it('give a duration and a pause in a unit that fits', () => {
    expect(duration(0.00042)).toBe('420 µs')
    expect(duration(0)).toBe('0 s')
    expect(duration(12.34)).toBe('12.3 s')
    expect(pause(600)).toBe('10 min')
    expect(pause(86_400)).toBe('24 h')
    expect(pause(604_800)).toBe('7 days')
    expect(pause(undefined)).toBe('too few events')
  })
})

describe('addresses', () => {
  it('keep a reference whole and leave a column off', () => {
    expect(assetPath('postgres://h/a#b')).toBe('/asset?ref=postgres%3A%2F%2Fh%2Fa')
    expect(stepsPath('@n/j', 'n/a#x y')).toBe('/asset?ref=%40n%2Fj&tab=steps&column=x%20y')
    expect(isJob('@n/j')).toBe(true)
    expect(isJob('n/a')).toBe(false)
  })
})
