import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { AssetPage } from './asset/AssetPage'
import { CheckLines } from './asset/CheckLines'
import { JobMap } from './asset/JobMap'
import { Parts } from './asset/Parts'
import { Statistics } from './asset/Statistics'
import { RunTable } from './runs/RunTable'
import { JobSteps } from './sql/JobSteps'
import { showPage, stubService } from './testPages'

afterEach(() => vi.unstubAllGlobals())

const job = {
  ref: '@n/build',
  targets: [
    {
      ref: 'n/mart.payout',
      name: 'mart.payout',
      kind: 'table',
      rows: [
        { ref: 'n/core.pickup#day', dataset: 'n/core.pickup', column: 'day', flows: ['FILTER'], how: [] },
      ],
      columns: [
        {
          name: 'amount',
          type: 'numeric',
          reported: true,
          constants: ['0'],
          from: [
            {
              ref: 'n/core.pickup#litres',
              dataset: 'n/core.pickup',
              column: 'litres',
              flows: ['AGGREGATION'],
              how: ['aggregated'],
              masking: false,
            },
          ],
        },
        { name: 'period', type: 'date', reported: true, constants: ["date '2031-05-01'"], from: [] },
        { name: 'trips', type: 'int', reported: true, constants: [], from: [] },
        { name: 'note', type: 'text', reported: false, constants: [], from: [] },
      ],
    },
  ],
  inputs: [
    {
      ref: 'n/core.pickup',
      name: 'core.pickup',
      kind: 'table',
      columns: [
        { name: 'litres', type: 'numeric', lands: ['n/mart.payout#amount'], decides: [] },
        { name: 'day', type: 'date', lands: [], decides: ['FILTER', 'GROUP_BY'] },
      ],
    },
  ],
}

describe('a job from the inside', () => {
  it('says of each column how it is made, a constant by its value', async () => {
    stubService({ job })
    showPage(<JobMap refText="@n/build" />, '/asset')
    const how = async (column: string) =>
      within((await screen.findByText(column)).closest('tr') as HTMLElement).getAllByRole('link')[0]
        .textContent
    expect(await how('amount')).toBe('aggregated, constant 0')
    expect(await how('period')).toBe("constant date '2031-05-01'")
    expect(await how('trips')).toBe('row count')
    expect(await how('note')).toBe('not reported')
    expect(screen.getByText(/Columns that filter, join or group/)).toHaveTextContent('core.pickup#day filter')
  })

  it('lists its unused inputs alone, and keeps the choice in the address', async () => {
    stubService({ job })
    showPage(<JobMap refText="@n/build" />, '/asset?ref=%40n%2Fbuild')
    expect(await screen.findByText('filter, group by')).toBeInTheDocument()
    expect(screen.getAllByText('core.pickup#litres')[1]).toBeInTheDocument()
    fireEvent.click(screen.getByRole('switch', { name: /Unused input columns only/ }))
    await waitFor(() => expect(screen.getByLabelText('address')).toHaveTextContent('unused=yes'))
    await waitFor(() => expect(screen.getAllByText('core.pickup#litres')).toHaveLength(1))
    expect(screen.getByText('unused')).toBeInTheDocument()
  })

  it('that nobody described says what is missing', async () => {
    stubService({ job: { ref: '@n/build', targets: [], inputs: [] } })
    showPage(<JobMap refText="@n/build" />, '/asset')
    expect(await screen.findByText(/No event reported what this job reads or writes/)).toBeInTheDocument()
  })
})

describe('the steps of a job', () => {
  const statement = {
    statement: 0,
    start: 0,
    end: 30,
    kind: 'insert',
    target: 'mart.payout',
    temporary: false,
    complete: true,
    problems: [],
    rows: [],
    reads: ['core.pickup'],
    outputs: [{ name: 'amount', direct: [], indirect: [], constants: [], fromRows: [], spans: [] }],
    steps: [
      {
        name: 'result',
        kind: 'result',
        from: [],
        rows: [
          {
            of: 'core.pickup',
            step: false,
            column: 'day',
            subtype: 'FILTER',
            how: 'decides (filter)',
            masked: false,
          },
        ],
        columns: [
          {
            name: 'amount',
            span: { start: 7, end: 18 },
            direct: [
              {
                of: 'core.pickup',
                step: false,
                column: 'litres',
                subtype: 'AGGREGATION',
                how: 'aggregated',
                masked: false,
              },
            ],
            indirect: [],
            constants: [],
            inPlace: false,
          },
        ],
      },
    ],
  }
  const steps = {
    ref: '@n/build',
    from: 'sql',
    text: 'select sum(litres) from pickup',
    statements: [statement],
    tables: { 'core.pickup': 'n/core.pickup' },
    complete: true,
    problems: [],
    confirmed: 3,
    differences: [],
  }

  it('light a column, what it is made of, and the text that computes it', async () => {
    stubService({ 'job/steps': steps })
    showPage(<JobSteps refText="@n/build" />, '/asset?column=amount')
    expect(await screen.findByText(/agree on all 3 links/)).toBeInTheDocument()
    expect(screen.getByText('sum(litres)').tagName).toBe('MARK')
    expect(screen.getByRole('button', { name: 'litres' })).toHaveAttribute('data-lit', 'carries')
    expect(screen.getByText('rows by filter pickup.day')).toBeInTheDocument()
    fireEvent.click(screen.getByRole('button', { name: 'day' }))
    await waitFor(() =>
      expect(screen.getByRole('button', { name: 'day' })).toHaveAttribute('aria-pressed', 'true'),
    )
    expect(screen.getByText('sum(litres)').tagName).toBe('SPAN')
  })

  it('list where the report and the SQL differ', async () => {
    const difference = {
      column: 'n/mart.payout#amount',
      source: 'n/core.pickup#litres',
      only: 'sql',
      flow: 'AGGREGATION',
      how: 'aggregated',
    }
    stubService({ 'job/steps': { ...steps, differences: [difference] } })
    showPage(<JobSteps refText="@n/build" />, '/asset')
    expect(await screen.findByText(/differ on 1/)).toBeInTheDocument()
    expect(screen.getByText(/only the SQL has/)).toHaveTextContent('aggregated core.pickup#litres')
  })

  it('that are not known say why', async () => {
    stubService({ 'job/steps': { ...steps, from: 'unknown', statements: [] } })
    showPage(<JobSteps refText="@n/build" />, '/asset')
    expect(await screen.findByText(/Steps are not known/)).toBeInTheDocument()
  })
})

