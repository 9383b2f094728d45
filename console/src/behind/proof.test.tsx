import { render, screen } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { proofPath, Result } from './ProofMenu'

const found = {
  valid: true,
  digestMatches: true,
  signature: 'valid',
  events: 136,
  found: 136,
  aged: 0,
  missing: [],
  differences: [],
  problems: [],
}

describe('a proof', () => {
  it('is of a reference at a moment', () => {
    expect(proofPath('n/a#x', 'html', '2026-05-01T02:00:00Z')).toBe(
      'api/v1/proof?ref=n%2Fa%23x&as=html&asOf=2026-05-01T02%3A00%3A00Z',
    )
    expect(proofPath('n/a', 'json')).toBe('api/v1/proof?ref=n%2Fa&as=json')
  })

  it('that holds says what was compared, and what is known since', () => {
    render(<Result found={{ ...found, differences: ['2 runs more'] }} />)
    expect(screen.getByText('The proof is valid')).toBeInTheDocument()
    expect(screen.getByText('Signed by this installation.')).toBeInTheDocument()
    expect(screen.getByText(/Of 136 events 136 are in the log/)).toBeInTheDocument()
    expect(screen.getByText('Known since it was made: 2 runs more')).toBeInTheDocument()
  })

  it('that does not hold says why', () => {
    const problems = ['the signature does not belong to this document']
    render(<Result found={{ ...found, valid: false, signature: 'invalid', problems }} />)
    expect(screen.getByText('The proof is not valid')).toBeInTheDocument()
    expect(screen.getByText(problems[0])).toBeInTheDocument()
    expect(screen.queryByText(/Signed by/)).not.toBeInTheDocument()
  })
})
