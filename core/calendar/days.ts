import { Temporal } from 'temporal-polyfill'
import { perObject } from '../per-object.ts'

// Dates of a run repeat a great deal: some hundred different ones in ten thousand rows. So a text is read once, and a
// date knows the dates it was shifted to.

const MOST_READ = 4096
const read = new Map<string, Temporal.PlainDate>()

/** ISO 8601 text to a date; strict: `2027-2-1` is no date. The same text gives the same date. */
export function parseDate(text: string): Temporal.PlainDate | null {
  const known = read.get(text)
  if (known) return known
  const date = parseAnew(text)
  if (!date) return null
  if (read.size >= MOST_READ) read.clear()
  read.set(text, date)
  return date
}

function parseAnew(text: string): Temporal.PlainDate | null {
  if (!/^-?\d{4,9}-\d{2}-\d{2}$/.test(text)) return null
  try {
    // Of the usual form the numbers are known by their places; reading ISO 8601 in full takes several times as long.
    return text.length === 10 && text[0] !== '-'
      ? new Temporal.PlainDate(+text.slice(0, 4), +text.slice(5, 7), +text.slice(8))
      : Temporal.PlainDate.from(text, { overflow: 'reject' })
  } catch (error) {
    if (error instanceof RangeError) return null
    throw error
  }
}

/** A date as ISO 8601 text. */
export const isoDate: (date: Temporal.PlainDate) => string = perObject((date) => date.toString())

/** Shifts a date remembers: a template has a handful of them, a loop in a formula may have any number. */
const MOST_SHIFTS = 64
const shifted = perObject((_from: Temporal.PlainDate) => new Map<number, Temporal.PlainDate>())

/** So many days later (earlier, where negative). Throws a RangeError beyond the dates that Temporal knows. */
export function addDays(from: Temporal.PlainDate, days: number): Temporal.PlainDate {
  const known = shifted(from)
  const there = known.get(days)
  if (there) return there
  const to = from.add({ days })
  if (known.size < MOST_SHIFTS) known.set(days, to)
  return to
}
