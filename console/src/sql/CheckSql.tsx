import { Answer } from '../shared/Answer'
import { useSqlLineage } from './queries'
import { StepsView } from './StepsView'

/** The text of a check, with what it looks at. */
export function CheckSql({ text }: { text: string }) {
  return (
    <Answer of={useSqlLineage(text)}>
      {(statements) => <StepsView text={text} statements={statements} tables={{}} />}
    </Answer>
  )
}
