import { and, not, or, order } from '../values/operators.ts'
import { number, Range, type Value } from '../values/value.ts'
import type { BuiltIn, BuiltIns } from './built-in.ts'
import { readTemporal } from './dates.ts'

/** Order of two ends; null where they cannot be compared. */
const ordered = (left: Value, right: Value, test: (order: number) => boolean): Value => {
  const found = order(left, right)
  return found === null ? null : test(found)
}
const same = (left: Value, right: Value) => ordered(left, right, (n) => n === 0)
const less = (left: Value, right: Value) => ordered(left, right, (n) => n < 0)

/** A point counts as the range from itself to itself. */
const asRange = (value: Value): Range =>
  value instanceof Range ? value : new Range(value, value, true, true)

const relation = (
  parameters: readonly [string, string],
  help: string,
  holds: (a: Range, b: Range) => Value,
): BuiltIn => ({
  parameters,
  alsoNamed: {
    point1: 0,
    point: parameters[0] === 'range' ? 1 : 0,
    point2: 1,
    range1: 0,
    range2: 1,
    range: 1,
    value: 1,
  },
  result: 'boolean',
  help,
  call: ([a, b]) => (a === null || b === null ? null : holds(asRange(a!), asRange(b!))),
})

const before = (a: Range, b: Range): Value =>
  or(less(a.high, b.low), and(same(a.high, b.low), not(a.highIncluded && b.lowIncluded)))

/** Whether the lower end of `a` lies at or below that of `b`. */
const beginsBy = (a: Range, b: Range): Value =>
  or(less(a.low, b.low), and(same(a.low, b.low), a.lowIncluded || !b.lowIncluded))
const endsAfter = (a: Range, b: Range): Value =>
  or(less(b.high, a.high), and(same(a.high, b.high), a.highIncluded || !b.highIncluded))
const includes = (a: Range, b: Range): Value => and(beginsBy(a, b), endsAfter(a, b))
const sameLow = (a: Range, b: Range): Value => and(same(a.low, b.low), a.lowIncluded === b.lowIncluded)
const sameHigh = (a: Range, b: Range): Value => and(same(a.high, b.high), a.highIncluded === b.highIncluded)

/** How two points or ranges lie to each other. DMN 1.3 10.3.4.10, table 78. */
export const rangeFunctions: BuiltIns = {
  before: relation(['value', 'range'], 'Whether the first ends before the second begins', before),
  after: relation(['value', 'range'], 'Whether the first begins after the second ends', (a, b) =>
    before(b, a),
  ),
  meets: relation(['range1', 'range2'], 'Whether the first ends where the second begins', (a, b) =>
    and(a.highIncluded && b.lowIncluded, same(a.high, b.low)),
  ),
  'met by': relation(['range1', 'range2'], 'Whether the first begins where the second ends', (a, b) =>
    and(a.lowIncluded && b.highIncluded, same(a.low, b.high)),
  ),
  'overlaps before': relation(
    ['range1', 'range2'],
    'Whether the first begins before the second, and ends within it',
    (a, b) => overlapsBefore(a, b),
  ),
  'overlaps after': relation(
    ['range1', 'range2'],
    'Whether the first ends after the second, and begins within it',
    (a, b) => overlapsBefore(b, a),
  ),
  range: {
    parameters: ['from'],
    types: ['string'],
    result: 'range',
    help: 'A range from text such as "[1..5)"',
    call: ([from]) => (typeof from === 'string' ? readRange(from) : null),
  },
  overlaps: relation(['range1', 'range2'], 'Whether two ranges have something in common', (a, b) =>
    and(not(before(a, b)), not(before(b, a))),
  ),
  includes: relation(['range', 'value'], 'Whether the first holds the second', includes),
  during: relation(['value', 'range'], 'Whether the first lies within the second', (a, b) => includes(b, a)),
  starts: relation(['value', 'range'], 'Whether the first is the beginning of the second', (a, b) =>
    and(sameLow(a, b), includes(b, a)),
  ),
  'started by': relation(['range', 'value'], 'Whether the second is the beginning of the first', (a, b) =>
    and(sameLow(a, b), includes(a, b)),
  ),
  finishes: relation(['value', 'range'], 'Whether the first is the end of the second', (a, b) =>
    and(sameHigh(a, b), includes(b, a)),
  ),
  'finished by': relation(['range', 'value'], 'Whether the second is the end of the first', (a, b) =>
    and(sameHigh(a, b), includes(a, b)),
  ),
  coincides: relation(['range1', 'range2'], 'Whether both are the same', (a, b) =>
    and(sameLow(a, b), sameHigh(a, b)),
  ),
}

/** DMN 1.4 table 78: the first begins earlier, reaches into the second, and does not end after it. */
const overlapsBefore = (a: Range, b: Range): Value =>
  and(
    and(
      or(less(a.low, b.low), and(same(a.low, b.low), a.lowIncluded && !b.lowIncluded)),
      or(less(b.low, a.high), and(same(a.high, b.low), a.highIncluded && b.lowIncluded)),
    ),
    or(less(a.high, b.high), and(same(a.high, b.high), !a.highIncluded || b.highIncluded)),
  )

/** DMN 1.4 10.3.4.1, `range(from)`: both ends are literals; one of them may be missing. */
function readRange(text: string): Value {
  const whole = text.trim()
  const [open, close, dots] = [whole[0] ?? '', whole.at(-1) ?? '', whole.indexOf('..')]
  if (!'[(]'.includes(open) || !'])['.includes(close) || dots < 1 || dots > whole.length - 3) return null
  const [low, high] = [readEnd(whole.slice(1, dots)), readEnd(whole.slice(dots + 2, -1))]
  if (low === undefined || high === undefined || (low === null && high === null)) return null
  if (low !== null && high !== null && (order(low, high) ?? 1) > 0) return null
  if ((low === null && open === '[') || (high === null && close === ']')) return null
  return new Range(low, high, open === '[', close === ']')
}

/** A literal: a number, a text in quotation marks, a date, time or duration. Undefined where it is none. */
function readEnd(written: string): Value | undefined {
  const text = written.trim()
  if (text === '') return null
  if (/^-?(\d+(\.\d+)?|\.\d+)$/.test(text)) return number(text)
  const quoted = /^"([^"\\]*)"$/.exec(text)
  if (quoted) return quoted[1]!
  const time = /^(?:@|(date|time|date and time|duration)\s*\(\s*)"([^"\\]*)"(\s*\))?$/.exec(text)
  if (!time || (time[1] === undefined) !== (time[3] === undefined)) return undefined
  return readTemporal(time[2]!, time[1] ? [time[1]] : undefined) ?? undefined
}
