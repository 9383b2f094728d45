import { fireEvent, render, renderHook, screen, waitFor } from '@testing-library/react'
import type { ReactNode } from 'react'
import { act } from 'react'
import { MemoryRouter } from 'react-router'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { showPage, stubService } from '../testPages'
import { BoxList } from './BoxList'
import { GraphSide } from './GraphSide'
import { GraphToolbar } from './GraphToolbar'
import type { Box } from './picture'
import { type GraphState, useGraphState, useSearchInside } from './useGraphState'

afterEach(() => vi.unstubAllGlobals())

function box(id: string, hops: number, more: Partial<Box> = {}): Box {
  return {
    id,
    kind: 'table',
    name: id,
    system: 'barn',
    place: undefined,
    description: undefined,
    hops,
    described: true,
    retired: false,
    state: 'completed',
    written: undefined,
    rows: undefined,
    checks: undefined,
    failedChecks: undefined,
    owners: [],
    labels: [],
    terms: [],
    columns: [],
    moreUpstream: 0,
    moreDownstream: 0,
    ...more,
  }
}

const BOXES = [box('core', 0), box('raw', -1, { columns: ['fat'] }), box('report', 2, { kind: 'report' })]

const WHOLE = { boxes: BOXES, wires: [] }

function state(more: Partial<GraphState> = {}): GraphState {
  return {
    direction: 'both',
    hops: 2,
    detail: 'assets',
    grouping: 'none',
    groups: undefined,
    kept: undefined,
    hidden: '',
    facts: '',
    settings: {},
    side: 'details',
    picked: undefined,
    column: undefined,
    opened: [],
    time: undefined,
    most: 600,
    write: vi.fn(),
    recentre: vi.fn(),
    open: vi.fn(),
    pick: vi.fn(),
    light: vi.fn(),
    ...more,
  }
}

const at = (address: string) =>
  function Router({ children }: { children: ReactNode }) {
    return <MemoryRouter initialEntries={[address]}>{children}</MemoryRouter>
  }

describe('what a picture shows', () => {
  it('starts with the neighbours of an asset, and with the whole path of a column', () => {
    const asset = renderHook(() => useGraphState('n/a'), { wrapper: at('/graph?ref=n/a') }).result.current
    expect([asset.hops, asset.detail, asset.direction]).toEqual([2, 'assets', 'both'])
    const column = renderHook(() => useGraphState('n/a#x'), { wrapper: at('/graph?ref=n/a') }).result.current
    expect([column.hops, column.detail]).toEqual([100, 'columns'])
  })

  it('is kept in the address, and a new focus forgets what was opened', () => {
    const { result } = renderHook(() => useGraphState('n/a'), { wrapper: at('/graph?ref=n/a&hops=5') })
    expect(result.current.hops).toBe(5)
    act(() => result.current.open('n/b', 'upstream'))
    expect(result.current.opened).toEqual([{ ref: 'n/b', direction: 'upstream' }])
    act(() => result.current.light('n/b#x'))
    expect([result.current.column, result.current.picked]).toEqual(['n/b#x', 'n/b'])
    act(() => result.current.recentre('n/c'))
    expect([result.current.opened, result.current.column, result.current.picked]).toEqual([
      [],
      undefined,
      undefined,
    ])
  })

  it('is searched from match to match, round and round', () => {
    const { result } = renderHook(() => useSearchInside(BOXES))
    act(() => result.current.search('r'))
    expect([result.current.hits, result.current.found]).toEqual([3, undefined])
    act(() => result.current.search('report'))
    act(() => result.current.next())
    expect(result.current.found).toBe('report')
    act(() => result.current.next())
    expect(result.current.found).toBe('report')
    act(() => result.current.search('nothing like it'))
    expect([result.current.hits, result.current.found]).toEqual([0, undefined])
  })
})

