import { Temporal } from 'temporal-polyfill'
import { parseDate } from './days.ts'

/** ISO 8601 text of a time of day, `06:30` or `06:30:15.5`, without zone. Null for anything else. */
export function parseTime(text: string): Temporal.PlainTime | null {
  if (!/^\d{2}:\d{2}(:\d{2}(\.\d{1,9})?)?$/.test(text)) return null
  try {
    // 24:00 and a leap second are none here.
    return Temporal.PlainTime.from(text, { overflow: 'reject' })
  } catch (error) {
    if (error instanceof RangeError) return null
    throw error
  }
}

/** ISO 8601 text of a date with a time of day, without zone. */
export function parseDateTime(text: string): Temporal.PlainDateTime | null {
  const at = text.indexOf('T')
  const [date, time] = at < 0 ? [null, null] : [parseDate(text.slice(0, at)), parseTime(text.slice(at + 1))]
  return date && time && date.toPlainDateTime(time)
}

/** Seconds stand only where there are any: `06:30`. */
export const isoTime = (time: Temporal.PlainTime): string =>
  time.toString().replace(/^(\d{2}:\d{2}):00$/, '$1')

/** ISO 8601 without zone; seconds only where there are any. */
export const isoDateTime = (value: Temporal.PlainDateTime): string =>
  `${value.toPlainDate().toString()}T${isoTime(value.toPlainTime())}`
