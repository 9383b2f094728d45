import { useCallback, useMemo, useState } from 'react'
import { assetOf } from '../shared/format'
import { ALL_THE_WAY } from '../shared/HopsSelect'
import { useUrlState } from '../shared/useUrlState'
import type { Grouping } from './groups'
import { type Box, matches } from './picture'
import { openedOf, openedText, SOME_PLACES } from './useLineage'
import { SETTINGS, type Settings } from './views'

const HOPS_OF_ASSET = 2

/** What is shown of a picture and how, all of it kept in the address, with the ways to change it. */
export function useGraphState(refText: string, defaults: Settings = {}) {
  const [readUrl, write] = useUrlState()
  const read = useCallback(
    (name: string): string | undefined => readUrl(name) ?? defaults[name],
    [readUrl, defaults],
  )
  const isColumn = refText.includes('#')
  const opened = useMemo(() => openedOf(read('open')), [read])
  const recentre = useCallback(
    (ref: string) =>
      write({
        ref,
        open: undefined,
        pick: undefined,
        column: undefined,
        groups: undefined,
        keep: undefined,
        most: undefined,
      }),
    [write],
  )
  const open = useCallback(
    (ref: string, direction: 'upstream' | 'downstream') =>
      write({ open: openedText([...openedOf(read('open')), { ref, direction }]) }),
    [read, write],
  )
  const pick = useCallback((id: string) => write({ pick: id }), [write])
  const light = useCallback(
    (ref: string | undefined) => write({ column: ref, pick: ref ? assetOf(ref) : undefined }),
    [write],
  )
  return {
    direction: read('direction') ?? 'both',
    hops: Number(read('hops') ?? (isColumn ? ALL_THE_WAY : HOPS_OF_ASSET)),
    detail: read('detail') ?? (isColumn ? 'columns' : 'assets'),
    grouping: (read('group') ?? 'alike') as Grouping,
    groups: read('groups'),
    kept: read('keep'),
    hidden: chosen(read('hide')),
    facts: chosen(read('facts')),
    settings: Object.fromEntries(
      SETTINGS.flatMap((name) => {
        const value = read(name)
        return value === undefined ? [] : [[name, value]]
      }),
    ) as Settings,
    side: read('side') ?? 'details',
    picked: read('pick'),
    column: read('column'),
    opened,
    most: Number(readUrl('most') ?? SOME_PLACES),
    /** The moment that is shown: a time, or now while the slider is open, or undefined. */
    time: readUrl('time'),
    write,
    recentre,
    open,
    pick,
    light,
  }
}

/** A choice of words; a dash stands for none. */
function chosen(text: string | undefined): string {
  return text === undefined || text === '-' ? '' : text
}

export type GraphState = ReturnType<typeof useGraphState>

/** A search inside what is drawn: Enter leads from one match to the next. */
export function useSearchInside(boxes: Box[]) {
  const [words, setWords] = useState('')
  const [at, setAt] = useState(-1)
  const hits = words === '' ? [] : boxes.filter((box) => matches(box, words))
  return {
    words,
    hits: hits.length,
    found: at < 0 || hits.length === 0 ? undefined : hits[at % hits.length].id,
    search: (next: string) => {
      setWords(next)
      setAt(-1)
    },
    next: () => setAt((before) => before + 1),
  }
}

export type SearchInside = ReturnType<typeof useSearchInside>

/** A list of texts in an address; references may hold any character, so it is JSON. */
export function listOf(text: string | undefined): string[] {
  if (!text) return []
  try {
    const list: unknown = JSON.parse(text)
    return Array.isArray(list) ? list.filter((one) => typeof one === 'string') : []
  } catch {
    return []
  }
}
