import { randomUUID } from 'node:crypto'
import { party } from '#server/db/schema.ts'

type Party = typeof party.$inferSelect

/**
 * Of every column of a party: whether it was set for them and goes along on another revision, is theirs on this one, or is what they
 * passed on it, with what it begins as. A column that is not named here does not compile.
 */
const COLUMNS: { readonly [C in keyof Party]: 'set' | 'own' | { readonly begins: Party[C] } } = {
  id: 'own',
  agreementId: 'set',
  revision: 'own',
  role: 'set',
  label: 'set',
  order: 'set',
  name: 'set',
  email: 'set',
  title: 'set',
  kind: 'set',
  language: 'set',
  phone: 'set',
  linkBy: 'set',
  check: 'set',
  codeHash: 'set',
  message: 'set',
  copyNow: 'set',
  mayDecline: 'set',
  mayHandOver: 'set',
  wrong: { begins: 0 },
  invitedAt: { begins: null },
  writtenAt: { begins: null },
  openedAt: { begins: null },
  consentedAt: { begins: null },
  signedAt: { begins: null },
  declinedAt: { begins: null },
  reason: { begins: null },
  address: { begins: null },
  atDeviceOf: { begins: null },
  fromForm: { begins: false },
  paper: { begins: null },
}

/** What somebody has passed who begins: nothing. */
export const NOTHING_PASSED = Object.fromEntries(
  Object.entries(COLUMNS).flatMap(([column, what]) =>
    typeof what === 'object' ? [[column, what.begins]] : [],
  ),
) as Partial<Party>

/** A party as it begins on another revision: as it was set, with nothing of what was passed on the one before. */
export const anew = (of: Party, number: number): typeof party.$inferInsert => ({
  ...of,
  ...NOTHING_PASSED,
  id: randomUUID(),
  revision: number,
})
