import { useQuery } from '@tanstack/react-query'
import { Empty, Table } from 'antd'
import { get, type Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { count, moment } from '../shared/format'
import { useInks } from '../shared/useInks'

/** What changed of an asset and when; of a dataset also the amounts that were told of it. */
export function History({ asset }: { asset: Schemas['AssetDetail'] }) {
  const ink = useInks()
  const history = useQuery({
    queryKey: ['history', asset.ref],
    queryFn: ({ signal }) => get<Schemas['History']>('history', { ref: asset.ref, limit: 500 }, signal),
  })
  return (
    <>
      <Answer of={history}>
        {(answer) =>
          answer.changes.length === 0 ? (
            <Empty description="Nothing was told of it that could change." />
          ) : (
            <Table
              size="small"
              rowKey={(change) => `${change.at} ${change.part} ${change.kind}`}
              pagination={{ pageSize: 20, hideOnSinglePage: true, showSizeChanger: false }}
              dataSource={answer.changes}
              columns={[
                { title: 'At', dataIndex: 'at', render: moment, width: 140 },
                {
                  title: 'What',
                  dataIndex: 'kind',
                  width: 150,
                  filters: [...new Set(answer.changes.map((change) => change.kind))].map((kind) => ({
                    text: kind,
                    value: kind,
                  })),
                  onFilter: (kind, change) => change.kind === kind,
                },
                {
                  title: 'Change',
                  dataIndex: 'words',
                  render: (words: string[]) => words.map((word) => <div key={word}>{word}</div>),
                },
              ]}
            />
          )
        }
      </Answer>
      {!asset.ref.startsWith('@') && (
        <>
          <h2 style={{ fontSize: 13, color: ink.quiet }}>Amounts</h2>
          <Amounts refText={asset.ref} />
        </>
      )}
    </>
  )
}

function Amounts({ refText }: { refText: string }) {
  const figures = useQuery({
    queryKey: ['figures', refText],
    queryFn: ({ signal }) => get<Schemas['Figures']>('figures', { ref: refText }, signal),
  })
  return (
    <Answer of={figures}>
      {(answer) => (
        <Table
          size="small"
          rowKey={(figure) => `${figure.at} ${figure.told} ${figure.run}`}
          pagination={{ pageSize: 10, hideOnSinglePage: true, showSizeChanger: false }}
          dataSource={answer.figures}
          locale={{ emptyText: 'No run told how much it read or wrote.' }}
          columns={[
            { title: 'At', dataIndex: 'at', render: moment, width: 140 },
            { title: 'Told of', dataIndex: 'told', width: 100 },
            { title: 'Rows', dataIndex: 'rows', align: 'right', render: count },
            { title: 'Bytes', dataIndex: 'bytes', align: 'right', render: count },
            { title: 'Files', dataIndex: 'files', align: 'right', render: count },
            {
              title: 'Columns measured',
              dataIndex: 'columns',
              render: (columns: Record<string, unknown>) => Object.keys(columns).join(', '),
            },
          ]}
        />
      )}
    </Answer>
  )
}
