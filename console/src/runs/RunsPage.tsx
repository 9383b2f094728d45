import { Button, Empty, Select, Switch } from 'antd'
import { Answer } from '../shared/Answer'
import shared from '../shared/shared.module.css'
import { useSearch } from '../shared/useSearch'
import { useUrlState } from '../shared/useUrlState'
import { RunTable } from './RunTable'
import styles from './runs.module.css'
import { useRuns } from './useRuns'

const STATES = ['completed', 'failed', 'aborted', 'running', 'unknown']
const MAX_RUNS = 1000
const MORE_RUNS = 200

/** Runs across all jobs, newest first. */
export function RunsPage() {
  const [read, write] = useUrlState()
  const limit = Number(read('limit') ?? 100)
  const runs = useRuns({
    pipeline: read('pipeline'),
    state: read('state'),
    system: read('system'),
    outermost: read('tasks') !== 'yes' && !read('pipeline'),
    limit,
  })
  return (
    <div className={shared.page}>
      <RunFilters />
      <Answer of={runs}>
        {(answer) =>
          answer.runs.length === 0 ? (
            <Empty description="No run matches. Runs appear as soon as an orchestrator sends events." />
          ) : (
            <section className={shared.panel}>
              <RunTable runs={answer.runs} />
              {answer.cursor && limit < MAX_RUNS && (
                <Button
                  block
                  type="text"
                  onClick={() => write({ limit: String(Math.min(MAX_RUNS, limit + MORE_RUNS)) })}
                >
                  Show more
                </Button>
              )}
            </section>
          )
        }
      </Answer>
    </div>
  )
}

function RunFilters() {
  const [read, write] = useUrlState()
  const pipelines = useSearch({ kind: 'pipeline', limit: MAX_RUNS }).data?.hits ?? []
  const systems = [...new Set(pipelines.map((hit) => hit.system))]
  return (
    <div className={shared.bar}>
      <Select
        aria-label="Pipeline"
        allowClear
        showSearch={{ optionFilterProp: 'label' }}
        placeholder="Any pipeline"
        className={styles.pipeline}
        value={read('pipeline')}
        onChange={(pipeline) => write({ pipeline })}
        options={pipelines.map((hit) => ({ value: hit.ref, label: hit.name }))}
      />
      <Select
        aria-label="State"
        allowClear
        placeholder="Any state"
        className={styles.choice}
        value={read('state')}
        onChange={(state) => write({ state })}
        options={STATES.map((state) => ({ value: state, label: state }))}
      />
      <Select
        aria-label="System"
        allowClear
        placeholder="Any system"
        className={styles.choice}
        value={read('system')}
        onChange={(system) => write({ system })}
        options={systems.map((system) => ({ value: system, label: system }))}
      />
      <label htmlFor="tasks-too" className={styles.tasksToo}>
        <Switch
          id="tasks-too"
          size="small"
          checked={read('tasks') === 'yes'}
          onChange={(on) => write({ tasks: on ? 'yes' : undefined })}
        />
        Tasks as separate rows
      </label>
    </div>
  )
}
