import { Temporal } from 'temporal-polyfill'
import { addDays, isoDate } from './days.ts'

/** Days on which nobody works besides Saturdays and Sundays, as ISO 8601 texts. */
export type Holidays = ReadonlySet<string>

/** Monday to Friday, and no holiday. */
export const isBusinessDay = (date: Temporal.PlainDate, holidays: Holidays): boolean =>
  date.dayOfWeek < 6 && !holidays.has(isoDate(date))

/** Beyond this a number of days is a mistake, not a term of a contract. */
const MOST_DAYS = 100_000

/** Whether the day so many days after `from` is a business day; weekdays are told by numbers, for a term may be years long. */
function businessDaysAround(from: Temporal.PlainDate, holidays: Holidays): (offset: number) => boolean {
  const weekday = from.dayOfWeek - 1
  const isFree = (offset: number) => holidays.size > 0 && holidays.has(isoDate(addDays(from, offset)))
  return (offset) => (((weekday + offset) % 7) + 7) % 7 < 5 && !isFree(offset)
}

/** So many business days later (earlier, where negative); the day itself is not counted. Null past some 270 years. */
export function addBusinessDays(
  from: Temporal.PlainDate,
  days: number,
  holidays: Holidays,
): Temporal.PlainDate | null {
  if (Math.abs(days) > MOST_DAYS) return null
  const isBusiness = businessDaysAround(from, holidays)
  let offset = 0
  for (let left = Math.abs(days); left > 0;) {
    offset += Math.sign(days)
    if (isBusiness(offset)) left--
  }
  return addDays(from, offset)
}

/** Business days after `from` up to and including `to`; negative where `to` lies before. */
export function businessDaysBetween(
  from: Temporal.PlainDate,
  to: Temporal.PlainDate,
  holidays: Holidays,
): number | null {
  const span = from.until(to).days
  if (Math.abs(span) > MOST_DAYS) return null
  const isBusiness = businessDaysAround(span < 0 ? to : from, holidays)
  let count = 0
  for (let offset = 1; offset <= Math.abs(span); offset++) if (isBusiness(offset)) count++
  return count === 0 ? 0 : Math.sign(span) * count
}

/** Ways of moving a date that is no business day. */
export const ROLLS = ['following', 'preceding', 'modified following', 'modified preceding'] as const
export type Roll = (typeof ROLLS)[number]

/**
 * The date itself where it is a business day, else the next (`following`) or the last (`preceding`) one; `modified`
 * turns round where that would leave the month. ISDA 2006 definitions, section 4.12.
 */
export function rollToBusinessDay(
  date: Temporal.PlainDate,
  roll: Roll,
  holidays: Holidays,
): Temporal.PlainDate {
  const isBusiness = businessDaysAround(date, holidays)
  const go = (days: 1 | -1) => {
    let offset = 0
    while (!isBusiness(offset) && Math.abs(offset) < MOST_DAYS) offset += days
    return addDays(date, offset)
  }
  const direction = roll.endsWith('following') ? 1 : -1
  const found = go(direction)
  return roll.startsWith('modified') && found.month !== date.month ? go(direction === 1 ? -1 : 1) : found
}

/**
 * Contracts count months to the same day, or to the month's last day where there is none. With `keepMonthEnd` the last
 * day of a month goes to the last day of the other month.
 */
export function addMonths(
  from: Temporal.PlainDate,
  months: number,
  keepMonthEnd: boolean,
): Temporal.PlainDate | null {
  if (Math.abs(months) > 12_000) return null
  const there = from.add({ months })
  return keepMonthEnd && from.day === from.daysInMonth ? there.with({ day: there.daysInMonth }) : there
}
