import { FormDialog } from '../shared/FormDialog'
import { NewPassword } from '../shared/NewPassword'
import { useSetPassword } from './queries'

/** Gives an account another password. */
export function SetPasswordDialog({ name, onClose }: { name: string; onClose: () => void }) {
  return (
    <FormDialog
      title={`Set the password of ${name}`}
      action="Set password"
      sending={useSetPassword(name)}
      onClose={onClose}
    >
      <NewPassword label="New password" autoFocus />
    </FormDialog>
  )
}
