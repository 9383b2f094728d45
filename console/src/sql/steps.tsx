import type { ReactNode } from 'react'
import { Link } from 'react-router'
import { assetPath, shortRef, spoken } from '../shared/format'
import shared from '../shared/shared.module.css'
import { Chip, type Choosing } from './Chip'
import { type Statement, type Step, type StepColumn, tableColumns } from './path'
import styles from './sql.module.css'

type Tables = Record<string, string>

/** The tables a statement reads, each with the columns it uses. */
export function TableBoxes({
  statement,
  tables,
  ...choosing
}: Choosing & { statement: Statement; tables: Tables }) {
  return [...tableColumns(statement)].map(([name, columns]) => (
    <Box key={name} heading={<TableName name={name} refText={tables[name]} />} kind="table">
      {[...columns].map(([column, hows]) => (
        <Chip
          key={column}
          of={name}
          column={column}
          hint={`used here: ${[...hows].join(', ')}`}
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

const KINDS: Record<string, string> = { cte: 'common table expression' }

/** One step of a statement: its columns, and by what its rows are decided. */
export function StepBox({ step, statement, ...choosing }: Choosing & { step: Step; statement: Statement }) {
  const result = step.kind === 'result'
  const target = statement.target ? `→ ${shortRef(statement.target)}` : 'result'
  return (
    <Box
      heading={result ? target : step.name}
      kind={result ? spoken(statement.kind) : (KINDS[step.kind] ?? spoken(step.kind))}
    >
      {step.columns.map((column) => (
        <Chip key={column.name} of={step.name} column={column.name} hint={madeOf(column)} {...choosing}>
          {column.inPlace && <small className={styles.inPlace}> computed in place</small>}
          {column.constants.length > 0 && (
            <small className={shared.quiet}> {column.constants.map((c) => c.text).join(' or ')}</small>
          )}
        </Chip>
      ))}
      {step.rows.length > 0 && <div className={styles.rows}>rows by {rowWords(step)}</div>}
    </Box>
  )
}

function Box({ heading, kind, children }: { heading: ReactNode; kind: string; children: ReactNode }) {
  return (
    <section className={styles.step}>
      <h3 className={styles.stepName}>
        {heading} <small className={styles.stepKind}>{kind}</small>
      </h3>
      <div className={styles.columns}>{children}</div>
    </section>
  )
}

/** What decides a step's rows: `join a.x, b.x; filter a.y`. */
export function rowWords(step: Step): string {
  const bySort = new Map<string, Set<string>>()
  for (const use of step.rows) {
    const sort = spoken(use.subtype)
    bySort.set(
      sort,
      (bySort.get(sort) ?? new Set()).add(`${shortRef(use.of).split('.').at(-1)}.${use.column}`),
    )
  }
  return [...bySort].map(([sort, columns]) => `${sort} ${[...columns].join(', ')}`).join('; ')
}

/** What a column is made of one step back, in words. */
export function madeOf(column: StepColumn): string {
  const parts = column.direct.map(
    (use) => `${use.how}${use.masked ? ', masked' : ''} from ${shortRef(use.of)}.${use.column}`,
  )
  parts.push(...column.indirect.map((use) => `${use.how} ${shortRef(use.of)}.${use.column}`))
  parts.push(...column.constants.map((constant) => `constant ${constant.text}`))
  if (column.expression) parts.unshift(column.expression)
  return parts.join('; ') || 'counts rows, or nothing is known'
}
