import { Alert, Button, Empty, Table, type TableColumnsType } from 'antd'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { HealthReasons } from '../health/HealthMark'
import { Answer } from '../shared/Answer'
import { AssetPicker } from '../shared/AssetPicker'
import { assetOf, moment, pagePath } from '../shared/format'
import { KindIcon } from '../shared/kinds'
import { Owners } from '../shared/marks'
import { Since } from '../shared/Since'
import shared from '../shared/shared.module.css'
import { useAsset } from '../shared/useAsset'
import { useUrlState } from '../shared/useUrlState'
import styles from './reader.module.css'
import { useReader } from './useReader'

type Reader = Schemas['Reader']

/** A field or chart in plain words, for people who do not know the trade. */
export function ReaderPage() {
  const [read, write] = useUrlState()
  const ref = read('ref')
  if (!ref) {
    return (
      <div className={shared.empty}>
        <Empty description="Name a chart, a report or a field of one to read what it means." />
        <AssetPicker
          label="What to read about"
          placeholder="a chart or a field"
          value={undefined}
          onPick={(picked) => write({ ref: picked })}
        />
      </div>
    )
  }
  return <OneReader refText={ref} />
}

function OneReader({ refText }: { refText: string }) {
  return (
    <Answer of={useReader(refText)}>
      {(reader) => (
        <article className={styles.page}>
          <Opening reader={reader} />
          <Warnings refText={assetOf(reader.ref)} />
          {reader.fields.length > 0 && <Fields reader={reader} />}
          {reader.stops.length > 0 && <Way reader={reader} />}
        </article>
      )}
    </Answer>
  )
}

/** What is wrong with it or upstream, and what people say of it. */
function Warnings({ refText }: { refText: string }) {
  const asset = useAsset(refText)
  return asset.data ? (
    <HealthReasons health={asset.data.health} name={asset.data.title ?? asset.data.name} />
  ) : null
}

/** The meaning first, then how far it can be relied on, then whom to ask. */
function Opening({ reader }: { reader: Reader }) {
  const isField = reader.ref.includes('#')
  return (
    <header>
      <div className={styles.place}>
        <KindIcon kind={reader.kind} /> {reader.kind} · {reader.place}
        {isField && (
          <>
            {' · '}
            <Link to={pagePath('reader', reader.ref.slice(0, reader.ref.indexOf('#')))}>all its fields</Link>
          </>
        )}
      </div>
      <h1 className={styles.title}>{reader.name}</h1>
      <p className={styles.definition}>
        {reader.definition ?? 'Nobody has written down what it means. Ask the owner.'}
        {reader.definedAt && <small className={shared.quiet}> (as described at {reader.definedAt})</small>}
      </p>
      {reader.calculation && (
        <p>
          It is calculated: <code>{reader.calculation}</code>
        </p>
      )}
      {reader.warnings.map((warning) => (
        <Alert key={warning} type="warning" showIcon className={shared.below} title={warning} />
      ))}
      <dl className={styles.facts}>
        <dt>Data as of</dt>
        <dd>
          {reader.freshAt ? (
            <>
              {moment(reader.freshAt)}, <Since at={reader.freshAt} />
            </>
          ) : (
            'not known'
          )}
        </dd>
        {reader.approved && (
          <>
            <dt>Approved by</dt>
            <dd>{reader.approved}</dd>
          </>
        )}
        <dt>Ask</dt>
        <dd>
          <Owners owners={reader.owners} />
        </dd>
      </dl>
      <div className={styles.buttons}>
        <Link to={pagePath('graph', reader.ref)}>
          <Button size="small">Full graph</Button>
        </Link>
        {reader.url && (
          <a href={reader.url}>
            <Button size="small">Open in its tool</Button>
          </a>
        )}
      </div>
    </header>
  )
}

const FIELDS: TableColumnsType<Schemas['ReaderField']> = [
  {
    title: 'Field',
    dataIndex: 'name',
    render: (name, field) => (
      <Link to={pagePath('reader', field.ref)}>
        <strong>{name}</strong>
      </Link>
    ),
  },
  {
    title: 'Meaning',
    render: (_, field) =>
      field.definition ?? <span className={shared.quiet}>{field.calculation ?? '–'}</span>,
  },
]

function Fields({ reader }: { reader: Reader }) {
  return (
    <section>
      <h2 className={styles.heading}>Its fields</h2>
      <Table
        size="small"
        className={shared.panel}
        rowKey="ref"
        pagination={false}
        dataSource={reader.fields}
        columns={FIELDS}
      />
    </section>
  )
}

/** One sentence a stop, from here back to where the field is captured. */
function Way({ reader }: { reader: Reader }) {
  return (
    <section>
      <h2 className={styles.heading}>Where it comes from</h2>
      <ol className={styles.way}>
        {reader.stops.map((stop) => (
          <li key={stop.ref} className={stop.isCapture ? `${styles.stop} ${styles.capture}` : styles.stop}>
            <div className={styles.stopPlace}>
              <KindIcon kind={stop.kind} />{' '}
              <Link to={pagePath('reader', stop.ref)} title={stop.ref}>
                {stop.place}
              </Link>
              <span className={shared.quiet}> {stop.where}</span>
              {stop.isRenamed && (
                <span className={shared.thread}>
                  {' '}
                  called <strong>{stop.name}</strong> here
                </span>
              )}
            </div>
            <div>{stop.sentence}</div>
            {stop.calculation && <code className={styles.calculation}>{stop.calculation}</code>}
          </li>
        ))}
      </ol>
      {reader.more > 0 && (
        <p>
          {reader.more} more stops lie behind these. <Link to={pagePath('graph', reader.ref)}>See all</Link>
        </p>
      )}
    </section>
  )
}
