import { Decimal } from 'decimal.js'
import { Temporal } from 'temporal-polyfill'
import { addDays } from '../../calendar/days.ts'
import { perObject } from '../../per-object.ts'
import { LONGEST_TEXT, spend, spendText } from './budget.ts'
import {
  attempt,
  isContext,
  isList,
  isMonths,
  monthsDuration,
  number,
  Range,
  secondsDuration,
  totalMonths,
  totalSeconds,
  type Value,
} from './value.ts'

/** Three-valued conjunction, DMN table 50. Anything but a boolean counts as unknown. */
export function and(left: Value, right: Value): Value {
  if (left === false || right === false) return false
  return left === true && right === true ? true : null
}

/** Three-valued disjunction, DMN table 50. */
export function or(left: Value, right: Value): Value {
  if (left === true || right === true) return true
  return left === false && right === false ? false : null
}

/** DMN’s negation: of anything but true and false, null. */
export const not = (value: Value): Value => (typeof value === 'boolean' ? !value : null)

/**
 * Order of two values: negative, 0 or positive; null where they cannot be ordered (different kinds, or null).
 * DMN 10.3.2.13, table 53.
 */
export function order(left: Value, right: Value): number | null {
  if (left instanceof Decimal && right instanceof Decimal) return left.comparedTo(right)
  if (typeof left === 'string' && typeof right === 'string') {
    spendText(Math.min(left.length, right.length))
    return left < right ? -1 : left > right ? 1 : 0
  }
  if (left instanceof Temporal.PlainDate && right instanceof Temporal.PlainDate)
    return Temporal.PlainDate.compare(left, right)
  if (left instanceof Temporal.PlainTime && right instanceof Temporal.PlainTime)
    return Temporal.PlainTime.compare(left, right)
  if (left instanceof Temporal.PlainDateTime && right instanceof Temporal.PlainDateTime)
    return Temporal.PlainDateTime.compare(left, right)
  if (left instanceof Temporal.Duration && right instanceof Temporal.Duration) {
    if (isMonths(left) && isMonths(right)) return totalMonths(left) - totalMonths(right)
    if (!isMonths(left) && !isMonths(right)) return totalSeconds(left) - totalSeconds(right)
  }
  return null
}

/** FEEL equality: null equals only null; different kinds compare to null (unknown). */
export function equal(left: Value, right: Value): Value {
  if (left === null || right === null) return left === right
  spend(1)
  if (typeof left === 'boolean' && typeof right === 'boolean') return left === right
  if (isList(left) && isList(right))
    return left.length === right.length && left.every((item, i) => equal(item, right[i]!) === true)
  if (isContext(left) && isContext(right))
    return (
      left.size === right.size &&
      [...left].every(([key, item]) => right.has(key) && equal(item, right.get(key)!) === true)
    )
  if (left instanceof Range && right instanceof Range)
    return (
      left.lowIncluded === right.lowIncluded &&
      left.highIncluded === right.highIncluded &&
      equal(left.low, right.low) === true &&
      equal(left.high, right.high) === true
    )
  const ordered = order(left, right)
  return ordered === null ? null : ordered === 0
}

/** Signs that compare. */
export type Comparator = '=' | '!=' | '<' | '<=' | '>' | '>='

/** Compares two values; null where they cannot be ordered. */
export function compare(operator: Comparator, left: Value, right: Value): Value {
  if (operator === '=') return equal(left, right)
  if (operator === '!=') return not(equal(left, right))
  const ordered = order(left, right)
  if (ordered === null) return null
  if (operator === '<') return ordered < 0
  if (operator === '<=') return ordered <= 0
  return operator === '>' ? ordered > 0 : ordered >= 0
}

/**
 * Whether a value lies in a range; unknown where an end cannot be compared with it. An end that is missing is open where it is
 * left out, `(null..10]`; where it is said to belong to the range, `[null..10]`, nobody knows it.
 */
export function within(value: Value, range: Range): Value {
  const low =
    range.low === null && !range.lowIncluded
      ? true
      : compare(range.lowIncluded ? '>=' : '>', value, range.low)
  const high =
    range.high === null && !range.highIncluded
      ? true
      : compare(range.highIncluded ? '<=' : '<', value, range.high)
  return and(low, high)
}

/** Signs that calculate. */
export type Arithmetic = '+' | '-' | '*' | '/' | '**'

