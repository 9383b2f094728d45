import { Segmented, Table } from 'antd'
import { useState } from 'react'
import { Answer } from '../shared/Answer'
import { AssetLink, KindMark, Owners } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import { useUrlState } from '../shared/useUrlState'
import { LabelMark } from './LabelMark'
import { Legend } from './Legend'
import styles from './labels.module.css'
import { type Label, type LabelledPlace, useLabel, useLabels, useLeaks } from './queries'
import { SpreadCanvas } from './SpreadCanvas'

/** Each label: where it is set, how far it travelled, and who answers for what has it. */
export function ByLabel() {
  const [read, write] = useUrlState()
  return (
    <Answer of={useLabels()}>
      {({ items }) => {
        const first = items.find((label) => label.set > 0) ?? items[0]
        const chosen = read('label') ?? first?.id
        return (
          <div className={styles.body}>
            <nav className={styles.list} aria-label="Labels">
              {items.map((label) => (
                <button
                  key={label.id}
                  type="button"
                  className={styles.choice}
                  aria-current={label.id === chosen}
                  onClick={() => write({ label: label.id })}
                >
                  <LabelName label={label} />
                  <span className={shared.quiet}>{label.set + label.inherited + label.perhaps || ''}</span>
                </button>
              ))}
              <Legend />
            </nav>
            {chosen && <OneLabel id={chosen} />}
          </div>
        )
      }}
    </Answer>
  )
}

function LabelName({ label }: { label: Label }) {
  return (
    <span>
      <span className={styles.level} aria-hidden>
        {'▮'.repeat(label.level)}
        <span className={styles.rest}>{'▯'.repeat(4 - label.level)}</span>
      </span>{' '}
      {label.title}
    </span>
  )
}

function OneLabel({ id }: { id: string }) {
  const leaks = useLeaks({ label: id })
  return (
    <Answer of={useLabel(id)}>
      {({ label, items, total }) => (
        <article className={styles.article}>
          <div className={shared.bar}>
            <h1 className={styles.title}>{label.title}</h1>
            <LabelMark label={label.id} level={label.level} />
            <span className={shared.space} />
            {(leaks.data?.open ?? 0) > 0 && (
              <span className={shared.bad}>
                {leaks.data?.open} open {leaks.data?.open === 1 ? 'leak' : 'leaks'}
              </span>
            )}
          </div>
          <p className={styles.definition}>
            {label.definition} <span className={shared.quiet}>{travels(label)}</span>
          </p>
          <p className={shared.quiet}>
            Set on {label.set} columns, inherited by {label.inherited}
            {label.perhaps > 0 && `, perhaps on ${label.perhaps} more`}. Tags that set it:{' '}
            {label.words.join(', ')}.
          </p>
          <SpreadCanvas places={items} />
          <Places items={items} total={total} />
        </article>
      )}
    </Answer>
  )
}

function travels(label: Label): string {
  const into = ['copies']
  if (label.overAggregation) into.push('sums and counts')
  if (label.overConditional) into.push('what it decides')
  if (label.overMasks) into.push('masked values')
  return `It goes on into ${into.join(', ')}.`
}

function Places({ items, total }: { items: LabelledPlace[]; total: number }) {
  const [how, setHow] = useState('all')
  const shown = items.filter((place) => how === 'all' || place.how === how)
  return (
    <>
      <div className={shared.bar}>
        <h2 className={shared.heading}>What has it ({total})</h2>
        <Segmented
          size="small"
          value={how}
          onChange={setHow}
          options={['all', 'set', 'inherited', 'perhaps'].map((word) => ({
            value: word,
            label: word === 'all' ? 'All' : word,
          }))}
        />
      </div>
      <Table
        size="small"
        className={shared.panel}
        rowKey="ref"
        pagination={pagesOf(shown)}
        dataSource={shown}
        locale={{ emptyText: 'Nothing has this label in this way.' }}
        columns={[
          {
            title: 'Column or page',
            dataIndex: 'name',
            render: (name, place) => (
              <>
                <AssetLink refText={place.ref} name={name} /> <KindMark kind={place.kind} />
              </>
            ),
          },
          { title: 'System', dataIndex: 'system' },
          {
            title: 'How',
            render: (_, place) =>
              place.from ? (
                <>
                  {place.how}, from <AssetLink refText={place.from} name={place.fromName ?? place.from} /> by{' '}
                  {place.thread.length} {place.thread.length === 1 ? 'step' : 'steps'}
                </>
              ) : (
                <>
                  set: {place.setBy}
                  {place.managed === 'source' && (
                    <span className={shared.quiet} title="It is changed where it was set, not here.">
                      {' '}
                      (managed at the source)
                    </span>
                  )}
                </>
              ),
          },
          { title: 'Owner', render: (_, place) => <Owners owners={place.owners} /> },
        ]}
      />
    </>
  )
}
