import { Temporal } from 'temporal-polyfill'

/** Which day is number 0 or 1: ECMA-376 part 1, 18.17.4.1. */
export type DateSystem = 1900 | 1904

/**
 * The date of a spreadsheet's serial number; a fraction (time of day) is dropped. Null outside the system's range.
 * The 1900 system counts a 29 February 1900 that never was (serial 60): numbers up to 59 are one day further on than the
 * plain count from 1899-12-30, and 60 itself is no date.
 */
export function serialDate(serial: number, system: DateSystem = 1900): Temporal.PlainDate | null {
  const days = Math.floor(serial)
  if (!Number.isFinite(serial) || days < 0 || days > 2_958_465) return null
  if (system === 1904) return Temporal.PlainDate.from('1904-01-01').add({ days })
  if (days === 0 || days === 60) return null
  return Temporal.PlainDate.from('1899-12-30').add({ days: days < 60 ? days + 1 : days })
}
