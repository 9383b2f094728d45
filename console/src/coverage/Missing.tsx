import { Button, Empty, Form, Input, Segmented, Space, Table, type TableColumnsType } from 'antd'
import { useState } from 'react'
import { Link } from 'react-router'
import { useMaySet, useStating } from '../hand/queries'
import { RecordDialog } from '../hand/RecordDialog'
import { Answer } from '../shared/Answer'
import { FormDialog } from '../shared/FormDialog'
import { assetPath, spoken } from '../shared/format'
import { Since } from '../shared/Since'
import shared from '../shared/shared.module.css'
import { pagesOf } from '../shared/tables'
import { useUrlState } from '../shared/useUrlState'
import styles from './coverage.module.css'
import { type Spot, useBlindSpots } from './queries'

/** What the catalog has reason to expect and does not have, as a list to work off. */
export function Missing() {
  const [read, write] = useUrlState()
  const kind = read('kind')
  const ignored = read('ignored') === 'yes'
  const [recording, setRecording] = useState<Spot>()
  const [ignoring, setIgnoring] = useState<Spot>()
  const all = useBlindSpots(undefined, ignored)
  return (
    <>
      <div className={styles.kinds}>
        <Segmented
          size="small"
          value={ignored ? 'yes' : 'no'}
          onChange={(value) => write({ ignored: value === 'yes' ? 'yes' : undefined, kind: undefined })}
          options={[
            { value: 'no', label: 'Open' },
            { value: 'yes', label: 'Set aside' },
          ]}
        />
        {Object.entries(all.data?.counts ?? {}).map(([word, n]) => (
          <Button
            key={word}
            size="small"
            type={word === kind ? 'primary' : 'default'}
            onClick={() => write({ kind: word === kind ? undefined : word })}
          >
            {spoken(word)} ({n})
          </Button>
        ))}
      </div>
      <Answer of={all}>
        {({ items }) => {
          const shown = kind ? items.filter((spot) => spot.kind === kind) : items
          return shown.length === 0 ? (
            <Empty
              description={
                ignored
                  ? 'Nothing was set aside.'
                  : 'No blind spots are known: everything that is read is written by something, and answers for itself.'
              }
            />
          ) : (
            <Table
              size="small"
              className={shared.panel}
              rowKey="id"
              pagination={pagesOf(shown)}
              dataSource={shown}
              columns={columnsOf(setRecording, setIgnoring, ignored)}
            />
          )
        }}
      </Answer>
      {recording && <RecordDialog to={recording.ref} onClose={() => setRecording(undefined)} />}
      {ignoring && <IgnoreDialog spot={ignoring} onClose={() => setIgnoring(undefined)} />}
    </>
  )
}

function columnsOf(
  record: (spot: Spot) => void,
  ignore: (spot: Spot) => void,
  ignored: boolean,
): TableColumnsType<Spot> {
  return [
    { title: 'What is missing', dataIndex: 'kind', render: spoken, width: 150 },
    {
      title: 'Where',
      dataIndex: 'name',
      render: (name, spot) => (
        <>
          {spot.ref ? (
            <Link to={assetPath(spot.ref)} title={spot.ref}>
              {name}
            </Link>
          ) : (
            name
          )}
          <div className={shared.quiet}>{spot.system}</div>
        </>
      ),
    },
    {
      title: ignored ? 'Set aside by' : 'Why',
      render: (_, spot) => (spot.ignored ? `${spot.ignored.by}: ${spot.ignored.reason}` : spot.why),
    },
    {
      title: 'Rests on it',
      onHeaderCell: () => ({ style: { whiteSpace: 'nowrap' } }),
      dataIndex: 'rests',
      align: 'right',
      sorter: (a, b) => a.rests - b.rests,
      render: (n) => (n === 0 ? <span className={shared.quiet}>–</span> : n),
    },
    { title: 'Owner', dataIndex: 'owners', render: (owners: string[]) => owners.join(', ') },
    { title: 'Since', dataIndex: 'since', render: (at) => <Since at={at} never="–" /> },
    {
      title: '',
      align: 'right',
      render: (_, spot) => <Actions spot={spot} record={record} ignore={ignore} />,
    },
  ]
}

/** What helps: the first of these is the best. */
function Actions({
  spot,
  record,
  ignore,
}: {
  spot: Spot
  record: (spot: Spot) => void
  ignore: (spot: Spot) => void
}) {
  const maySet = useMaySet()
  const stating = useStating()
  if (spot.ignored) {
    return (
      maySet && (
        <Button
          size="small"
          onClick={() => stating.mutate({ changes: [{ set: 'dismissed', id: spot.id, value: null }] })}
        >
          List again
        </Button>
      )
    )
  }
  return (
    <Space size={4}>
      {spot.action === 'connect' && (
        <Link to="/connect">
          <Button size="small">Connect</Button>
        </Link>
      )}
      {spot.action === 'match' && (
        <Link to="/coverage?tab=same">
          <Button size="small">Match</Button>
        </Link>
      )}
      {spot.action === 'renew' && (
        <Link to="/coverage?tab=recorded">
          <Button size="small">Renew</Button>
        </Link>
      )}
      {spot.action === 'own' && spot.ref && (
        <Link to={`${assetPath(spot.ref)}&edit=yes`}>
          <Button size="small">Name an owner</Button>
        </Link>
      )}
      {spot.action === 'repair' && spot.ref && (
        <Link to={`${assetPath(spot.ref)}&tab=steps`}>
          <Button size="small">See the place</Button>
        </Link>
      )}
      {maySet && ['connect', 'record', 'match'].includes(spot.action) && spot.ref && (
        <Button size="small" onClick={() => record(spot)}>
          Record
        </Button>
      )}
      {maySet && (
        <Button size="small" type="text" onClick={() => ignore(spot)}>
          Set aside
        </Button>
      )}
    </Space>
  )
}

function IgnoreDialog({ spot, onClose }: { spot: Spot; onClose: () => void }) {
  const stating = useStating()
  const sending = {
    isPending: stating.isPending,
    error: stating.error,
    mutate: (
      { reason, until, all }: { reason: string; until?: string; all?: string },
      options: { onSuccess: () => void },
    ) =>
      stating.mutate(
        {
          reason,
          changes: [
            {
              set: 'dismissed',
              id: all === 'system' ? `${spot.kind}:system:${spot.system}` : spot.id,
              value: until ? { until: `${until}T00:00:00Z` } : {},
            },
          ],
        },
        options,
      ),
  }
  return (
    <FormDialog
      title={`Set aside: ${spot.name}`}
      action="Set aside"
      sending={sending}
      initial={{ all: 'one' }}
      onClose={onClose}
    >
      <Form.Item name="all" label="Which">
        <Segmented
          options={[
            { value: 'one', label: 'Only this one' },
            { value: 'system', label: `All "${spoken(spot.kind)}" in ${spot.system}` },
          ]}
        />
      </Form.Item>
      <Form.Item name="reason" label="Reason" rules={[{ required: true, message: 'Others will read it' }]}>
        <Input placeholder="people type it in; no program writes it" />
      </Form.Item>
      <Form.Item name="until" label="List it again on">
        <Input type="date" />
      </Form.Item>
    </FormDialog>
  )
}
