import { useQuery } from '@tanstack/react-query'
import { Button, Empty, Select, Switch } from 'antd'
import { get, type Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { useInks } from '../shared/useInks'
import { useUrlState } from '../shared/useUrlState'
import { RunTable } from './RunTable'

const STATES = ['completed', 'failed', 'aborted', 'running']

/** Runs across all jobs, newest first. */
export function RunsPage() {
  const ink = useInks()
  const [read, write] = useUrlState()
  const query = {
    pipeline: read('pipeline'),
    state: read('state'),
    system: read('system'),
    outermost: read('tasks') !== 'yes' && !read('pipeline'),
    limit: Number(read('limit') ?? 100),
  }
  const runs = useQuery({
    queryKey: ['runs', query],
    queryFn: ({ signal }) => get<Schemas['Runs']>('runs', query, signal),
    placeholderData: (before) => before,
  })
  const pipelines = useQuery({
    queryKey: ['pipelines'],
    queryFn: () => get<Schemas['Found']>('search', { kind: 'pipeline', limit: 1000 }),
  })
  const systems = [...new Set((pipelines.data?.hits ?? []).map((hit) => hit.system))]
  return (
    <div style={{ padding: 16, maxWidth: 1400, margin: '0 auto' }}>
      <div style={{ display: 'flex', gap: 10, marginBottom: 12, alignItems: 'center' }}>
        <Select
          aria-label="Pipeline"
          allowClear
          showSearch
          placeholder="Any pipeline"
          style={{ width: 240 }}
          value={query.pipeline}
          onChange={(pipeline) => write({ pipeline })}
          options={(pipelines.data?.hits ?? []).map((hit) => ({ value: hit.ref, label: hit.name }))}
        />
        <Select
          aria-label="State"
          allowClear
          placeholder="Any state"
          style={{ width: 140 }}
          value={query.state}
          onChange={(state) => write({ state })}
          options={STATES.map((state) => ({ value: state, label: state }))}
        />
        <Select
          aria-label="System"
          allowClear
          placeholder="Any system"
          style={{ width: 160 }}
          value={query.system}
          onChange={(system) => write({ system })}
          options={systems.map((system) => ({ value: system, label: system }))}
        />
        <label htmlFor="tasks-too" style={{ display: 'flex', gap: 6, alignItems: 'center' }}>
          <Switch
            id="tasks-too"
            size="small"
            checked={read('tasks') === 'yes'}
            onChange={(on) => write({ tasks: on ? 'yes' : undefined })}
          />
          tasks as rows of their own
        </label>
      </div>
      <Answer of={runs}>
        {(answer) =>
          answer.runs.length === 0 ? (
            <Empty description="No run matches. Runs appear as soon as an orchestrator sends events." />
          ) : (
            <section style={{ background: ink.panel, border: `1px solid ${ink.line}` }}>
              <RunTable runs={answer.runs} />
              {answer.cursor && (
                <Button
                  block
                  type="text"
                  onClick={() => write({ limit: String(Math.min(1000, query.limit + 200)) })}
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
