import { Link } from 'react-router'
import { useJob } from '../asset/queries'
import { Answer } from '../shared/Answer'
import { pagePath, shortRef, spoken } from '../shared/format'
import styles from './graph.module.css'

/** The columns of both sides of a job: what it writes with whence, and what it reads for nothing. */
export function BothSides({ job }: { job: string }) {
  return (
    <Answer of={useJob(job)}>
      {({ targets, inputs }) => (
        <section aria-label="Columns of both sides">
          {targets.map((target) => (
            <details key={target.ref} open className={styles.bothSides}>
              <summary>Writes {target.name}</summary>
              {target.columns.map((column) => (
                <div key={column.name}>
                  <Link to={pagePath('graph', `${target.ref}#${column.name}`)}>
                    <strong>{column.name}</strong>
                  </Link>{' '}
                  <span className={styles.quiet}>
                    {column.from.length > 0
                      ? `← ${column.from.map((from) => shortRef(from.ref)).join(', ')}`
                      : column.constants.length > 0
                        ? `constant ${column.constants.join(' or ')}`
                        : ''}
                  </span>
                </div>
              ))}
            </details>
          ))}
          {inputs.map((input) => (
            <details key={input.ref} className={styles.bothSides}>
              <summary>Reads {input.name}</summary>
              {input.columns.map((column) => (
                <div key={column.name}>
                  {column.name}{' '}
                  <span className={styles.quiet}>
                    {column.lands.length > 0
                      ? `→ ${column.lands.map(shortRef).join(', ')}`
                      : column.decides.length > 0
                        ? column.decides.map(spoken).join(', ')
                        : 'unused'}
                  </span>
                </div>
              ))}
            </details>
          ))}
        </section>
      )}
    </Answer>
  )
}
