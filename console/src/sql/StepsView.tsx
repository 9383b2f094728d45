import { Alert, Empty, Segmented, Tooltip } from 'antd'
import { useEffect, useMemo, useRef } from 'react'
import { Link } from 'react-router'
import { assetPath, flowWords, shortRef } from '../shared/format'
import { useInks } from '../shared/useInks'
import { useUrlState } from '../shared/useUrlState'
import {
  keyOf,
  type Path,
  pathOf,
  resultColumn,
  type Statement,
  type Step,
  type StepColumn,
  stretches,
  tableColumns,
} from './path'

type Props = {
  text?: string
  statements: Statement[]
  /** References of the assets behind the names of tables. */
  tables: Record<string, string>
}

/** The steps from tables to result, with the text beside them; choosing a column lights its path. */
export function StepsView({ text, statements, tables }: Props) {
  const [read, write] = useUrlState()
  const wanted = read('column')
  const shown = useMemo(() => preferred(statements, read('statement'), wanted), [statements, read, wanted])
  const statement = statements[shown]
  const chosen = read('chosen') ?? (statement && resultColumn(statement, wanted))
  const path = useMemo(() => (statement ? pathOf(statement, chosen) : undefined), [statement, chosen])
  if (!statement || !path) return <Empty description="The text holds no statement that moves data." />
  const choose = (key: string) => write({ chosen: key === chosen ? undefined : key, column: undefined })
  return (
    <>
      {statements.length > 1 && (
        <Segmented
          size="small"
          style={{ marginBottom: 8 }}
          value={shown}
          onChange={(value) => write({ statement: String(value), chosen: undefined, column: undefined })}
          options={statements.map((one, i) => ({ value: i, label: title(one) }))}
        />
      )}
      {statement.problems.map((problem) => (
        <Alert
          key={`${problem.start} ${problem.detail}`}
          type="warning"
          title={problem.detail}
          style={{ marginBottom: 6 }}
        />
      ))}
      <div style={{ display: 'flex', gap: 14, alignItems: 'flex-start' }}>
        <div style={{ flex: '1 1 50%', minWidth: 0 }}>
          <Tables statement={statement} path={path} chosen={chosen} choose={choose} tables={tables} />
          {statement.steps.map((step) => (
            <StepBox
              key={step.name}
              step={step}
              statement={statement}
              path={path}
              chosen={chosen}
              choose={choose}
            />
          ))}
        </div>
        {text !== undefined && (
          <SqlText text={text} statement={statement} path={path} chosen={chosen} choose={choose} />
        )}
      </div>
    </>
  )
}

/** The statement asked for, else the first that makes the column, else the last that writes. */
function preferred(statements: Statement[], asked: string | undefined, column: string | undefined): number {
  if (asked !== undefined && statements[Number(asked)]) return Number(asked)
  const making = statements.findIndex((one) => !one.temporary && resultColumn(one, column))
  if (making >= 0) return making
  const writing = statements.findLastIndex((one) => !one.temporary && one.outputs.length > 0)
  return writing >= 0 ? writing : 0
}

function title(statement: Statement): string {
  const target = statement.target ? ` ${shortRef(statement.target)}` : ''
  return `${statement.kind.replace('-', ' ')}${target}`
}

type Choosing = { path: Path; chosen: string | undefined; choose: (key: string) => void }

function Tables({
  statement,
  tables,
  ...choosing
}: Choosing & { statement: Statement; tables: Record<string, string> }) {
  return [...tableColumns(statement)].map(([name, columns]) => (
    <Box key={name} heading={<TableName name={name} refText={tables[name]} />} kind="table">
      {[...columns].map(([column, hows]) => (
        <Chip
          key={column}
          of={name}
          column={column}
          hint={`used here: ${[...hows].map(flowWords).join(', ')}`}
          {...choosing}
        />
      ))}
    </Box>
  ))
}

function TableName({ name, refText }: { name: string; refText?: string }) {
  return refText ? (
    <Link to={assetPath(refText)} title={refText}>
      {shortRef(name)}
    </Link>
  ) : (
    <span title={name}>{shortRef(name)}</span>
  )
}

function StepBox({ step, statement, ...choosing }: Choosing & { step: Step; statement: Statement }) {
  const ink = useInks()
  const heading =
    step.kind === 'result' ? (statement.target ? `→ ${shortRef(statement.target)}` : 'result') : step.name
  return (
    <Box heading={heading} kind={step.kind === 'result' ? statement.kind.replace('-', ' ') : step.kind}>
      {step.columns.map((column) => (
        <Chip key={column.name} of={step.name} column={column.name} hint={how(column)} {...choosing}>
          {column.inPlace && <small style={{ color: ink.thread }}> computed in place</small>}
          {column.constants.length > 0 && (
            <small style={{ color: ink.quiet }}> {column.constants.map((c) => c.text).join(' or ')}</small>
          )}
        </Chip>
      ))}
      {step.rows.length > 0 && (
        <div style={{ flexBasis: '100%', color: ink.quiet, fontSize: 12 }}>rows by {rowWords(step)}</div>
      )}
    </Box>
  )
}

