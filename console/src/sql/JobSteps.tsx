import { useQuery } from '@tanstack/react-query'
import { Alert, Empty } from 'antd'
import { Link } from 'react-router'
import { get, type Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { assetPath, flowWords, shortRef } from '../shared/format'
import { useInks } from '../shared/useInks'
import { StepsView } from './StepsView'

/** How a job computes what it writes, and where its report and its SQL do not say the same. */
export function JobSteps({ refText }: { refText: string }) {
  const steps = useQuery({
    queryKey: ['steps', refText],
    queryFn: ({ signal }) => get<Schemas['JobSteps']>('job/steps', { ref: refText }, signal),
  })
  return (
    <Answer of={steps}>
      {(answer) =>
        answer.from === 'unknown' ? (
          <Empty description="Inside unknown: the job told neither its SQL nor its inner steps." />
        ) : (
          <>
            <Differences answer={answer} />
            {!answer.complete &&
              answer.problems.map((problem) => (
                <Alert key={problem} type="warning" title={problem} style={{ marginBottom: 6 }} />
              ))}
            <StepsView text={answer.text} statements={answer.statements} tables={answer.tables} />
          </>
        )
      }
    </Answer>
  )
}

function Differences({ answer }: { answer: Schemas['JobSteps'] }) {
  const ink = useInks()
  if (answer.differences.length === 0) {
    return answer.confirmed > 0 ? (
      <p style={{ color: ink.good, margin: '0 0 8px' }}>
        The run's column map and its SQL agree on all {answer.confirmed} links.
      </p>
    ) : null
  }
  return (
    <Alert
      type="warning"
      style={{ marginBottom: 8 }}
      title={`The run's column map and its SQL agree on ${answer.confirmed} links and differ on ${answer.differences.length}`}
      description={
        <ul style={{ margin: 0, paddingLeft: 18 }}>
          {answer.differences.map((one) => (
            <li key={`${one.column} ${one.source} ${one.only} ${one.flow}`}>
              {one.only === 'run' ? 'only the run' : 'only the SQL'} has{' '}
              <Link to={assetPath(one.column)}>{shortRef(one.column)}</Link> {flowWords(one.flow)}{' '}
              <Link to={assetPath(one.source)}>{shortRef(one.source)}</Link>
            </li>
          ))}
        </ul>
      }
    />
  )
}
