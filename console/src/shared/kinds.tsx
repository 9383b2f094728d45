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
  NodeIndexOutlined,
  SettingOutlined,
  TableOutlined,
} from '@ant-design/icons'
import type { ComponentType } from 'react'
import styles from './shared.module.css'

const ICONS: Record<string, ComponentType<{ className?: string; 'aria-hidden'?: boolean }>> = {
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
}

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
      <Icon aria-hidden /> {kind}
    </span>
  )
}
