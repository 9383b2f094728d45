import { describe, expect, it } from 'vitest'
import { keyOf, pathOf, resultColumn, type Statement, stretches, tableColumns } from './path'

const use = (of: string, step: boolean, column: string, subtype = 'IDENTITY') => ({
  of,
  step,
  column,
  subtype,
  masked: false,
})
const column = (name: string, direct: object[], indirect: object[] = [], span?: object) => ({
  name,
  direct,
  indirect,
  span,
  constants: [],
  inPlace: false,
})

const text = 'with n as (select l * 2 as l, f from t where k) select l, f from n'
const statement = {
  reads: ['t'],
  steps: [
    {
      name: 'n',
      kind: 'cte',
      columns: [
        column('l', [use('t', false, 'l', 'TRANSFORMATION')], [use('t', false, 'c', 'CONDITIONAL')], {
          start: 18,
          end: 23,
        }),
        column('f', [use('t', false, 'f')], [], { start: 30, end: 31 }),
      ],
      rows: [use('t', false, 'k', 'FILTER')],
      from: ['t'],
    },
    {
      name: 'result',
      kind: 'result',
      columns: [
        column('l', [use('n', true, 'l')], [], { start: 55, end: 56 }),
        column('f', [use('n', true, 'f')], [], { start: 58, end: 59 }),
      ],
      rows: [],
      from: ['n'],
    },
  ],
} as unknown as Statement

describe('the path of a column', () => {
  it('goes back to the tables and keeps what only decides apart', () => {
    const path = pathOf(statement, keyOf('result', 'l'))
    expect([...path.carries].sort()).toEqual([keyOf('n', 'l'), keyOf('result', 'l'), keyOf('t', 'l')])
    expect([...path.decides]).toEqual([keyOf('t', 'c')])
  })

  it('goes on to the result from a column of a table', () => {
    expect(pathOf(statement, keyOf('t', 'f')).carries).toContain(keyOf('result', 'f'))
  })

  it('is empty when nothing is chosen', () => {
    expect(pathOf(statement, undefined).carries.size).toBe(0)
  })

  it('lights the exact parts of the text', () => {
    const lit = stretches(text, statement, pathOf(statement, keyOf('result', 'l')))
      .filter((part) => part.lit)
      .map((part) => part.text)
    expect(lit).toEqual(['l * 2', 'l'])
  })

  it('loses no character of the text', () => {
    const all = stretches(text, statement, pathOf(statement, keyOf('result', 'l')))
    expect(all.map((part) => part.text).join('')).toBe(text)
  })
})

it('lists the columns of tables with what they are used for', () => {
  expect([...(tableColumns(statement).get('t')?.keys() ?? [])].sort()).toEqual(['c', 'f', 'k', 'l'])
})

it('finds the column of the result whatever its case', () => {
  expect(resultColumn(statement, 'L')).toBe(keyOf('result', 'l'))
  expect(resultColumn(statement, 'nothing')).toBeUndefined()
})
