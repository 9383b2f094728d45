import { Button } from 'antd'
import { useState } from 'react'
import type { Schemas } from '../api/client'
import { NoticeDialog, WatchDialog } from '../follow/dialogs'
import { useNoteFollowed, useOpenTicket } from '../follow/queries'
import { useMaySet } from '../hand/queries'
import { useLimited } from '../session/useSession'
import shared from '../shared/shared.module.css'
import styles from './causes.module.css'

type Props = { suspect: Schemas['Suspect']; symptom: Schemas['Symptom'] }

/** One action each: a notice, a ticket, a watch, a mail to the owner, a note that the thread is right. */
export function SuspectActions({ suspect, symptom }: Props) {
  const maySet = useMaySet()
  const limited = useLimited()
  const opening = useOpenTicket()
  const noting = useNoteFollowed()
  const [open, setOpen] = useState<'notice' | 'watch'>()
  const on = suspect.thread[0]?.from ?? symptom.ref
  const mailbox = suspect.owners.find((owner) => owner.address)?.address
  const close = () => setOpen(undefined)
  const problem = opening.error ?? noting.error
  if (limited) return null // all of it needs sight of the whole catalog
  return (
    <div className={styles.actions}>
      {maySet && (
        <Button size="small" onClick={() => setOpen('notice')}>
          Put a notice
        </Button>
      )}
      {maySet &&
        (opening.data ? (
          <a href={opening.data.url}>Ticket {opening.data.id}</a>
        ) : (
          <Button
            size="small"
            loading={opening.isPending}
            onClick={() => opening.mutate({ ref: symptom.ref, suspect: suspect.ref })}
          >
            Open a ticket
          </Button>
        ))}
      <Button size="small" onClick={() => setOpen('watch')}>
        Watch
      </Button>
      {mailbox && (
        <Button
          size="small"
          href={`mailto:${mailbox}?subject=${encodeURIComponent(suspect.name)}&body=${encodeURIComponent(suspect.proposedNotice)}`}
        >
          Write to the owner
        </Button>
      )}
      {suspect.toolUrl && (
        <Button size="small" href={suspect.toolUrl}>
          Open in its tool
        </Button>
      )}
      {maySet && suspect.thread.length > 0 && (
        <Button
          size="small"
          disabled={noting.isSuccess}
          onClick={() => noting.mutate({ from: suspect.thread[0].from, to: symptom.ref })}
        >
          {noting.isSuccess ? 'Noted as right' : 'I followed this thread: it is right'}
        </Button>
      )}
      {problem && <span className={shared.bad}>{problem.message}</span>}
      {open === 'notice' && (
        <NoticeDialog
          refText={suspect.ref.startsWith('@') ? written(suspect, on) : suspect.ref}
          name={suspect.name}
          text={suspect.proposedNotice}
          onClose={close}
        />
      )}
      {open === 'watch' && (
        <WatchDialog kind="asset" target={suspect.ref} name={suspect.name} onClose={close} />
      )}
    </div>
  )
}

/** What a suspected job writes on the thread; a notice is put on data. */
function written(suspect: Schemas['Suspect'], fallback: string): string {
  return suspect.thread.find((hop) => hop.job === suspect.ref)?.to ?? fallback
}
