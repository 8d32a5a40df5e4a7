import { and, not, or, order } from '../operators.ts'
import { Range } from '../value.ts'
import type { Value } from '../value.ts'
import type { BuiltIn, BuiltIns } from './built-in.ts'

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
