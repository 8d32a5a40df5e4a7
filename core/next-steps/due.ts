import { Temporal } from 'temporal-polyfill'
import { addBusinessDays } from '../calendar/business-days.ts'
import type { Delay } from './steps.ts'

const NO_HOLIDAYS: ReadonlySet<string> = new Set()

/**
 * When something is due that follows a moment. Hours are hours; days end at the same time of day in the zone, also across a
 * change of its clocks (RFC 5545's nominal days); business days are Monday to Friday.
 */
export function dueAt(at: Date, { count, unit }: Delay, timeZone: string): Date {
  if (count === 0) return at
  const there = Temporal.Instant.fromEpochMilliseconds(at.getTime()).toZonedDateTimeISO(timeZone)
  if (unit === 'hours') return new Date(there.add({ hours: count }).epochMilliseconds)
  const from = there.toPlainDate()
  const day =
    unit === 'days'
      ? from.add({ days: count })
      : (addBusinessDays(from, count, NO_HOLIDAYS) ?? from.add({ days: count }))
  const then = day.toZonedDateTime({ timeZone, plainTime: there.toPlainTime() })
  return new Date(then.epochMilliseconds)
}
