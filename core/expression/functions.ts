import { Decimal } from 'decimal.js'
import { Temporal } from 'temporal-polyfill'
import { and, equal, not, or, order } from './operators.ts'
import { isContext, isList, isMonths, monthsDuration, number, toText } from './value.ts'
import type { TypeName, Value } from './value.ts'

/** One built-in: parameter names in order (`...` at the end takes the rest), result type, and its meaning. */
export interface BuiltIn {
  readonly parameters: readonly string[]
  readonly optional?: number
  readonly variadic?: boolean
  readonly result: TypeName | 'any'
  readonly help: string
  readonly call: (args: readonly Value[]) => Value
}

const asDate = (value: Value): Temporal.PlainDate | null =>
  value instanceof Temporal.PlainDate
    ? value
    : value instanceof Temporal.PlainDateTime
      ? value.toPlainDate()
      : null

/** Aggregates take one list or several arguments (DMN 10.3.4.4). */
const items = (args: readonly Value[]): readonly Value[] =>
  args.length === 1 ? (isList(args[0]!) ? args[0] : [args[0]!]) : args

const numbers = (args: readonly Value[]): readonly Decimal[] | null => {
  const list = items(args)
  return list.every((item) => item instanceof Decimal) ? (list as readonly Decimal[]) : null
}

const attempt = (make: () => Value): Value => {
  try {
    return make()
  } catch (error) {
    if (error instanceof RangeError) return null
    throw error
  }
}

/** ISO 8601 text to a date; strict: `2027-2-1` is no date. */
export const parseDate = (text: string): Temporal.PlainDate | null =>
  /^-?\d{4,9}-\d{2}-\d{2}$/.test(text)
    ? (attempt(() => Temporal.PlainDate.from(text, { overflow: 'reject' })) as Temporal.PlainDate | null)
    : null

const parseDuration = (text: string): Value =>
  /^-?P(?=.)(\d+Y)?(\d+M)?(\d+D)?(T(?=.)(\d+H)?(\d+M)?(\d+(\.\d+)?S)?)?$/.test(text)
    ? attempt(() => {
        const read = Temporal.Duration.from(text)
        return isMonths(read)
          ? monthsDuration(read.years * 12 + read.months)
          : read.round({ largestUnit: 'days' })
      })
    : null

const parseTime = (text: string): Value =>
  /^\d{2}:\d{2}:\d{2}(\.\d+)?$/.test(text) ? attempt(() => Temporal.PlainTime.from(text)) : null

const parseDateTime = (text: string): Value => {
  const [day = '', clock] = text.split('T')
  if (clock === undefined) return parseDate(day)?.toPlainDateTime() ?? null
  const [date, time] = [parseDate(day), parseTime(clock)]
  return date && time instanceof Temporal.PlainTime ? date.toPlainDateTime(time) : null
}

const integer = (value: Value): number | null =>
  value instanceof Decimal && value.isInteger() ? value.toNumber() : null

const round = (value: Value, scale: Value, rounding: Decimal.Rounding): Value => {
  const digits = scale === undefined || scale === null ? 0 : integer(scale)
  return value instanceof Decimal && digits !== null && digits >= -6111 && digits <= 6176
    ? digits >= 0
      ? value.toDecimalPlaces(digits, rounding)
      : value.div(number(10).pow(-digits)).toDecimalPlaces(0, rounding).times(number(10).pow(-digits))
    : null
}

/** Days that are neither Saturday nor Sunday; further holidays may be given as a list of dates. */
function addBusinessDays(from: Value, days: Value, holidays: Value = []): Value {
  const count = integer(days)
  let date = asDate(from)
  if (!date || count === null || Math.abs(count) > 100_000 || !isList(holidays)) return null
  const closed = new Set(holidays.map(toText))
  for (let left = Math.abs(count); left > 0;) {
    date = date.add({ days: Math.sign(count) })
    if (date.dayOfWeek < 6 && !closed.has(date.toString())) left--
  }
  return date
}

/** Contracts count months to the same day, or to the month's last day where there is no such day. */
function addMonths(from: Value, months: Value): Value {
  const count = integer(months)
  return from instanceof Temporal.PlainDate && count !== null
    ? attempt(() => from.add({ months: count }))
    : null
}

const characters = (text: string) => [...text]

const one = (
  name: string,
  result: BuiltIn['result'],
  help: string,
  call: (value: Value) => Value,
): BuiltIn => ({
  parameters: [name],
  result,
  help,
  call: ([value]) => call(value!),
})

