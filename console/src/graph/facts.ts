import { ago, count } from '../shared/format'
import type { Box } from './picture'

/** What may be shown on a box besides its name. */
export const FACTS = ['owner', 'freshness', 'checks', 'row counts', 'terms', 'description'] as const

/** The lines of facts that a box shows, one for each fact asked for that it has. */
export function factLines(box: Box, facts: string[]): string[] {
  return facts.flatMap((fact) => {
    switch (fact) {
      case 'owner':
        return box.owners.length > 0 ? [box.owners.join(', ')] : []
      case 'freshness':
        return box.written ? [`written ${ago(box.written)}`] : []
      case 'checks':
        return box.checks ? [checkWords(box.checks, box.failedChecks ?? 0)] : []
      case 'row counts':
        return box.rows === undefined ? [] : [`${count(box.rows)} rows`]
      case 'terms':
        return box.terms.length > 0 ? [box.terms.join(', ')] : []
      case 'description':
        return box.description ? [box.description] : []
      default:
        return []
    }
  })
}

function checkWords(checks: number, failed: number): string {
  const all = checks === 1 ? '1 check' : `${checks} checks`
  return failed === 0 ? `${all} passed` : `${failed} of ${all} failed`
}
