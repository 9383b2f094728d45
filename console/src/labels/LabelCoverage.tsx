import { Table } from 'antd'
import { Answer } from '../shared/Answer'
import shared from '../shared/shared.module.css'
import { useLabelCoverage } from './queries'

/** Of how many columns it is known that they are sensitive, by system. */
export function LabelCoverage() {
  return (
    <Answer of={useLabelCoverage()}>
      {({ items }) => (
        <Table
          size="small"
          className={shared.panel}
          rowKey="system"
          pagination={false}
          dataSource={items}
          columns={[
            { title: 'System', dataIndex: 'system' },
            { title: 'Columns', dataIndex: 'columns', align: 'right' },
            { title: 'With a label', dataIndex: 'labelled', align: 'right' },
            {
              title: 'Perhaps',
              dataIndex: 'perhaps',
              align: 'right',
              render: (n) => n || <span className={shared.quiet}>–</span>,
            },
            {
              title: 'Look sensitive, without one',
              dataIndex: 'suggested',
              align: 'right',
              render: (n) =>
                n ? <span className={shared.wait}>{n}</span> : <span className={shared.quiet}>–</span>,
            },
          ]}
        />
      )}
    </Answer>
  )
}
