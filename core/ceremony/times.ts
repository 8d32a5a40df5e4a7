import { Temporal } from 'temporal-polyfill'

/** When those who have not signed are reminded. Days are whole days of the sender's calendar. */
export interface ReminderPlan {
  /** Days after they were invited. */
  readonly after: readonly number[]
  /** Days after they were invited, where they have not opened it by then. */
  readonly unopened: readonly number[]
  /** Days before the last day to sign. */
  readonly before: readonly number[]
}

/** Nobody is reminded of anything. */
export const noReminders: ReminderPlan = { after: [], unopened: [], before: [] }

/** Reminders go in the morning there. */
const HOUR = 9

const dayOf = (zone: string, at: Date) =>
  Temporal.Instant.fromEpochMilliseconds(at.getTime()).toZonedDateTimeISO(zone).toPlainDate()

/** The last millisecond of a day in a zone; days of 23 and 25 hours are as long as they are. `day`: ISO 8601. */
export function endOfDay(zone: string, day: string): Date {
  const next = Temporal.PlainDate.from(day).add({ days: 1 })
  return new Date(next.toZonedDateTime(zone).epochMilliseconds - 1)
}

/** Until when it can be signed: the end of the day that many days after it was sent. */
export const signByOf = (zone: string, sentAt: Date, days: number): Date =>
  endOfDay(zone, dayOf(zone, sentAt).add({ days }).toString())

export interface Reminder {
  /** Names the occasion, once per party. */
  readonly key: string
  readonly at: Date
  readonly why: 'after' | 'unopened' | 'before'
}

/**
 * When one party is reminded, in order of time; those that would come after the end, or within six hours of the invitation, are
 * left out. Two of one morning are one.
 */
export function remindersOf(
  plan: ReminderPlan,
  zone: string,
  {
    invitedAt,
    openedAt,
    signBy,
  }: { readonly invitedAt: Date; readonly openedAt: Date | null; readonly signBy: Date },
): readonly Reminder[] {
  const morning = (day: Temporal.PlainDate) =>
    new Date(
      day.toZonedDateTime({ timeZone: zone, plainTime: Temporal.PlainTime.from({ hour: HOUR }) })
        .epochMilliseconds,
    )
  const [first, last] = [dayOf(zone, invitedAt), dayOf(zone, signBy)]
  const all: Reminder[] = [
    ...plan.before.map((days) => ({
      key: `before-${days}`,
      at: morning(last.subtract({ days })),
      why: 'before' as const,
    })),
    ...plan.after.map((days) => ({
      key: `after-${days}`,
      at: morning(first.add({ days })),
      why: 'after' as const,
    })),
    ...plan.unopened.map((days) => ({
      key: `unopened-${days}`,
      at: morning(first.add({ days })),
      why: 'unopened' as const,
    })),
  ].filter(({ at, why }) => {
    // One for those who have not opened it counts as long as they had not when it came.
    if (why === 'unopened' && openedAt && openedAt < at) return false
    return at < signBy && at.getTime() > invitedAt.getTime() + 6 * 3_600_000
  })
  const mornings = new Map<number, Reminder>()
  for (const each of all) if (!mornings.has(each.at.getTime())) mornings.set(each.at.getTime(), each)
  return [...mornings.values()].sort((a, b) => a.at.getTime() - b.at.getTime())
}

/**
 * The reminder to write now: the latest that has come since the party was last written to; null: none. One for each morning
 * that was slept through would be several at once.
 */
export const reminderDue = (reminders: readonly Reminder[], writtenAt: Date, now: Date): Reminder | null =>
  reminders.findLast(({ at }) => at > writtenAt && at <= now) ?? null

/** When to look at an agreement again: its next reminder, else its end. */
export function nextLook(
  parties: readonly { readonly reminders: readonly Reminder[]; readonly writtenAt: Date }[],
  signBy: Date,
  now: Date,
): Date {
  const next = parties.flatMap(({ reminders, writtenAt }) =>
    reminders.filter(({ at }) => at > writtenAt && at > now).slice(0, 1),
  )
  return new Date(Math.min(signBy.getTime() + 1, ...next.map(({ at }) => at.getTime())))
}
