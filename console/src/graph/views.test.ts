import { describe, expect, it } from 'vitest'
import { defaultsFor, nameOf, type SavedView, SHIPPED } from './views'

function view(name: string, over: Partial<SavedView> = {}): SavedView {
  return {
    name,
    owner: 'ada',
    mine: false,
    shared: true,
    settings: { detail: name },
    defaultFor: ['table'],
    changedAt: '2026-11-26T10:00:00Z',
    ...over,
  }
}

describe('saved views', () => {
  it('one of one’s own goes before a shared one, for its kinds only', () => {
    const views = [view('theirs'), view('mine', { mine: true }), view('other', { defaultFor: ['chart'] })]
    expect(defaultsFor(views, 'table')).toEqual({ detail: 'mine' })
    expect(defaultsFor(views, 'chart')).toEqual({ detail: 'other' })
    expect(defaultsFor(views, 'job')).toEqual({})
    expect(defaultsFor(views, undefined)).toEqual({})
  })

  it('a choice is known by its settings, until one is changed', () => {
    const overview = SHIPPED[0].settings
    expect(nameOf(SHIPPED, { ...overview, hops: '3' })).toBe('Overview')
    expect(nameOf(SHIPPED, { ...overview, detail: 'columns' })).toBeUndefined()
  })
})