/** DMN 10.3.2.7, tables 55 to 58. Null where the operands do not go together, for a division by zero, and past the last date or number there is. */
export function calculate(operator: Arithmetic, left: Value, right: Value): Value {
  if (left instanceof Decimal && right instanceof Decimal) return calculateNumbers(operator, left, right)
  if (operator === '+' && typeof left === 'string' && typeof right === 'string') {
    if (left.length + right.length > LONGEST_TEXT) return null
    spendText(left.length + right.length)
    return left + right
  }
  return attempt(() => calculateTimes(operator, left, right))
}

/** Dates, times and durations. Throws a RangeError past the last date there is. */
function calculateTimes(operator: Arithmetic, left: Value, right: Value): Value {
  if (right instanceof Temporal.Duration && (operator === '+' || operator === '-'))
    return shift(left, operator === '+' ? right : opposite(right))
  if (left instanceof Temporal.Duration && operator === '+') return shift(right, left)
  if (operator === '-') return difference(left, right)
  if (left instanceof Temporal.Duration && right instanceof Decimal) return scale(operator, left, right)
  if (left instanceof Decimal && right instanceof Temporal.Duration && operator === '*')
    return scale('*', right, left)
  if (left instanceof Temporal.Duration && right instanceof Temporal.Duration && operator === '/')
    return ratio(left, right)
  return null
}

const opposite = perObject((duration: Temporal.Duration) => duration.negated())

/** Roots and powers go through logarithms: some hundred times as long as a sum. */
export const POWER_STEPS = 50

function calculateNumbers(operator: Arithmetic, left: Decimal, right: Decimal): Value {
  if (operator === '**') spend(POWER_STEPS)
  const result = {
    '+': () => left.plus(right),
    '-': () => left.minus(right),
    '*': () => left.times(right),
    '/': () => left.div(right),
    '**': () => left.pow(right),
  }[operator]()
  return result.isFinite() ? result : null
}

/** Months are added before days, and a day past the month's end becomes its last day (as SQL's intervals do). */
function shift(value: Value, by: Temporal.Duration): Value {
  if (value instanceof Temporal.PlainDate)
    return isMonths(by) ? value.add(by) : addDays(value, Math.floor(totalSeconds(by) / 86_400))
  if (value instanceof Temporal.PlainDateTime) return value.add(by)
  if (value instanceof Temporal.PlainTime) return isMonths(by) ? null : value.add(by)
  if (value instanceof Temporal.Duration) {
    if (isMonths(value) && isMonths(by)) return monthsDuration(totalMonths(value) + totalMonths(by))
    if (!isMonths(value) && !isMonths(by)) return secondsDuration(totalSeconds(value) + totalSeconds(by))
  }
  return null
}

function difference(left: Value, right: Value): Value {
  if (left instanceof Temporal.PlainDate && right instanceof Temporal.PlainDate)
    return left.since(right, { largestUnit: 'day' })
  // A date beside a date and time is its midnight (DMN 10.3.2.3.6).
  if (left instanceof Temporal.PlainDateTime && right instanceof Temporal.PlainDate)
    return left.since(right.toPlainDateTime(), { largestUnit: 'day' })
  if (left instanceof Temporal.PlainDate && right instanceof Temporal.PlainDateTime)
    return left.toPlainDateTime().since(right, { largestUnit: 'day' })
  if (left instanceof Temporal.PlainDateTime && right instanceof Temporal.PlainDateTime)
    return left.since(right, { largestUnit: 'day' })
  if (left instanceof Temporal.PlainTime && right instanceof Temporal.PlainTime) return left.since(right)
  return null
}

function scale(operator: Arithmetic, length: Temporal.Duration, by: Decimal): Value {
  if (operator !== '*' && (operator !== '/' || by.isZero())) return null
  const apply = (amount: number) =>
    (operator === '*' ? by.times(amount) : by.pow(-1).times(amount)).trunc().toNumber()
  return isMonths(length)
    ? monthsDuration(apply(totalMonths(length)))
    : secondsDuration(apply(totalSeconds(length)))
}

function ratio(left: Temporal.Duration, right: Temporal.Duration): Value {
  if (isMonths(left) !== isMonths(right)) return null
  const [over, under] = isMonths(left)
    ? [totalMonths(left), totalMonths(right)]
    : [totalSeconds(left), totalSeconds(right)]
  return under === 0 ? null : calculateNumbers('/', number(over), number(under))
}
