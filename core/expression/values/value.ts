import { Decimal } from 'decimal.js'
import { Temporal } from 'temporal-polyfill'
import { spend, spendText } from './budget.ts'

/** IEEE 754-2008 decimal128, as DMN 10.3.2.3.1 asks: 34 digits, ties to even, exponents from -6143 to 6144. */
export const Number34 = Decimal.clone({
  precision: 34,
  rounding: Decimal.ROUND_HALF_EVEN,
  maxE: 6144,
  minE: -6143,
})
/** A number of 34 significant digits (IEEE 754 decimal128, as DMN asks for). */
export type Number34 = Decimal

/** Values by name. */
export type Context = ReadonlyMap<string, Value>

/** A range of comparable values; a missing end (null) is unbounded. */
export class Range {
  constructor(
    readonly low: Value,
    readonly high: Value,
    readonly lowIncluded: boolean,
    readonly highIncluded: boolean,
  ) {}
}

/** A function written in an expression, such as the order of a sorting. */
export class Lambda {
  constructor(
    readonly parameters: readonly string[],
    readonly call: (values: readonly Value[]) => Value,
  ) {}
}

/** The name under which a record's context keeps the day it is worked out for; no field can have it. */
export const TODAY = '@today'

/** A FEEL value. `null` also stands for "unknown" in three-valued logic. */
export type Value =
  | null
  | boolean
  | string
  | Decimal
  | Temporal.PlainDate
  | Temporal.PlainTime
  | Temporal.PlainDateTime
  | Temporal.Duration
  | readonly Value[]
  | Context
  | Range
  | Lambda

/** The types of values, as messages name them. */
export type TypeName =
  | 'null'
  | 'boolean'
  | 'string'
  | 'number'
  | 'date'
  | 'time'
  | 'date and time'
  | 'days and time duration'
  | 'years and months duration'
  | 'list'
  | 'context'
  | 'range'
  | 'function'

/** A value as a number of 34 digits. */
export const number = (value: Decimal.Value): Decimal => new Number34(value)

/** What is out of the range of dates, times or durations is null. */
export const attempt = (make: () => Value): Value => {
  try {
    return make()
  } catch (error) {
    if (error instanceof RangeError) return null
    throw error
  }
}

/** Whether a value is a list. */
export const isList = (value: Value): value is readonly Value[] => Array.isArray(value)
/** Whether a value is a context. */
export const isContext = (value: Value): value is Context => value instanceof Map
/** Whether a duration is one of years and months. */
export const isMonths = (value: Temporal.Duration): boolean => value.years !== 0 || value.months !== 0

/** The type of a value. */
export function typeOf(value: Value): TypeName {
  if (value === null) return 'null'
  if (typeof value === 'boolean') return 'boolean'
  if (typeof value === 'string') return 'string'
  if (value instanceof Decimal) return 'number'
  if (value instanceof Temporal.PlainDate) return 'date'
  if (value instanceof Temporal.PlainTime) return 'time'
  if (value instanceof Temporal.PlainDateTime) return 'date and time'
  if (value instanceof Temporal.Duration)
    return isMonths(value) ? 'years and months duration' : 'days and time duration'
  if (value instanceof Range) return 'range'
  if (value instanceof Lambda) return 'function'
  return isList(value) ? 'list' : 'context'
}

/** Length of a years-and-months duration in months. */
export const totalMonths = (value: Temporal.Duration): number => value.years * 12 + value.months

/** Length of a days-and-time duration in seconds. */
export const totalSeconds = (value: Temporal.Duration): number =>
  value.days * 86_400 +
  value.hours * 3600 +
  value.minutes * 60 +
  value.seconds +
  value.milliseconds / 1e3 +
  value.microseconds / 1e6 +
  value.nanoseconds / 1e9

/** So many months as years and months. */
export const monthsDuration = (months: number): Temporal.Duration =>
  Temporal.Duration.from({ years: Math.trunc(months / 12), months: months % 12 })

/** Whole seconds as days, hours, minutes and seconds. */
export function secondsDuration(seconds: number): Temporal.Duration {
  const left = Math.trunc(seconds)
  return new Temporal.Duration(
    0,
    0,
    0,
    Math.trunc(left / 86_400),
    Math.trunc(left / 3600) % 24,
    Math.trunc(left / 60) % 60,
    left % 60,
  )
}

/** The text FEEL's `string()` gives; also used for names of choices. */
export function toText(value: Value): string {
  spend(1)
  if (value === null) return 'null'
  if (typeof value === 'string') return value
  if (typeof value === 'boolean') return String(value)
  if (value instanceof Decimal) return value.toFixed()
  if (value instanceof Range)
    return `${value.lowIncluded ? '[' : '('}${toText(value.low)}..${toText(value.high)}${value.highIncluded ? ']' : ')'}`
  if (isList(value)) return short(`[${value.map(quoted).join(', ')}]`)
  if (isContext(value))
    return short(`{${[...value].map(([key, item]) => `${key}: ${quoted(item)}`).join(', ')}}`)
  return value instanceof Lambda ? 'function' : value.toString()
}

/** Lists that hold one list many times would make texts without end. */
function short(text: string): string {
  spendText(text.length)
  return text
}

const quoted = (value: Value): string => (typeof value === 'string' ? JSON.stringify(value) : toText(value))

/** The value under a dotted name. */
export function valueAt(context: Context, name: string): Value {
  if (!name.includes('.')) return context.get(name) ?? null
  let at: Value = context
  for (const part of name.split('.')) {
    if (!isContext(at)) return null
    at = at.get(part) ?? null
  }
  return at
}
