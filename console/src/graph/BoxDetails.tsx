import { useQuery } from '@tanstack/react-query'
import { Button, Collapse } from 'antd'
import { Link } from 'react-router'
import { get, type Schemas } from '../api/client'
import { Answer } from '../shared/Answer'
import { ago, assetPath, flowWords, shortRef, stepsPath } from '../shared/format'
import { KindMark, Labels, Owners, StateMark } from '../shared/marks'
import { useInks } from '../shared/useInks'

type Props = { refText: string; column: string | undefined; onRecentre: (ref: string) => void }

/** What a picked box is, beside the picture. */
export function BoxDetails({ refText, column, onRecentre }: Props) {
  const ink = useInks()
  const asset = useQuery({
    queryKey: ['asset', refText],
    queryFn: ({ signal }) => get<Schemas['AssetDetail']>('asset', { ref: refText }, signal),
  })
  return (
    <Answer of={asset}>
      {(detail) => {
        const chosen = detail.columns.find((one) => one.ref === column)
        return (
          <div style={{ padding: 12, overflow: 'auto' }}>
            <KindMark kind={detail.kind} />
            <h2 style={{ fontSize: 16, margin: '2px 0' }}>
              <Link to={assetPath(detail.ref)}>{detail.title ?? detail.name}</Link>
            </h2>
            <code style={{ fontSize: 11, color: ink.quiet, wordBreak: 'break-all' }}>{detail.ref}</code>
            {detail.description && <p>{detail.description}</p>}
            <p style={{ margin: '6px 0' }}>
              Owner <Owners owners={detail.owners} />
              <br />
              Written {ago(detail.freshness.written)}, last run <StateMark state={detail.freshness.state} />
            </p>
            <Labels labels={detail.labels} />
            {chosen && <ChosenColumn column={chosen} />}
            <div style={{ display: 'flex', gap: 6, margin: '10px 0', flexWrap: 'wrap' }}>
              <Button size="small" onClick={() => onRecentre(detail.ref)}>
                Recentre here
              </Button>
              {!detail.ref.startsWith('@') && (
                <Link to={`/impact?ref=${encodeURIComponent(column ?? detail.ref)}`}>
                  <Button size="small">Impact</Button>
                </Link>
              )}
              <Link to={`/causes?ref=${encodeURIComponent(detail.ref)}`}>
                <Button size="small">Causes</Button>
              </Link>
            </div>
            {detail.code && (
              <Collapse
                size="small"
                defaultActiveKey="code"
                items={[
                  {
                    key: 'code',
                    label: detail.code.language.toUpperCase(),
                    children: (
                      <pre className="code" style={{ maxHeight: 320 }}>
                        {detail.code.text}
                      </pre>
                    ),
                  },
                ]}
              />
            )}
          </div>
        )
      }}
    </Answer>
  )
}

function ChosenColumn({ column }: { column: Schemas['ColumnDetail'] }) {
  const ink = useInks()
  return (
    <section style={{ borderLeft: `3px solid ${ink.thread}`, paddingLeft: 8, margin: '10px 0' }}>
      <strong>{column.name}</strong> <span style={{ color: ink.quiet }}>{column.type}</span>
      {column.description && <p style={{ margin: '2px 0' }}>{column.description}</p>}
      {column.sources.map((source) => (
        <div key={`${source.ref} ${source.flow} ${source.by}`}>
          <span style={{ color: ink.thread }}>{flowWords(source.flow)}</span> {shortRef(source.ref)}
          {source.by.startsWith('@') && (
            <small>
              {' '}
              by <Link to={stepsPath(source.by, `#${column.name}`)}>{shortRef(source.by)}</Link>
            </small>
          )}
        </div>
      ))}
      {column.constants.map((constant) => (
        <div key={`${constant.by} ${constant.text}`}>
          <span style={{ color: ink.quiet }}>constant</span> <code>{constant.text}</code>
          <small>
            {' '}
            by <Link to={stepsPath(constant.by, `#${column.name}`)}>{shortRef(constant.by)}</Link>, no data
            from upstream
          </small>
        </div>
      ))}
    </section>
  )
}