describe('the bar above a picture', () => {
  it('changes the detail and closes what no longer fits it', () => {
    stubService({})
    const shown = state({ opened: [{ ref: 'n/b', direction: 'upstream' }] })
    const inside = { words: '', hits: 0, found: undefined, search: vi.fn(), next: vi.fn() }
    showPage(
      <GraphToolbar
        focus="n/a"
        state={shown}
        inside={inside}
        picture={{ boxes: BOXES, wires: [], groups: new Map() }}
        drawn={undefined}
      />,
      '/graph',
    )
    expect(screen.getByText('3 places, 0 lines')).toBeInTheDocument()
    fireEvent.click(screen.getByText('systems'))
    expect(shown.write).toHaveBeenCalledWith({ detail: 'systems', open: undefined, column: undefined })
    fireEvent.click(screen.getByText('Close what was opened'))
    expect(shown.write).toHaveBeenCalledWith({ open: undefined })
  })
})

describe('beside a picture', () => {
  it('the list has all places but the focus, nearest first, and picks one', () => {
    const onPick = vi.fn()
    render(<BoxList boxes={BOXES} deciding={[]} words="" picked={undefined} onPick={onPick} />)
    const rows = screen.getAllByRole('row').slice(1)
    expect(rows.map((row) => row.textContent)).toEqual([
      expect.stringContaining('1 up'),
      expect.stringContaining('2 down'),
    ])
    fireEvent.click(screen.getByText('report', { selector: 'td *' }).closest('tr') as HTMLElement)
    expect(onPick).toHaveBeenCalledWith('report')
  })

  it('columns that only decide are counted apart', () => {
    const link = {
      from: 'n/core.a#day',
      to: 'n/mart.b',
      flow: 'FILTER',
      how: 'decides (filter)',
      flows: ['FILTER', 'GROUP_BY'],
      masking: false,
      evidence: 'derived',
      confirmed: false,
    }
    render(<BoxList boxes={BOXES} deciding={[link]} words="" picked={undefined} onPick={vi.fn()} />)
    expect(screen.getByText('1 columns that filter, join or group')).toBeInTheDocument()
    expect(screen.getByText('filter, group by')).toBeInTheDocument()
  })

  it('a system has no page and is named', () => {
    const boxes = [box('system:barn', 0, { kind: 'system', name: 'barn' })]
    const props = {
      picked: 'system:barn',
      column: undefined,
      boxes,
      deciding: [],
      words: '',
      whole: WHOLE,
      groups: new Map(),
    }
    showPage(<GraphSide state={state()} {...props} />, '/graph')
    expect(screen.getByText(/barn, a system/)).toBeInTheDocument()
  })

  it('a picked place shows its chosen column, how it is made and by which job', async () => {
    const asset = {
      ref: 'n/core.a',
      kind: 'table',
      name: 'a',
      system: 'barn',
      owners: [],
      labels: [],
      terms: [],
      freshness: { state: 'completed' },
      columns: [
        {
          name: 'fat',
          ref: 'n/core.a#fat',
          type: 'numeric',
          sources: [
            { ref: 'n/raw.a#fat', flow: 'IDENTITY', how: 'copied', masking: false, jobs: ['@n/build'] },
          ],
          constants: [{ text: '0', by: '@n/build' }],
        },
      ],
    }
    stubService({ asset })
    const shown = state()
    const props = {
      picked: 'n/core.a',
      column: 'n/core.a#fat',
      boxes: BOXES,
      deciding: [],
      words: '',
      whole: WHOLE,
      groups: new Map(),
    }
    showPage(<GraphSide state={shown} {...props} />, '/graph')
    expect(await screen.findByText('copied')).toBeInTheDocument()
    expect(screen.getAllByRole('link', { name: 'build' })[0]).toHaveAttribute(
      'href',
      '/asset?ref=%40n%2Fbuild&tab=steps&column=fat',
    )
    expect(screen.getByText('constant')).toBeInTheDocument()
    fireEvent.click(screen.getByText('Recentre here'))
    await waitFor(() => expect(shown.recentre).toHaveBeenCalledWith('n/core.a'))
  })

  it('can be hidden', () => {
    const props = {
      picked: 'n/a',
      column: undefined,
      boxes: BOXES,
      deciding: [],
      words: '',
      whole: WHOLE,
      groups: new Map(),
    }
    const { container } = render(<GraphSide state={state({ side: 'none' })} {...props} />)
    expect(container).toBeEmptyDOMElement()
  })
})
