/** A time away, both days included, ISO 8601, in the organisation's calendar. */
export interface Absence {
  readonly from: string
  readonly to: string
  /** Who decides meanwhile; null: nobody. */
  readonly standIn: string | null
}

/** Somebody who works here, as far as approvals go. */
export interface Colleague {
  readonly id: string
  readonly name: string
  readonly post: string
  readonly teams: readonly string[]
  /** Holds the right to approve. */
  readonly approves: boolean
  /** Does not work here any more: decides nothing, and their post is for who holds it now. */
  readonly left: boolean
  readonly absences: readonly Absence[]
}

/** Everybody, and each team with whoever leads it. */
export interface Directory {
  readonly people: readonly Colleague[]
  readonly teams: readonly { readonly name: string; readonly lead: string | null }[]
}

/** The absence in which a day falls. */
export const absenceOn = ({ absences }: Pick<Colleague, 'absences'>, day: string): Absence | null =>
  absences.find(({ from, to }) => from <= day && day <= to) ?? null

/** Somebody as rules ask about whoever made an agreement; who is not known any more has nothing. */
export function authorOf({ people }: Directory, id: string) {
  const { name = '', post = '', teams = [] }: Partial<Colleague> = people.find((each) => each.id === id) ?? {}
  return { name, post, teams }
}
