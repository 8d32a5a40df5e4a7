import type { ReminderPlan } from './times.ts'
import type { Check } from './parties.ts'

/** How one of many would go out, as far as it can differ from the others. */
export interface OneSending {
  /** ISO 8601 day; null: as usual. */
  readonly signByDay: string | null
  readonly plan: ReminderPlan
  readonly team: string | null
  readonly parties: readonly {
    /** The key of its role; several of one role have a number behind it. */
    readonly role: string
    readonly kind: string
    readonly order: number
    readonly check: Check
    readonly message: string
    readonly mayDecline: boolean
    readonly mayHandOver: boolean
  }[]
}

type Party = OneSending['parties'][number]

/** What is looked at of the whole, and of each of a role. */
const OF_ALL: Readonly<Record<string, (of: OneSending) => unknown>> = {
  'date to sign by': ({ signByDay }) => signByDay,
  reminders: ({ plan: { after, unopened, before } }) => [after, unopened, before],
  'in whose name': ({ team }) => team,
  'who takes part': ({ parties }) =>
    parties.map(({ role, kind }) => (kind === 'signer' ? role : kind)).sort(),
}
const OF_ROLE: Readonly<Record<string, (of: Party) => unknown>> = {
  order: ({ order }) => order,
  'identity check': ({ check }) => check,
  'message to one': ({ message }) => message,
  'what parties may do': ({ mayDecline, mayHandOver }) => [mayDecline, mayHandOver],
}

/** What most have; of two as frequent the one that stands first. */
function usual(keys: readonly string[]): string | undefined {
  const counted = new Map<string, number>()
  for (const key of keys) counted.set(key, (counted.get(key) ?? 0) + 1)
  let best: string | undefined
  for (const [key, n] of counted) if (best === undefined || n > counted.get(best)!) best = key
  return best
}

/** In which aspects each of many goes out otherwise than most of them do; in their order. */
export function differencesOf(all: readonly OneSending[]): readonly (readonly string[])[] {
  const found: string[][] = all.map(() => [])
  for (const [aspect, of] of Object.entries(OF_ALL)) {
    const keys = all.map((each) => JSON.stringify(of(each)))
    const most = usual(keys)
    keys.forEach((key, i) => {
      if (key !== most) found[i]!.push(aspect)
    })
  }
  const roles = new Set(all.flatMap(({ parties }) => parties.map(({ role }) => role)))
  for (const [aspect, of] of Object.entries(OF_ROLE))
    for (const role of roles) {
      const keys = all.map(({ parties }) =>
        parties.filter((party) => party.role === role).map((party) => JSON.stringify(of(party))),
      )
      const most = usual(keys.flat())
      keys.forEach((own, i) => {
        if (own.some((key) => key !== most) && !found[i]!.includes(aspect)) found[i]!.push(aspect)
      })
    }
  return found
}

/** What all of them have; null where they do not have the same. */
export function common<T>(values: readonly T[]): T | null {
  const [first] = values
  const key = JSON.stringify(first)
  return first !== undefined && values.every((each) => JSON.stringify(each) === key) ? first : null
}
