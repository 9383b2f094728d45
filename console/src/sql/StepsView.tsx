import { Alert, Empty, Segmented } from 'antd'
import { useMemo } from 'react'
import { shortRef, spoken } from '../shared/format'
import shared from '../shared/shared.module.css'
import { useUrlState } from '../shared/useUrlState'
import { pathOf, preferred, resultColumn, type Statement } from './path'
import { SqlText } from './SqlText'
import styles from './sql.module.css'
import { StepBox, TableBoxes } from './steps'

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
  const choosing = { path, chosen, choose }
  return (
    <>
      {statements.length > 1 && (
        <Segmented
          size="small"
          className={styles.statements}
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
          className={shared.below}
        />
      ))}
      <div className={styles.body}>
        <div className={styles.steps}>
          <TableBoxes statement={statement} tables={tables} {...choosing} />
          {statement.steps.map((step) => (
            <StepBox key={step.name} step={step} statement={statement} {...choosing} />
          ))}
        </div>
        {text !== undefined && <SqlText text={text} statement={statement} {...choosing} />}
      </div>
    </>
  )
}

function title(statement: Statement): string {
  const target = statement.target ? ` ${shortRef(statement.target)}` : ''
  return `${spoken(statement.kind)}${target}`
}