/** What decides a step's rows: `join a.x, b.x; filter a.y`. */
function rowWords(step: Step): string {
  const bySort = new Map<string, Set<string>>()
  for (const use of step.rows) {
    const sort = use.subtype.replace('_', ' ').toLowerCase()
    const column = `${shortRef(use.of).split('.').at(-1)}.${use.column}`
    bySort.set(sort, (bySort.get(sort) ?? new Set()).add(column))
  }
  return [...bySort].map(([sort, columns]) => `${sort} ${[...columns].join(', ')}`).join('; ')
}

/** What a column is made of one step back, in words. */
function how(column: StepColumn): string {
  const parts = column.direct.map(
    (use) =>
      `${flowWords(use.subtype)}${use.masked ? ', masked' : ''} from ${shortRef(use.of)}.${use.column}`,
  )
  parts.push(...column.indirect.map((use) => `${flowWords(use.subtype)} ${shortRef(use.of)}.${use.column}`))
  parts.push(...column.constants.map((constant) => `constant ${constant.text}`))
  if (column.expression) parts.unshift(column.expression)
  return parts.join('; ') || 'counts rows, or nothing is known'
}

function Box({
  heading,
  kind,
  children,
}: {
  heading: React.ReactNode
  kind: string
  children: React.ReactNode
}) {
  const ink = useInks()
  return (
    <section style={{ borderLeft: `3px solid ${ink.line}`, padding: '2px 0 6px 10px', marginBottom: 6 }}>
      <h3 style={{ fontSize: 13, margin: '0 0 3px' }}>
        {heading} <small style={{ color: ink.quiet, fontWeight: 400 }}>{kind}</small>
      </h3>
      <div style={{ display: 'flex', flexWrap: 'wrap', gap: 4 }}>{children}</div>
    </section>
  )
}

function Chip({
  of,
  column,
  hint,
  path,
  chosen,
  choose,
  children,
}: Choosing & { of: string; column: string; hint: string; children?: React.ReactNode }) {
  const ink = useInks()
  const key = keyOf(of, column)
  const carries = path.carries.has(key)
  const decides = path.decides.has(key)
  return (
    <Tooltip title={hint}>
      <button
        type="button"
        aria-pressed={key === chosen}
        data-lit={carries ? 'carries' : decides ? 'decides' : undefined}
        onClick={() => choose(key)}
        style={{
          font: 'inherit',
          fontSize: 12,
          cursor: 'pointer',
          color: ink.text,
          background: carries ? `color-mix(in srgb, ${ink.thread} 26%, ${ink.panel})` : ink.panel,
          border: `1px ${decides ? 'dashed' : 'solid'} ${carries || decides ? ink.thread : ink.line}`,
          borderRadius: 3,
          padding: '0 6px',
          opacity: chosen && !carries && !decides ? 0.55 : 1,
        }}
      >
        {column}
        {children}
      </button>
    </Tooltip>
  )
}

/** The text, with what computes the chosen column lit; a click in it chooses what it computes. */
function SqlText({
  text,
  statement,
  path,
  chosen,
  choose,
}: Choosing & { text: string; statement: Statement }) {
  const ink = useInks()
  const box = useRef<HTMLPreElement>(null)
  const parts = useMemo(() => stretches(text, statement, path), [text, statement, path])
  useEffect(() => {
    if (chosen) box.current?.querySelector('mark')?.scrollIntoView({ block: 'nearest' })
  }, [chosen])
  let at = 0
  return (
    <pre
      ref={box}
      className="code"
      data-part="sql"
      style={{
        flex: '1 1 50%',
        minWidth: 0,
        position: 'sticky',
        top: 8,
        maxHeight: 'calc(100vh - 90px)',
        background: ink.panel,
        border: `1px solid ${ink.line}`,
      }}
    >
      {parts.map((part) => {
        const start = at
        at += part.text.length
        if (part.keys.length === 0) return <span key={start}>{part.text}</span>
        const Tag = part.lit ? 'mark' : 'span'
        return (
          <Tag
            key={start}
            onClick={() => choose(part.keys[0])}
            style={{
              cursor: 'pointer',
              color: 'inherit',
              background: part.lit ? `color-mix(in srgb, ${ink.thread} 34%, transparent)` : undefined,
            }}
          >
            {part.text}
          </Tag>
        )
      })}
    </pre>
  )
}
