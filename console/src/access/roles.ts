/** What each role may do, in the order of what it may. */
export const ROLES = [
  { value: 'reader', label: 'Reader: asks' },
  { value: 'auditor', label: 'Auditor: asks, and reads the audit log' },
  { value: 'limited', label: 'Limited: only what grants say' },
  { value: 'emitter', label: 'Emitter: only sends events' },
  { value: 'steward', label: 'Steward: asks, sends and retries' },
  { value: 'admin', label: 'Administrator: everything' },
]
