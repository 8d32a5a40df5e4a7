/** The areas in working order; `g` and the key goes there. */
export const AREAS = [
  { path: '/desk', label: 'Desk', key: 'd' },
  { path: '/templates', label: 'Templates', key: 't' },
  { path: '/records', label: 'Records', key: 'r' },
  { path: '/runs', label: 'Runs', key: 'u' },
  { path: '/agreements', label: 'Agreements', key: 'a' },
  { path: '/rules', label: 'Rules', key: 'l' },
] as const
