import { Drawer } from 'antd'
import { Answer } from '../shared/Answer'
import { useRefusal } from './queries'

/** One refusal: its reason, what became of retries, and its bytes. */
export function RefusalDrawer({ id, onClose }: { id: number | undefined; onClose: () => void }) {
  const refusal = useRefusal(id)
  return (
    <Drawer open={id !== undefined} onClose={onClose} size={620} title="Refused event">
      <Answer of={refusal}>
        {(detail) => (
          <>
            <p>{detail.refusal.reason}</p>
            {detail.refusal.outcome && <p>Last retry: {detail.refusal.outcome}</p>}
            <p>{detail.bytes} bytes, as received:</p>
            <pre className="code">{detail.body ?? 'no longer kept'}</pre>
          </>
        )}
      </Answer>
    </Drawer>
  )
}
