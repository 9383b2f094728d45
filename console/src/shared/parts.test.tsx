import { render, screen } from '@testing-library/react'
import { MemoryRouter } from 'react-router'
import { describe, expect, it } from 'vitest'
import { ProblemError } from '../api/client'
import { grown } from '../find/BrowseTree'
import { ProblemNotice } from './Answer'
import { StateMark, VerdictMark } from './marks'
import { ThreadPath } from './ThreadPath'

const hop = { from: 'n/a#x', to: 'n/b#x', flow: 'AGGREGATION', masking: true, fromName: 'a#x', toName: 'b#x' }

describe('a thread', () => {
  it('is read step by step with what was done', () => {
    render(
      <MemoryRouter>
        <ThreadPath hops={[hop]} />
      </MemoryRouter>,
    )
    expect(screen.getByRole('list', { name: 'thread' })).toHaveTextContent('a#x―aggregated, masked→b#x')
    expect(screen.getAllByRole('link')[0]).toHaveAttribute('href', '/asset?ref=n%2Fa')
  })

  it('of no hops says so', () => {
    render(<ThreadPath hops={[]} />)
    expect(screen.getByText(/the place itself/)).toBeInTheDocument()
  })
})

describe('marks', () => {
  it('tell state and verdict by words, not by colour alone', () => {
    render(
      <>
        <StateMark state="failed" />
        <VerdictMark verdict="breaks" certainty="possible" />
      </>,
    )
    expect(screen.getByText('failed')).toBeInTheDocument()
    expect(screen.getByText('breaks')).toHaveTextContent('possibly')
  })
})

describe('a problem', () => {
  it('is shown in the service’s words with the names that may be meant', () => {
    const error = new ProblemError({
      type: '/problems/ambiguous-reference',
      title: 'Several things have this name',
      status: 409,
      detail: 'write more of its beginning',
      candidates: ['n/one', 'n/two'],
    })
    render(
      <MemoryRouter>
        <ProblemNotice error={error} />
      </MemoryRouter>,
    )
    expect(screen.getByText('write more of its beginning')).toBeInTheDocument()
    expect(screen.getByRole('link', { name: 'n/two' })).toHaveAttribute('href', '/?ref=n%2Ftwo')
  })
})

describe('the tree of places', () => {
  it('takes children under one node and leaves the others', () => {
    const tree = [{ key: 'a', children: [{ key: 'b' }] }, { key: 'c' }]
    const after = grown(tree, 'b', [{ key: 'd' }])
    expect(after).toEqual([{ key: 'a', children: [{ key: 'b', children: [{ key: 'd' }] }] }, { key: 'c' }])
  })
})
