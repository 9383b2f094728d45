import { useQuery } from '@tanstack/react-query'
import { Alert, Empty, Switch, Table } from 'antd'
import { Link } from 'react-router'
import { get, type Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { assetPath, flowWords, shortRef, stepsPath } from '../shared/format'
import { AssetLink, KindMark } from '../shared/marks'
import { useInks } from '../shared/useInks'
import { useUrlState } from '../shared/useUrlState'

/** A job from the inside: each target's columns with how and whence, its inputs' columns beside them. */
export function JobMap({ refText }: { refText: string }) {
  const job = useQuery({
    queryKey: ['job', refText],
    queryFn: ({ signal }) => get<Schemas['JobDetail']>('job', { ref: refText }, signal),
  })
  return (
    <Answer of={job}>
      {(detail) =>
        detail.targets.length + detail.inputs.length === 0 ? (
          <Empty description="No event told what this job reads or writes." />
        ) : (
          <>
            {detail.targets.map((target) => (
              <TargetMap key={target.ref} job={detail.ref} target={target} />
            ))}
            <InputColumns inputs={detail.inputs} />
          </>
        )
      }
    </Answer>
  )
}

function TargetMap({ job, target }: { job: string; target: Schemas['Target'] }) {
  const ink = useInks()
  return (
    <section style={{ marginBottom: 18 }}>
      <h2 style={{ fontSize: 14, margin: '4px 0' }}>
        Writes <KindMark kind={target.kind} /> <AssetLink refText={target.ref} name={target.name} />
      </h2>
      {target.missing && <Alert type="warning" title={target.missing} style={{ marginBottom: 8 }} />}
      <Table
        size="small"
        pagination={false}
        rowKey="name"
        dataSource={target.columns}
        columns={[
          { title: 'Column', dataIndex: 'name', render: (name) => <strong>{name}</strong> },
          {
            title: 'Type',
            dataIndex: 'type',
            render: (type) => <span style={{ color: ink.quiet }}>{type}</span>,
          },
          {
            title: 'How',
            render: (_, column) => (
              <Link
                to={stepsPath(job, `#${column.name}`)}
                title="The steps that make it"
                style={{ color: ink.thread }}
              >
                {column.from.length > 0
                  ? [...new Set(column.from.flatMap((f) => f.flows.map(flowWords)))].join(', ')
                  : column.told
                    ? 'set to a constant, or by the rows'
                    : 'not told'}
              </Link>
            ),
          },
          {
            title: 'From',
            render: (_, column) =>
              column.from.map((from) => (
                <div key={from.ref}>
                  <Link to={assetPath(from.ref)} title={from.ref}>
                    {shortRef(from.ref)}
                  </Link>
                  {from.masking && <small> masked</small>}
                </div>
              )),
          },
        ]}
      />
      {target.rows.length > 0 && (
        <p style={{ margin: '6px 0', color: ink.quiet }}>
          Only decide which rows are there:{' '}
          {target.rows.map((row, i) => (
            <span key={row.ref}>
              {i > 0 && ', '}
              <Link to={assetPath(row.ref)}>{shortRef(row.ref)}</Link> {row.flows.map(flowWords).join(', ')}
            </span>
          ))}
        </p>
      )}
    </section>
  )
}

type InputRow = Schemas['InputColumn'] & { key: string; dataset: string; datasetName: string }

function InputColumns({ inputs }: { inputs: Schemas['Input'][] }) {
  const ink = useInks()
  const [read, write] = useUrlState()
  const unusedOnly = read('unused') === 'yes'
  const rows: InputRow[] = inputs.flatMap((input) =>
    input.columns.map((column) => ({
      ...column,
      key: `${input.ref}#${column.name}`,
      dataset: input.ref,
      datasetName: shortRef(input.ref),
    })),
  )
  return (
    <section>
      <h2 style={{ fontSize: 14, margin: '4px 0', display: 'flex', gap: 16, alignItems: 'center' }}>
        Reads
        <label
          htmlFor="unused-only"
          style={{ fontWeight: 400, fontSize: 12, display: 'flex', gap: 6, alignItems: 'center' }}
        >
          <Switch
            id="unused-only"
            size="small"
            checked={unusedOnly}
            onChange={(on) => write({ unused: on ? 'yes' : undefined })}
          />
          only what lands nowhere
        </label>
      </h2>
      <Table
        size="small"
        pagination={rows.length > 60 ? { pageSize: 60 } : false}
        dataSource={unusedOnly ? rows.filter((row) => row.lands.length === 0) : rows}
        columns={[
          {
            title: 'Source column',
            render: (_, row) => (
              <Link to={assetPath(row.dataset)} title={row.dataset}>
                {row.datasetName}#{row.name}
              </Link>
            ),
          },
          {
            title: 'Type',
            dataIndex: 'type',
            render: (type) => <span style={{ color: ink.quiet }}>{type}</span>,
          },
          {
            title: 'Lands in',
            render: (_, row) =>
              row.lands.length > 0 ? (
                row.lands.map(shortRef).join(', ')
              ) : (
                <em style={{ color: ink.quiet }}>nowhere</em>
              ),
          },
          { title: 'Used to', render: (_, row) => row.decides.map(flowWords).join(', ') },
        ]}
      />
    </section>
  )
}
