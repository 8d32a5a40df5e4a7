/** What a key may do; each within what its person may. */
export const SCOPES = [
  'read templates',
  'read records',
  'read agreements',
  'start agreements',
  'send agreements',
] as const
export type Scope = (typeof SCOPES)[number]
