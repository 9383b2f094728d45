import type { Schemas } from '../api/client'

export type Statement = Schemas['SqlStatementLineage']
export type Step = Schemas['SqlStep']
export type StepColumn = Schemas['SqlStepColumn']

/** A column of a step or of a table, as one text. */
export const keyOf = (of: string, column: string) => `${of}\n${column}`

/** The column and all that makes it and is made of it, with the columns that only decide. */
export type Path = { carries: Set<string>; decides: Set<string> }

export const NO_PATH: Path = { carries: new Set(), decides: new Set() }

type Edges = Map<string, { to: string; carries: boolean }[]>

function add(edges: Edges, from: string, to: string, carries: boolean) {
  const list = edges.get(from)
  if (list) list.push({ to, carries })
  else edges.set(from, [{ to, carries }])
}

/** Follows a column through the steps of a statement, back to the tables and on to the result. */
export function pathOf(statement: Statement, chosen: string | undefined): Path {
  if (!chosen) return NO_PATH
  const back: Edges = new Map()
  const on: Edges = new Map()
  for (const step of statement.steps) {
    for (const column of step.columns) {
      const to = keyOf(step.name, column.name)
      for (const use of [...column.direct, ...column.indirect]) {
        const from = keyOf(use.of, use.column)
        const carries = column.direct.includes(use)
        add(back, to, from, carries)
        add(on, from, to, carries)
      }
    }
  }
  const path: Path = { carries: new Set(), decides: new Set() }
  walk(chosen, back, path)
  walk(chosen, on, path)
  return path
}

function walk(from: string, edges: Edges, path: Path) {
  const next: { key: string; carries: boolean }[] = [{ key: from, carries: true }]
  const seen = new Set<string>()
  while (next.length > 0) {
    const one = next.pop() as { key: string; carries: boolean }
    const mark = `${one.carries} ${one.key}`
    if (seen.has(mark)) continue
    seen.add(mark)
    if (one.carries) path.carries.add(one.key)
    else path.decides.add(one.key)
    for (const edge of edges.get(one.key) ?? []) {
      next.push({ key: edge.to, carries: one.carries && edge.carries })
    }
  }
  for (const key of path.carries) path.decides.delete(key)
}

/** A stretch of text that is lit, or not; `keys` are the columns it computes. */
export type Stretch = { start: number; text: string; lit: boolean; keys: string[] }

/** Cuts a text where the lit parts begin and end. */
export function stretches(text: string, statement: Statement, path: Path): Stretch[] {
  const spans: { start: number; end: number; key: string }[] = []
  for (const step of statement.steps) {
    for (const column of step.columns) {
      if (column.span) {
        spans.push({ start: column.span.start, end: column.span.end, key: keyOf(step.name, column.name) })
      }
    }
  }
  const cuts = [...new Set([0, text.length, ...spans.flatMap((s) => [s.start, s.end])])]
    .filter((cut) => cut <= text.length)
    .sort((a, b) => a - b)
  const list: Stretch[] = []
  for (let i = 0; i + 1 < cuts.length; i++) {
    const own = spans
      .filter((s) => s.start <= cuts[i] && s.end >= cuts[i + 1])
      .sort((a, b) => a.end - a.start - (b.end - b.start))
    list.push({
      start: cuts[i],
      text: text.slice(cuts[i], cuts[i + 1]),
      lit: own.some((s) => path.carries.has(s.key)),
      keys: own.map((s) => s.key),
    })
  }
  return list
}

/** The columns of tables that a statement uses, by table, each with what it is used for. */
export function tableColumns(statement: Statement): Map<string, Map<string, Set<string>>> {
  const tables = new Map<string, Map<string, Set<string>>>()
  const use = (of: string, column: string, how: string) => {
    const columns = tables.get(of) ?? new Map<string, Set<string>>()
    tables.set(of, columns)
    columns.set(column, (columns.get(column) ?? new Set()).add(how))
  }
  for (const name of statement.reads) tables.set(name, new Map())
  for (const step of statement.steps) {
    for (const one of step.rows) if (!one.step) use(one.of, one.column, one.how)
    for (const column of step.columns) {
      for (const one of [...column.direct, ...column.indirect]) {
        if (!one.step) use(one.of, one.column, one.how)
      }
    }
  }
  return tables
}

/** The column of the result that a statement is best opened at, if it has one of that name. */
export function resultColumn(statement: Statement, name: string | undefined): string | undefined {
  const result = statement.steps.at(-1)
  const column = result?.columns.find((c) => c.name.toLowerCase() === name?.toLowerCase())
  return result && column ? keyOf(result.name, column.name) : undefined
}

/** The statement asked for, else the first that makes the column, else the last that writes. */
export function preferred(
  statements: Statement[],
  asked: string | undefined,
  column: string | undefined,
): number {
  if (asked !== undefined && statements[Number(asked)]) return Number(asked)
  const making = statements.findIndex((one) => !one.temporary && resultColumn(one, column))
  if (making >= 0) return making
  const writing = statements.findLastIndex((one) => !one.temporary && one.outputs.length > 0)
  return writing >= 0 ? writing : 0
}
