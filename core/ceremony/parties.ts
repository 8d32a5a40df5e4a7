import { keysOf } from '../keys-of.ts'

/** Who signs, who only has to agree (and fills nothing), and who receives the document. */
export const PARTY_KINDS = ['signer', 'assenter', 'copy'] as const
export type PartyKind = (typeof PARTY_KINDS)[number]

/**
 * What a party has to show before anything is shown to them, besides holding the link: weakest first. `agreed code`: one that
 * the sender told them by another way; the others are made for one use and sent. Each with
 * what the sender reads of it.
 */
const CHECK_KINDS = {
  link: 'their link alone',
  'mail code': 'and a code by email',
  'text code': 'and a code by text message',
  'agreed code': 'and a code that you agree on with them',
} as const satisfies Readonly<Record<string, string>>
export type Check = keyof typeof CHECK_KINDS
/** The identity checks, weakest first. */
export const CHECKS = keysOf(CHECK_KINDS)
/** What a check asks for, in the sender's words. */
export const describeCheck = (check: Check): string => CHECK_KINDS[check]

/** What checks were called when the first trails and sealed files were written, with the name that each has now. */
export const FORMER_CHECKS = { 'access code': 'agreed code' } as const satisfies Record<string, Check>
export type FormerCheck = keyof typeof FORMER_CHECKS
/** Whether this is the name of a check that stands in trails and sealed files of before alone. */
export const isFormerCheck = (written: string): written is FormerCheck =>
  Object.hasOwn(FORMER_CHECKS, written)

/** A check of a trail, by the name that it has now. */
export const checkNamed = (written: string): string =>
  isFormerCheck(written) ? FORMER_CHECKS[written] : written

/** A check as fingerprints in trails have it: always by its first name, so that one record has one fingerprint. */
export const checkInFingerprint = (check: string): string =>
  keysOf(FORMER_CHECKS).find((former) => FORMER_CHECKS[former] === check) ?? check

/** How a party's links reach them. What is executed comes by mail all the same. */
export const WAYS = ['mail', 'text'] as const
export type Way = (typeof WAYS)[number]

/** Wrong codes after which nobody gets in by a party’s links until the sender lets them. */
export const MOST_WRONG = 5

/** The most who sign or agree on one agreement (common practice). */
export const MOST_PARTIES = 25

/** Of a party, what decides whose turn it is. */
export interface Turn {
  readonly kind?: PartyKind | undefined
  /** Lower numbers come first; equal ones side by side. */
  readonly order: number
  /** When they signed or agreed; null: not yet. */
  readonly signedAt: string | Date | null
}

/** Those an agreement waits for before it can be executed. */
export const hasToAct = ({ kind }: Pick<Turn, 'kind'>): boolean => kind !== 'copy'

/** Who may act now: of those who have not, the ones of the lowest order. */
export function whoseTurn<P extends Turn>(parties: readonly P[]): readonly P[] {
  const open = parties.filter((party) => hasToAct(party) && party.signedAt === null)
  const lowest = Math.min(...open.map((party) => party.order))
  return open.filter((party) => party.order === lowest)
}
