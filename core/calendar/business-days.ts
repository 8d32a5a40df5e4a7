import { Temporal } from 'temporal-polyfill'

/** Days on which nobody works besides Saturdays and Sundays, as ISO 8601 texts. */
export type Holidays = ReadonlySet<string>

export const isBusinessDay = (date: Temporal.PlainDate, holidays: Holidays): boolean =>
  date.dayOfWeek < 6 && !holidays.has(date.toString())

/** Beyond this a number of days is a mistake, not a term of a contract. */
const MOST_DAYS = 100_000

/** So many business days later (earlier, where negative); the day itself is not counted. Null past some 270 years. */
export function addBusinessDays(
  from: Temporal.PlainDate,
  days: number,
  holidays: Holidays,
): Temporal.PlainDate | null {
  if (Math.abs(days) > MOST_DAYS) return null
  let date = from
  for (let left = Math.abs(days); left > 0;) {
    date = date.add({ days: Math.sign(days) })
    if (isBusinessDay(date, holidays)) left--
  }
  return date
}

/** Business days after `from` up to and including `to`; negative where `to` lies before. */
export function businessDaysBetween(
  from: Temporal.PlainDate,
  to: Temporal.PlainDate,
  holidays: Holidays,
): number | null {
  const span = from.until(to).days
  if (Math.abs(span) > MOST_DAYS) return null
  const [sign, start, end] = span < 0 ? [-1, to, from] : [1, from, to]
  let count = 0
  for (let date = start; Temporal.PlainDate.compare(date, end) < 0;) {
    date = date.add({ days: 1 })
    if (isBusinessDay(date, holidays)) count++
  }
  return count === 0 ? 0 : sign * count
}

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
  const go = (days: 1 | -1) => {
    let at = date
    for (let left = MOST_DAYS; left > 0 && !isBusinessDay(at, holidays); left--) at = at.add({ days })
    return at
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
