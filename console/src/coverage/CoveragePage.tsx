import { Tabs } from 'antd'
import { RecordedTable } from '../hand/RecordedTable'
import { StatementTable } from '../hand/StatementTable'
import shared from '../shared/shared.module.css'
import { useUrlState } from '../shared/useUrlState'
import { BySystem } from './BySystem'
import { Copies } from './Copies'
import { Missing } from './Missing'
import { SameThings } from './SameThings'

/** How complete the catalog is, what is missing, and what can be done about it. */
export function CoveragePage() {
  const [read, write] = useUrlState()
  return (
    <div className={shared.page}>
      <Tabs
        activeKey={read('tab') ?? 'missing'}
        destroyOnHidden
        onChange={(tab) => write({ tab })}
        items={[
          { key: 'missing', label: 'Blind spots', children: <Missing /> },
          { key: 'systems', label: 'By system', children: <BySystem /> },
          { key: 'same', label: 'One asset, two names', children: <SameThings /> },
          { key: 'copies', label: 'Likely copies', children: <Copies /> },
          { key: 'recorded', label: 'Recorded by hand', children: <RecordedTable /> },
          { key: 'stated', label: 'What people set', children: <StatementTable /> },
        ]}
      />
    </div>
  )
}
