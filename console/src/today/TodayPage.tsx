import { Input, Table } from 'antd'
import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { whatWords } from '../causes/SuspectCard'
import { HealthMark, StateWord } from '../health/HealthMark'
import { Answer } from '../shared/Answer'
import { ago, count, moment, pagePath, spoken } from '../shared/format'
import { AssetLink, KindMark, Owners } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import { useUrlState } from '../shared/useUrlState'
import styles from './today.module.css'
import { useToday } from './useToday'

type Today = Schemas['TodayAnswer']

/** What needs somebody now: causes, not effects; reports in trouble; what became unknown; the intake. */
export function TodayPage() {
  const [read, write] = useUrlState()
  const owner = read('owner')
  return (
    <div className={shared.page}>
      <div className={shared.bar}>
        <Input.Search
          aria-label="Owner"
          placeholder="Only one owner"
          defaultValue={owner}
          allowClear
          size="small"
          style={{ width: 240 }}
          onSearch={(text) => write({ owner: text.trim() || undefined })}
        />
      </div>
      <Answer of={useToday(owner)}>{(today) => <Sections today={today} />}</Answer>
    </div>
  )
}

function Sections({ today }: { today: Today }) {
  return (
    <div className={styles.columns}>
      <section aria-label="Causes" className={styles.causes}>
        <h2 className={styles.heading}>
          {today.causeCount === 0 ? 'Nothing fails, is late or deviates' : `${today.causeCount} to look at`}
        </h2>
        {today.causes.map((cause) => (
          <CauseRow key={`${cause.ref} ${cause.what} ${cause.column}`} cause={cause} />
        ))}
        <Notices notices={today.notices} />
      </section>
      <aside className={styles.side}>
        <Pages today={today} />
        <Spots spots={today.blindSpots} />
        <Intake intake={today.intake} />
        <p className={shared.quiet}>As of {moment(today.at)}</p>
      </aside>
    </div>
  )
}

function CauseRow({ cause }: { cause: Schemas['TodayCause'] }) {
  const first = cause.pages[0]
  return (
    <article className={styles.cause} aria-label={cause.name}>
      <div className={styles.head}>
        <KindMark kind={cause.kind} />
        <strong>
          <AssetLink refText={cause.ref} name={cause.name} />
        </strong>
        {cause.column && <code>{cause.column}</code>}
        <span className={shared.bad}>{whatWords(cause.what)}</span>
        <span className={shared.quiet} title={moment(cause.since)}>
          {ago(cause.since)}
        </span>
        <span className={shared.space} />
        <span title="assets that rest on it">affects {count(cause.affects)}</span>
      </div>
      <div>{cause.error ?? cause.evidence}</div>
      <div className={shared.quiet}>
        <Owners owners={cause.owners} />
        {cause.pages.length > 0 && (
          <>
            {' · reaches '}
            {cause.pages.map((page, i) => (
              <span key={page.ref}>
                {i > 0 && ', '}
                <AssetLink refText={page.ref} name={page.name} />
              </span>
            ))}
          </>
        )}
        {cause.effects.length > 0 &&
          ` · followed by ${cause.effects.map((effect) => effect.name).join(', ')}`}
        {first && (
          <>
            {' · '}
            <Link to={pagePath('causes', first.ref)}>Open in causes</Link>
          </>
        )}
      </div>
    </article>
  )
}

function Notices({ notices }: { notices: Schemas['Notice'][] }) {
  if (notices.length === 0) return null
  return (
    <>
      <h2 className={styles.heading}>
        <Link to="/follow?tab=notices">Notices</Link>
      </h2>
      {notices.map((notice) => (
        <p key={notice.id} className={styles.line}>
          <span className={notice.level === 'stop' ? shared.bad : shared.wait}>{spoken(notice.level)}</span>{' '}
          <AssetLink refText={notice.ref} name={notice.name} />: {notice.text}{' '}
          <span className={shared.quiet}>
            {notice.by}, shown on {count(notice.affects)} more
          </span>
        </p>
      ))}
    </>
  )
}

function Pages({ today }: { today: Today }) {
  return (
    <section aria-label="Reports">
      <h2 className={styles.heading}>
        {today.pageCount === 0 ? 'All reports are as usual' : `${today.pageCount} reports in trouble`}
      </h2>
      {today.pages.length > 0 && (
        <Table
          size="small"
          className={shared.panel}
          rowKey="ref"
          pagination={pagesOf(today.pages)}
          dataSource={today.pages}
          columns={[
            { title: 'Report', render: (_, page) => <AssetLink refText={page.ref} name={page.name} /> },
            { title: 'State', render: (_, page) => <HealthMark health={page.health} /> },
            {
              title: 'Right again by',
              render: (_, page) =>
                page.expectedAt ? moment(page.expectedAt) : <span className={shared.quiet}>not known</span>,
            },
          ]}
        />
      )}
    </section>
  )
}

function Spots({ spots }: { spots: Schemas['TodaySpots'] }) {
  return (
    <section aria-label="New blind spots">
      <h2 className={styles.heading}>
        <Link to="/coverage?tab=missing">
          {spots.fresh} new blind {spots.fresh === 1 ? 'spot' : 'spots'}
        </Link>{' '}
        <span className={shared.quiet}>of {spots.total}</span>
      </h2>
      {spots.newest.map((spot) => (
        <p key={spot.id} className={styles.line}>
          {spot.ref ? <AssetLink refText={spot.ref} name={spot.name} /> : spot.name}{' '}
          <span className={shared.quiet}>
            {spoken(spot.kind)}, {ago(spot.since)}
          </span>
        </p>
      ))}
    </section>
  )
}

function Intake({ intake }: { intake: Schemas['TodayIntake'] }) {
  const well = intake.applying && intake.silent.length === 0 && intake.refused === 0
  return (
    <section aria-label="Intake">
      <h2 className={styles.heading}>
        <Link to="/intake">Intake</Link>{' '}
        <StateWord state={well ? 'healthy' : intake.applying ? 'unusual' : 'failed'} />
      </h2>
      <p className={styles.line}>
        {intake.applying ? 'Events are applied' : 'Events are not applied'}, {count(intake.waiting)} waiting,{' '}
        {count(intake.refused)} refused; newest {ago(intake.newest)}
      </p>
      {intake.silent.length > 0 && (
        <p className={`${styles.line} ${shared.bad}`}>Silent: {intake.silent.join(', ')}</p>
      )}
    </section>
  )
}
