import { Empty, Table } from 'antd'
import { Answer } from '../shared/Answer'
import { AssetLink } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import { useCopies } from './queries'

/** Tables that are filled by copying another one, with who reads the copies. */
export function Copies() {
  return (
    <Answer of={useCopies()}>
      {({ items }) => {
        const rows = items.flatMap((source) => source.copies.map((copy) => ({ source, copy })))
        return rows.length === 0 ? (
          <Empty description="No table is known to be a copy. Tables filled column by column from one other appear here." />
        ) : (
          <Table
            size="small"
            className={shared.panel}
            rowKey={(row) => `${row.source.ref} ${row.copy.ref}`}
            pagination={pagesOf(rows)}
            dataSource={rows}
            columns={[
              {
                title: 'Copied',
                render: (_, { source }) => (
                  <>
                    <AssetLink refText={source.ref} name={source.name} />{' '}
                    <span className={shared.quiet}>{source.system}</span>
                  </>
                ),
              },
              {
                title: 'Likely copy',
                render: (_, { copy }) => (
                  <>
                    <AssetLink refText={copy.ref} name={copy.name} />{' '}
                    <span className={shared.quiet}>{copy.system}</span>
                  </>
                ),
              },
              { title: 'Columns copied', render: (_, { copy }) => `${copy.copied} of ${copy.columns}` },
              {
                title: 'Readers of the copy',
                render: (_, { copy }) =>
                  copy.readers.length === 0 ? (
                    <span className={shared.quiet}>none known</span>
                  ) : (
                    copy.readers.length
                  ),
              },
            ]}
          />
        )
      }}
    </Answer>
  )
}
