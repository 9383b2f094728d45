import { useCallback, useMemo, useState } from 'react'
import { assetOf } from '../shared/format'
import { useUrlState } from '../shared/useUrlState'
import { type Box, matches } from './picture'
import { openedOf, openedText } from './useLineage'

export const ALL_THE_WAY = 100
const HOPS_OF_ASSET = 2

/** What is shown of a picture and how, all of it kept in the address, with the ways to change it. */
export function useGraphState(refText: string) {
  const [read, write] = useUrlState()
  const isColumn = refText.includes('#')
  const opened = useMemo(() => openedOf(read('open')), [read])
  const recentre = useCallback(
    (ref: string) => write({ ref, open: undefined, pick: undefined, column: undefined }),
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
    side: read('side') ?? 'details',
    picked: read('pick'),
    column: read('column'),
    opened,
    write,
    recentre,
    open,
    pick,
    light,
  }
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