describe('numbers over time', () => {
  const statistic = (day: number, reportedBy: string, rows: number) => ({
    at: `2031-05-0${day}T02:00:00Z`,
    reportedBy,
    run: `run:${day}`,
    rows,
    columns: reportedBy === 'read' ? {} : { fat: { nulls: 0 } },
  })

  it('are charts, with the same numbers as a table a click away', async () => {
    stubService({
      statistics: {
        ref: 'n/a',
        statistics: [statistic(2, 'written', 70), statistic(1, 'written', 0), statistic(1, 'read', 560)],
      },
    })
    showPage(<Statistics refText="n/a" />, '/asset?ref=n%2Fa')
    expect(await screen.findByRole('figure', { name: 'Rows written by runs, newest 70' })).toBeInTheDocument()
    expect(screen.getByRole('figure', { name: 'Rows read by runs, newest 560' })).toBeInTheDocument()
    fireEvent.click(screen.getByText('Table'))
    expect(await screen.findByText('Columns measured')).toBeInTheDocument()
    expect(screen.getByText('560')).toBeInTheDocument()
    expect(screen.getAllByText('fat')).toHaveLength(2)
    expect(screen.getByLabelText('address')).toHaveTextContent('counts=table')
  })

  it('that nobody reported say so', async () => {
    stubService({ statistics: { ref: 'n/a', statistics: [] } })
    showPage(<Statistics refText="n/a" />, '/asset?ref=n%2Fa')
    expect(await screen.findByText(/No run reported how many rows/)).toBeInTheDocument()
  })
})

describe('checks and parts', () => {
  it('a check opens into its text', async () => {
    const check = {
      name: 'present',
      job: '@n/j',
      status: 'skip',
      content: 'every(reading)',
      contentType: 'text/plain',
      results: [{ at: '2031-05-01T00:00:00Z', status: 'skip', run: 'run:1' }],
    }
    stubService({ checks: { ref: 'n/a', checks: [check] } })
    showPage(<CheckLines refText="n/a" />, '/asset')
    expect(await screen.findByText('skipped')).toBeInTheDocument()
    fireEvent.click(screen.getByLabelText('Expand row'))
    expect(await screen.findByText('every(reading)')).toBeInTheDocument()
  })

  it('days that are missing stand out', async () => {
    const part = { ref: 'n/a/day=1', part: 'day=1', described: true, retired: false, writtenBy: ['@n/land'] }
    stubService({
      parts: {
        ref: 'n/a',
        rules: ['partition-directory'],
        total: 1,
        missingDays: ['2031-05-02'],
        parts: [part],
      },
    })
    showPage(<Parts refText="n/a" />, '/asset')
    expect(await screen.findByText('Missing: 2031-05-02')).toBeInTheDocument()
    expect(
      screen.getByText(/1 names fold into this asset by the rule partition-directory/),
    ).toBeInTheDocument()
  })
})

describe('a run', () => {
  const run = {
    ref: 'run:1',
    job: '@flow/land',
    state: 'running',
    start: '2031-05-01T02:00:00Z',
    lastReportedAt: '2031-05-01T02:05:00Z',
    hasTasks: false,
    stalled: true,
  }

  it('that has not ended shows whether it still reports', () => {
    showPage(<RunTable runs={[run]} />, '/runs')
    expect(screen.getByText('stalled')).toBeInTheDocument()
    expect(screen.getByText(/last reported/)).toBeInTheDocument()
  })

  it('opens into what it read and wrote', async () => {
    const part = {
      ref: 'n/core.a',
      name: 'core.a',
      kind: 'table',
      written: true,
      rows: 1234,
      subset: 'day=1',
      facets: { outputStatistics: { rowCount: 1234 } },
    }
    stubService({ run: { run, tasks: [], parts: [part], facets: { nominalTime: {} } } })
    showPage(<RunTable runs={[{ ...run, stalled: false }]} />, '/runs')
    fireEvent.click(screen.getByLabelText('Expand row'))
    expect(await screen.findByText('1,234 rows')).toBeInTheDocument()
    expect(screen.getByText('only day=1')).toBeInTheDocument()
    expect(screen.getByText('Facets of the run: nominalTime')).toBeInTheDocument()
    expect(screen.getByText('Facets of this writing: outputStatistics')).toBeInTheDocument()
  })
})

describe('a page without an asset', () => {
  it('says how to come to one', () => {
    showPage(<AssetPage />, '/asset')
    expect(screen.getByText(/No asset is named/)).toBeInTheDocument()
  })
})