const aggregate = (
  result: BuiltIn['result'],
  help: string,
  call: (args: readonly Value[]) => Value,
): BuiltIn => ({
  parameters: ['list'],
  variadic: true,
  result,
  help,
  call,
})

const dateTime: Record<string, BuiltIn> = {
  date: {
    parameters: ['from', 'month', 'day'],
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
  time: one('from', 'time', 'A time of day from ISO text', (from) =>
    typeof from === 'string'
      ? parseTime(from)
      : from instanceof Temporal.PlainDateTime
        ? from.toPlainTime()
        : null,
  ),
  'date and time': {
    parameters: ['date', 'time'],
    optional: 1,
    result: 'date and time',
    help: 'A date and time from ISO text, or from a date and a time',
    call: ([date, time]) => {
      if (time !== undefined)
        return time instanceof Temporal.PlainTime ? (asDate(date!)?.toPlainDateTime(time) ?? null) : null
      return typeof date === 'string' ? parseDateTime(date) : null
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
  'add months': {
    parameters: ['date', 'months'],
    result: 'date',
    help: 'The same day so many months later, or the last day of that month',
    call: ([date, months]) => addMonths(date!, months!),
  },
  'add business days': {
    parameters: ['date', 'days', 'holidays'],
    optional: 1,
    result: 'date',
    help: 'So many working days later (or earlier), Saturdays, Sundays and listed holidays left out',
    call: ([date, days, holidays]) => addBusinessDays(date!, days!, holidays),
  },
}

const rounding = (help: string, mode: Decimal.Rounding): BuiltIn => ({
  parameters: ['n', 'scale'],
  optional: 1,
  result: 'number',
  help,
  call: ([n, scale]) => round(n!, scale ?? null, mode),
})

const numeric: Record<string, BuiltIn> = {
  decimal: rounding('Rounded to so many decimals, ties to even', Decimal.ROUND_HALF_EVEN),
  'round half up': rounding('Rounded to so many decimals, ties away from zero', Decimal.ROUND_HALF_UP),
  'round half down': rounding('Rounded to so many decimals, ties towards zero', Decimal.ROUND_HALF_DOWN),
  'round up': rounding('Rounded away from zero', Decimal.ROUND_UP),
  'round down': rounding('Rounded towards zero', Decimal.ROUND_DOWN),
  floor: rounding('Rounded down', Decimal.ROUND_FLOOR),
  ceiling: rounding('Rounded up', Decimal.ROUND_CEIL),
  abs: one('n', 'number', 'Without its sign', (n) =>
    n instanceof Decimal || n instanceof Temporal.Duration ? n.abs() : null,
  ),
  modulo: {
    parameters: ['dividend', 'divisor'],
    result: 'number',
    help: 'Remainder with the sign of the divisor',
    call: ([a, b]) =>
      a instanceof Decimal && b instanceof Decimal && !b.isZero() ? a.minus(b.times(a.div(b).floor())) : null,
  },
  number: one('from', 'number', 'A number from text such as "1234.50"', (from) =>
    typeof from === 'string' && /^\s*-?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?\s*$/i.test(from)
      ? number(from.trim())
      : from instanceof Decimal
        ? from
        : null,
  ),
  sum: aggregate('number', 'Sum of a list', (args) => {
    const list = numbers(args)
    return list?.length ? list.reduce((total, item) => total.plus(item), number(0)) : null
  }),
  mean: aggregate('number', 'Average of a list', (args) => {
    const list = numbers(args)
    return list?.length ? list.reduce((total, item) => total.plus(item), number(0)).div(list.length) : null
  }),
  min: aggregate('any', 'Smallest of a list', (args) => extreme(items(args), -1)),
  max: aggregate('any', 'Largest of a list', (args) => extreme(items(args), 1)),
}

function extreme(list: readonly Value[], sign: 1 | -1): Value {
  let best: Value = list[0] ?? null
  for (const item of list.slice(1)) {
    const ordered = order(item, best)
    if (ordered === null) return null
    if (ordered * sign > 0) best = item
  }
  return best
}

const textual: Record<string, BuiltIn> = {
  string: one('from', 'string', 'As text', (from) => (from === null ? null : toText(from))),
  'string length': one('string', 'number', 'Number of characters', (text) =>
    typeof text === 'string' ? number(characters(text).length) : null,
  ),
  'upper case': one('string', 'string', 'In capitals', (text) =>
    typeof text === 'string' ? text.toUpperCase() : null,
  ),
  'lower case': one('string', 'string', 'In small letters', (text) =>
    typeof text === 'string' ? text.toLowerCase() : null,
  ),
  trim: one('string', 'string', 'Without spaces at either end', (text) =>
    typeof text === 'string' ? text.trim() : null,
  ),
  substring: {
    parameters: ['string', 'start position', 'length'],
    optional: 1,
    result: 'string',
    help: 'Part of a text; the first character is 1, -1 is the last',
    call: ([text, start, length]) => {
      const from = integer(start!)
      if (typeof text !== 'string' || !from) return null
      const all = characters(text)
      const first = from > 0 ? from - 1 : all.length + from
      const count = length === undefined || length === null ? all.length : integer(length)
      return count === null || first < 0 ? null : all.slice(first, first + count).join('')
    },
  },
  contains: {
    parameters: ['string', 'match'],
    result: 'boolean',
    help: 'Whether a text has another in it',
    call: ([text, match]) =>
      typeof text === 'string' && typeof match === 'string' ? text.includes(match) : null,
  },
  'starts with': {
    parameters: ['string', 'match'],
    result: 'boolean',
    help: 'Whether a text begins with another',
    call: ([text, match]) =>
      typeof text === 'string' && typeof match === 'string' ? text.startsWith(match) : null,
  },
  'ends with': {
    parameters: ['string', 'match'],
    result: 'boolean',
    help: 'Whether a text ends with another',
    call: ([text, match]) =>
      typeof text === 'string' && typeof match === 'string' ? text.endsWith(match) : null,
  },
  'string join': {
    parameters: ['list', 'delimiter'],
    optional: 1,
    result: 'string',
    help: 'Texts of a list with a delimiter between',
    call: ([list, delimiter]) =>
      isList(list!) && (delimiter === undefined || typeof delimiter === 'string')
        ? list.filter((item) => typeof item === 'string').join((delimiter as string) ?? '')
        : null,
  },
}

const logical: Record<string, BuiltIn> = {
  not: one('negand', 'boolean', 'true for false and the other way round', not),
  all: aggregate('boolean', 'Whether all of a list are true', (args) => items(args).reduce(and, true)),
  any: aggregate('boolean', 'Whether one of a list is true', (args) => items(args).reduce(or, false)),
  'is defined': one('value', 'boolean', 'Whether a value is there', (value) => value !== null),
}

const listed: Record<string, BuiltIn> = {
  count: one('list', 'number', 'Number of items', (list) => (isList(list) ? number(list.length) : null)),
  'list contains': {
    parameters: ['list', 'element'],
    result: 'boolean',
    help: 'Whether a list has an item',
    call: ([list, element]) => (isList(list!) ? list.some((item) => equal(item, element!) === true) : null),
  },
  append: {
    parameters: ['list', 'item'],
    variadic: true,
    result: 'list',
    help: 'A list with further items',
    call: ([list, ...more]) => (isList(list!) ? [...list, ...more] : null),
  },
  concatenate: aggregate('list', 'Lists one after the other', (args) =>
    args.flatMap((item) => (isList(item) ? item : [item])),
  ),
  reverse: one('list', 'list', 'A list from its end', (list) => (isList(list) ? list.toReversed() : null)),
  'distinct values': one('list', 'list', 'A list without repetitions', (list) =>
    isList(list)
      ? list.filter((item, i) => list.findIndex((other) => equal(item, other) === true) === i)
      : null,
  ),
  flatten: one('list', 'list', 'Nested lists in one', (list) => (isList(list) ? flatten(list) : null)),
  'get value': {
    parameters: ['context', 'key'],
    result: 'any',
    help: 'The value of a context under a name',
    call: ([context, key]) =>
      isContext(context!) && typeof key === 'string' ? (context.get(key) ?? null) : null,
  },
}

const flatten = (list: readonly Value[]): readonly Value[] =>
  list.flatMap((item) => (isList(item) ? flatten(item) : [item]))

/** All built-ins by name. Sources: DMN 1.3 10.3.4; `add months` and `add business days` are ours. */
export const builtIns: ReadonlyMap<string, BuiltIn> = new Map(
  Object.entries({ ...dateTime, ...numeric, ...textual, ...logical, ...listed }),
)
