import { Decimal } from 'decimal.js'
import { Temporal } from 'temporal-polyfill'
import { parseDate } from '../../calendar/days.ts'
import { parseTime as parseClock } from '../../calendar/times.ts'
import { attempt, isMonths, monthsDuration, number, TODAY, type Value } from '../values/value.ts'
import { asDate, type BuiltIns, integer, one } from './built-in.ts'

const parseDuration = (text: string): Value =>
  /^-?P(?=.)(\d+Y)?(\d+M)?(\d+D)?(T(?=.)(\d+H)?(\d+M)?(\d+(\.\d+)?S)?)?$/.test(text)
    ? attempt(() => {
        const read = Temporal.Duration.from(text)
        return isMonths(read)
          ? monthsDuration(read.years * 12 + read.months)
          : read.round({ largestUnit: 'days' })
      })
    : null

/** Seconds may have decimals, as many as nanoseconds have. */
function timeOf(hour: number | null, minute: number | null, second: Value): Value {
  if (hour === null || minute === null || !(second instanceof Decimal)) return null
  const nanoseconds = second.times(1e9).trunc()
  const whole = nanoseconds.div(1e9).trunc()
  const rest = nanoseconds.minus(whole.times(1e9)).toNumber()
  return attempt(() =>
    Temporal.PlainTime.from(
      {
        hour,
        minute,
        second: whole.toNumber(),
        millisecond: Math.trunc(rest / 1e6),
        microsecond: Math.trunc(rest / 1e3) % 1000,
        nanosecond: rest % 1000,
      },
      { overflow: 'reject' },
    ),
  )
}

/** Seconds may be left out in a cell, but not in an expression (DMN 10.3.4.1). */
const parseTime = (text: string): Temporal.PlainTime | null =>
  /^\d{2}:\d{2}:/.test(text) ? parseClock(text) : null

const parseDateTime = (text: string): Value => {
  const [day = '', clock] = text.split('T')
  if (clock === undefined) return parseDate(day)?.toPlainDateTime() ?? null
  const [date, time] = [parseDate(day), parseTime(clock)]
  return date && time && date.toPlainDateTime(time)
}

/** Dates, times and durations. */
export const dateFunctions: BuiltIns = {
  date: {
    parameters: ['from', 'month', 'day'],
    alsoNamed: { year: 0 },
    optional: 2,
    result: 'date',
    help: 'A date from ISO text, from a date and time, or from year, month and day',
    call: ([from, month, day]) => {
      if (month !== undefined) {
        const [y, m, d] = [integer(from!), integer(month), integer(day ?? null)]
        return y === null || m === null || d === null
          ? null
          : attempt(() => Temporal.PlainDate.from({ year: y, month: m, day: d }, { overflow: 'reject' }))
      }
      return typeof from === 'string' ? parseDate(from) : asDate(from!)
    },
  },
  time: {
    parameters: ['from', 'minute', 'second'],
    alsoNamed: { hour: 0 },
    optional: 2,
    result: 'time',
    help: 'A time of day from ISO text, from a date and time, or from hour, minute and second',
    call: ([from, minute, second]) => {
      if (minute !== undefined) return timeOf(integer(from!), integer(minute), second ?? null)
      if (from instanceof Temporal.PlainTime) return from
      return typeof from === 'string'
        ? parseTime(from)
        : from instanceof Temporal.PlainDateTime
          ? from.toPlainTime()
          : null
    },
  },
  today: {
    parameters: [],
    reads: TODAY,
    result: 'date',
    help: 'The day for which the record is worked out: the day its run was set up. Never the clock, so that a document made again is the same',
    call: () => null,
  },
  'date and time': {
    parameters: ['date', 'time'],
    alsoNamed: { from: 0 },
    optional: 1,
    result: 'date and time',
    help: 'A date and time from ISO text, or from a date and a time',
    call: ([date, time]) => {
      if (time !== undefined)
        return time instanceof Temporal.PlainTime ? (asDate(date!)?.toPlainDateTime(time) ?? null) : null
      if (date instanceof Temporal.PlainDateTime) return date
      return typeof date === 'string' ? parseDateTime(date) : (asDate(date!)?.toPlainDateTime() ?? null)
    },
  },
  duration: one('from', 'days and time duration', 'A duration from ISO 8601 text such as "P10D"', (from) =>
    typeof from === 'string' ? parseDuration(from) : null,
  ),
  'years and months duration': {
    parameters: ['from', 'to'],
    result: 'years and months duration',
    help: 'Whole months between two dates',
    call: ([from, to]) => {
      const [start, end] = [asDate(from!), asDate(to!)]
      if (!start || !end) return null
      const between = start.until(end, { largestUnit: 'month' })
      return monthsDuration(between.months)
    },
  },
  'day of week': one('date', 'string', 'The English name of the weekday', (value) => {
    const names = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
    return names[(asDate(value)?.dayOfWeek ?? 0) - 1] ?? null
  }),
  'last day of month': one('date', 'date', 'The last day of the month of a date', (value) => {
    const date = asDate(value)
    return date ? date.with({ day: date.daysInMonth }) : null
  }),
  'day of year': one('date', 'number', 'The day of the year, 1 to 366', (value) => {
    const date = asDate(value)
    return date ? number(date.dayOfYear) : null
  }),
  'week of year': one('date', 'number', 'The week of the year by ISO 8601, 1 to 53', (value) => {
    const date = asDate(value)
    return date?.weekOfYear ? number(date.weekOfYear) : null
  }),
  'month of year': one('date', 'string', 'The English name of the month', (value) => {
    const names =
      'January February March April May June July August September October November December'.split(' ')
    return names[(asDate(value)?.month ?? 0) - 1] ?? null
  }),
}

const WRITTEN_KINDS = ['date', 'time', 'date and time', 'duration']

/** The date, time, date and time or duration that a text is, whichever comes first; null where it is none of them. */
export const readTemporal = (text: Value, kinds: readonly string[] = WRITTEN_KINDS): Value =>
  kinds.map((kind) => dateFunctions[kind]!.call([text])).find((found) => found !== null) ?? null
