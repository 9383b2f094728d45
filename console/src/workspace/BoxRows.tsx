import { Table, type TableColumnsType } from 'antd'
import { KindMark } from '../shared/marks'
import shared from '../shared/shared.module.css'
import { filtersOf, pagesOf } from '../shared/tables'
import type { Box } from './queries'
import { isFailed, stateWords } from './state'
import { layerTitle } from './workspaceLayout'

function columnsOf(boxes: Box[]): TableColumnsType<Box> {
  return [
    {
      title: 'Layer',
      dataIndex: 'layer',
      render: layerTitle,
      filters: filtersOf(boxes.map((b) => b.layer)),
      onFilter: (v, box) => box.layer === v,
    },
    { title: 'Kind', dataIndex: 'kind', render: (kind) => <KindMark kind={kind} /> },
    {
      title: 'Name',
      dataIndex: 'name',
      sorter: (a, b) => a.name.localeCompare(b.name),
      render: (name) => <strong>{name}</strong>,
    },
    { title: 'Where', render: (_, box) => box.workspace ?? box.system },
    {
      title: 'State',
      render: (_, box) => <span className={isFailed(box) ? shared.bad : undefined}>{stateWords(box)}</span>,
    },
    { title: 'Owner', dataIndex: 'owners', render: (owners: string[]) => owners.join(', ') },
  ]
}

/** The boxes of a workspace as a list. */
export function BoxRows({
  boxes,
  picked,
  onPick,
}: {
  boxes: Box[]
  picked: string | undefined
  onPick: (ref: string) => void
}) {
  return (
    <Table
      size="small"
      className={shared.panel}
      rowKey="ref"
      dataSource={boxes}
      pagination={pagesOf(boxes)}
      columns={columnsOf(boxes)}
      rowSelection={undefined}
      onRow={(box) => ({ onClick: () => onPick(box.ref), 'aria-selected': box.ref === picked })}
    />
  )
}
