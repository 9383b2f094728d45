import { ago, moment } from './format'
import shared from './shared.module.css'

/** How long ago a time was, with the time itself on hover. */
export function Since({ at, never = '' }: { at: string | undefined; never?: string }) {
  return at ? <span title={moment(at)}>{ago(at)}</span> : <span className={shared.quiet}>{never}</span>
}
