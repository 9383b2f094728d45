import { useQuery } from '@tanstack/react-query'
import { type Schemas, send } from '../api/client'
import { Answer } from '../shared/Answer'
import { StepsView } from './StepsView'

/** The text of a check, with what it looks at. */
export function CheckSql({ text }: { text: string }) {
  const read = useQuery({
    queryKey: ['sql', text],
    queryFn: () =>
      send<Schemas['SqlStatementLineage'][]>('POST', 'sql/lineage', { sql: text, dialect: 'postgres' }),
  })
  return (
    <Answer of={read}>{(statements) => <StepsView text={text} statements={statements} tables={{}} />}</Answer>
  )
}
