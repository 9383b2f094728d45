import { DatePicker, Empty, Tabs } from 'antd'
import dayjs from 'dayjs'
import { assetOf, moment, shortRef, spelled } from '../shared/format'
import { AssetLink } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { useAsset } from '../shared/useAsset'
import { useUrlState } from '../shared/useUrlState'
import { Behind } from './Behind'
import { useBehind } from './queries'
import { Recall } from './Recall'

/** The runs behind an asset as of a moment, or one run: what is behind it and what rests on it. */
export function BehindPage() {
  const [read, write] = useUrlState()
  const ref = read('ref') ?? ''
  const name = useShownName(ref)
  if (!ref) {
    return <Empty className={shared.empty} description="No asset and no run is named. Open one first." />
  }
  const asOf = read('asOf')
  if (ref.startsWith('run:'))
    return <OneRun refText={ref} tab={read('tab')} onTab={(tab) => write({ tab })} />
  return (
    <div className={shared.page}>
      <header className={shared.bar}>
        <h1 className={shared.heading}>
          Runs behind <AssetLink refText={ref} name={name} />
        </h1>
        <span className={shared.space} />
        <span>as of</span>
        <DatePicker
          showTime={{ format: 'HH:mm' }}
          format="YYYY-MM-DD HH:mm"
          placeholder="now"
          aria-label="As of"
          value={asOf ? dayjs(asOf) : null}
          onChange={(at) => write({ asOf: at ? at.toISOString() : undefined })}
        />
      </header>
      <Behind refText={ref} asOf={asOf} />
    </div>
  )
}

/** What an asset or column is called, once its page has been asked for. */
function useShownName(ref: string): string {
  const asset = useAsset(ref.startsWith('run:') ? '' : assetOf(ref))
  const hash = ref.indexOf('#')
  const column = hash < 0 ? '' : `#${spelled(ref.slice(hash + 1))}`
  return asset.data ? (asset.data.title ?? asset.data.name) + column : shortRef(ref)
}

type RunProps = { refText: string; tab?: string; onTab: (tab: string) => void }

function OneRun({ refText, tab, onTab }: RunProps) {
  const run = useBehind(refText).data?.runs.find((one) => one.ref === refText)
  return (
    <div className={shared.page}>
      <h1 className={shared.heading}>
        {run ? (
          <>
            <AssetLink refText={run.job} name={run.name} />, run of {moment(run.start)}
          </>
        ) : (
          refText
        )}
      </h1>
      <Tabs
        activeKey={tab ?? 'rests'}
        onChange={onTab}
        items={[
          { key: 'rests', label: 'What rests on it', children: <Recall refText={refText} /> },
          { key: 'behind', label: 'Runs behind it', children: <Behind refText={refText} /> },
        ]}
      />
    </div>
  )
}
