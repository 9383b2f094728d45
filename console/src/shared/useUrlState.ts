import { useCallback } from 'react'
import { useSearchParams } from 'react-router'

type Changes = Record<string, string | undefined>

/** The state of a page, which is kept in its address so that it can be shared and gone back to. */
export function useUrlState(): [(name: string) => string | undefined, (changes: Changes) => void] {
  const [parameters, setParameters] = useSearchParams()
  const read = useCallback((name: string) => parameters.get(name) ?? undefined, [parameters])
  const write = useCallback(
    (changes: Changes) => {
      setParameters((before) => {
        const after = new URLSearchParams(before)
        for (const [name, value] of Object.entries(changes)) {
          if (value === undefined || value === '') after.delete(name)
          else after.set(name, value)
        }
        return after
      })
    },
    [setParameters],
  )
  return [read, write]
}
