import type { BlankKind } from '../document/tree.ts'

export interface SigningParty {
  readonly id: string
  readonly role: string
  /** Lower numbers sign first; equal ones side by side. */
  readonly order: number
  readonly signedAt: string | null
}

/** A blank with its place on the pages: PDF points from the top left corner of its page, pages from 1. */
export interface PlacedBlank {
  readonly id: string
  readonly kind: BlankKind
  readonly role: string
  readonly label: string
  readonly required: boolean
  readonly page: number
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

/** Who may sign now: the unsigned of the lowest order. */
export function whoseTurn<P extends SigningParty>(parties: readonly P[]): readonly P[] {
  const open = parties.filter((party) => party.signedAt === null)
  const lowest = Math.min(...open.map((party) => party.order))
  return open.filter((party) => party.order === lowest)
}

/** A role's blanks in the order a reader meets them. */
export const blanksOf = (blanks: readonly PlacedBlank[], role: string): readonly PlacedBlank[] =>
  blanks.filter((blank) => blank.role === role).sort((a, b) => a.page - b.page || a.y - b.y || a.x - b.x)

/** Required blanks of a role that have no value yet. A date blank is filled by the act of signing and never missing. */
export const missingBlanks = (
  blanks: readonly PlacedBlank[],
  role: string,
  filled: ReadonlySet<string>,
): readonly PlacedBlank[] =>
  blanksOf(blanks, role).filter((blank) => blank.required && blank.kind !== 'date' && !filled.has(blank.id))
