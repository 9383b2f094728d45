import { Tabs } from 'antd'
import { Answer } from '../shared/Answer'
import shared from '../shared/shared.module.css'
import { useUrlState } from '../shared/useUrlState'
import { EmitterTable } from './EmitterTable'
import { EventDrawer } from './EventDrawer'
import { FileTable } from './FileTable'
import { IntakeNumbers } from './IntakeNumbers'
import { NewestEvents } from './NewestEvents'
import { useIntake } from './queries'
import { Refusals } from './Refusals'

/** What comes in, what it changed, what was refused and why, who sends and who is silent. */
export function IntakePage() {
  const [read, write] = useUrlState()
  const intake = useIntake(read('about'))
  return (
    <Answer of={intake}>
      {(answer) => (
        <div className={shared.page}>
          <IntakeNumbers intake={answer} />
          <Tabs
            activeKey={read('tab') ?? 'events'}
            onChange={(tab) => write({ tab })}
            items={[
              { key: 'events', label: 'Newest events', children: <NewestEvents events={answer.recent} /> },
              { key: 'refused', label: `Refused (${answer.refused})`, children: <Refusals /> },
              { key: 'emitters', label: 'Emitters', children: <EmitterTable /> },
              { key: 'files', label: 'Files', children: <FileTable /> },
            ]}
          />
          <EventDrawer id={read('event')} onClose={() => write({ event: undefined })} />
        </div>
      )}
    </Answer>
  )
}
