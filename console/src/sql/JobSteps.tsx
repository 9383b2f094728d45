import { Alert, Empty } from 'antd'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { assetPath, shortRef } from '../shared/format'
import shared from '../shared/shared.module.css'
import { useJobSteps } from './queries'
import { StepsView } from './StepsView'
import styles from './sql.module.css'

/** How a job computes what it writes, and where its report and its SQL do not say the same. */
export function JobSteps({ refText }: { refText: string }) {
  return (
    <Answer of={useJobSteps(refText)}>
      {(answer) =>
        answer.from === 'unknown' ? (
          <Empty description="Steps are not known: the job reported neither its SQL nor its inner steps." />
        ) : (
          <>
            <Differences answer={answer} />
            {!answer.complete &&
              answer.problems.map((problem) => (
                <Alert key={problem} type="warning" title={problem} className={shared.below} />
              ))}
            <StepsView text={answer.text} statements={answer.statements} tables={answer.tables} />
          </>
        )
      }
    </Answer>
  )
}

function Differences({ answer }: { answer: Schemas['JobSteps'] }) {
  if (answer.differences.length === 0) {
    return answer.confirmed > 0 ? (
      <p className={styles.agree}>The run's column map and its SQL agree on all {answer.confirmed} links.</p>
    ) : null
  }
  return (
    <Alert
      type="warning"
      className={shared.below}
      title={`The run's column map and its SQL agree on ${answer.confirmed} links and differ on ${answer.differences.length}`}
      description={
        <ul className={styles.differences}>
          {answer.differences.map((one) => (
            <li key={`${one.column} ${one.source} ${one.only} ${one.flow}`}>
              {one.only === 'run' ? 'only the run' : 'only the SQL'} has{' '}
              <Link to={assetPath(one.column)}>{shortRef(one.column)}</Link> {one.how}{' '}
              <Link to={assetPath(one.source)}>{shortRef(one.source)}</Link>
            </li>
          ))}
        </ul>
      }
    />
  )
}
