import {
  ApartmentOutlined,
  BarChartOutlined,
  BlockOutlined,
  CloudServerOutlined,
  DashboardOutlined,
  DatabaseOutlined,
  EyeOutlined,
  FileOutlined,
  FileTextOutlined,
  LockOutlined,
  NodeIndexOutlined,
  SettingOutlined,
  TableOutlined,
} from '@ant-design/icons'
import type { ComponentType } from 'react'
import styles from './shared.module.css'

const ICONS: Record<
  string,
  ComponentType<{ className?: string; 'aria-hidden'?: boolean; 'aria-label'?: string }>
> = {
  table: TableOutlined,
  view: EyeOutlined,
  file: FileOutlined,
  topic: NodeIndexOutlined,
  dataset: DatabaseOutlined,
  model: BlockOutlined,
  chart: BarChartOutlined,
  report: FileTextOutlined,
  dashboard: DashboardOutlined,
  job: SettingOutlined,
  pipeline: ApartmentOutlined,
  system: CloudServerOutlined,
  restricted: LockOutlined,
}

/** Of what grants do not cover the name is its kind. */
const RESTRICTED = 'restricted'

/** What an asset is, as an icon that is read out as a word. */
export function KindIcon({ kind }: { kind: string }) {
  const Icon = ICONS[kind] ?? DatabaseOutlined
  return (
    <span role="img" aria-label={kind} title={kind}>
      <Icon className={styles.kindIcon} aria-hidden />
    </span>
  )
}

/** What an asset is, as an icon and a word. */
export function KindMark({ kind }: { kind: string }) {
  const Icon = ICONS[kind] ?? DatabaseOutlined
  return (
    <span className={styles.kind}>
      <Icon aria-hidden={kind !== RESTRICTED} aria-label={kind} /> {kind !== RESTRICTED && kind}
    </span>
  )
}
