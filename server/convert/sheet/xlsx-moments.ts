import { readMoment, readTime } from '#core/outline/read-date.ts'
import type { Cell } from '#core/outline/cell.ts'
import { type DateSystem, serialDate } from '#core/sheet/serial-date.ts'

/** A time of day that is shown to tenths of a second or finer, to the millisecond. Null: it is no time of day. */
export function tenths(serial: number): Cell | null {
  if (serial < 0 || serial >= 1) return null
  return { time: clockOf(Math.round(serial * 86_400_000) % 86_400_000) }
}

/** A time of day of its milliseconds, with as much of it as there is: 06:30, 06:30:15, 06:30:15.5. */
function clockOf(milliseconds: number): string {
  const pad = (part: number) => String(part).padStart(2, '0')
  const minutes = Math.floor(milliseconds / 60_000)
  const clock = `${pad(Math.floor(minutes / 60))}:${pad(minutes % 60)}`
  const seconds = Math.floor(milliseconds / 1000) % 60
  const rest = milliseconds % 1000
  if (rest) return `${clock}:${pad(seconds)}${String(rest / 1000).slice(1)}`
  return seconds ? `${clock}:${pad(seconds)}` : clock
}

/** Days as hours and minutes: 1.5 is 36:00. */
export function hours(days: number): string {
  const minutes = Math.round(days * 1440)
  return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, '0')}`
}

export interface Moment {
  /** Whole days of the serial number: none is a time of day alone. */
  readonly day: number
  readonly date: string | null
  readonly time: string
}

/** Day and time of a serial number, the time to the second, as it is kept in a binary fraction of a day. */
export function momentOf(serial: number, system: DateSystem): Moment | null {
  const seconds = Math.round((serial - Math.floor(serial)) * 86_400)
  const day = Math.floor(serial) + (seconds === 86_400 ? 1 : 0)
  const date = serialDate(day, system)?.toString() ?? null
  if (serial < 0 || (date === null && day !== 0)) return null
  return { day, date, time: clockOf((seconds % 86_400) * 1000) }
}

/** A moment as a cell. */
export const dayAndTime = ({ date, time }: Moment): Cell | null =>
  date === null ? null : time === '00:00' ? { date } : { dateTime: `${date}T${time}` }

/** A cell of type `d`: ISO 8601 (18.18.11). */
export function isoCell(text: string): Cell {
  const read = readMoment(text, null)
  if (read.ok)
    return read.time === null || read.time === '00:00'
      ? { date: read.date }
      : { dateTime: `${read.date}T${read.time}` }
  const time = readTime(text)
  return time === null ? text : { time }
}
