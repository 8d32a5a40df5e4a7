import { Decimal } from 'decimal.js'
import { calculate } from './values/operators.ts'
import { isContext, isList, number, Number34, Range, typeOf, type Value } from './values/value.ts'
import type { Syntax } from './syntax.ts'
import type { Step } from './step.ts'

/** A step that gives a literal’s value, made once. */
export function constant(node: Syntax & { kind: 'number' | 'string' | 'boolean' | 'null' }): Step {
  const value =
    node.kind === 'number'
      ? finite(number(node.text).toSignificantDigits(DIGITS))
      : node.kind === 'null'
        ? null
        : node.value
  return () => value
}

/** Digits a number is written with at most; more are rounded (DMN 10.3.2.3.1). */
const DIGITS = Number34.precision

/** A number past the largest there is, is none. */
export const finite = (value: Value): Value => (value instanceof Decimal && !value.isFinite() ? null : value)

/** Numbers and durations turned round; anything else is null. */
export const negated = (value: Value): Value =>
  value instanceof Decimal
    ? value.neg()
    : typeOf(value).endsWith('duration')
      ? calculate('*', value, number(-1))
      : null

/** A member of a context; of a list of contexts, the list of their members (DMN 10.3.1.1). */
export function member(of: Value, name: string): Value {
  if (isContext(of)) return of.get(name) ?? null
  if (isList(of)) return of.map((item) => member(item, name))
  if (of instanceof Range)
    return (
      { start: of.low, end: of.high, 'start included': of.lowIncluded, 'end included': of.highIncluded }[
        name
      ] ?? null
    )
  if (of === null || typeof of !== 'object') return null
  const part = (of as unknown as Record<string, unknown>)[name === 'weekday' ? 'dayOfWeek' : name]
  return typeof part === 'number' ? number(part) : null
}
