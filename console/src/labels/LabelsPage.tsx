import { Tabs } from 'antd'
import { useLimited } from '../session/useSession'
import shared from '../shared/shared.module.css'
import { useUrlState } from '../shared/useUrlState'
import { ByLabel } from './ByLabel'
import { LabelCoverage } from './LabelCoverage'
import { Leaks } from './Leaks'
import { Settings } from './Settings'
import { Work } from './Work'

/** Which data is sensitive, where it came to, where it may not be, and what is left to decide. */
export function LabelsPage() {
  const [read, write] = useUrlState()
  const limited = useLimited()
  const forAll = [
    { key: 'settings', label: 'Policies and rules', children: <Settings /> },
    { key: 'work', label: 'To decide', children: <Work /> },
    { key: 'coverage', label: 'By system', children: <LabelCoverage /> },
  ]
  return (
    <div className={shared.page}>
      <Tabs
        activeKey={read('tab') ?? 'leaks'}
        destroyOnHidden
        // Leaks open on what is open: a list of accepted ones, left behind, would look as if there were none.
        onChange={(tab) => write({ tab, state: undefined })}
        items={[
          { key: 'leaks', label: 'Leaks', children: <Leaks /> },
          { key: 'label', label: 'By label', children: <ByLabel /> },
          ...(limited ? [] : forAll),
        ]}
      />
    </div>
  )
}
