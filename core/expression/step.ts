import { within } from '#core/expression/values/operators.ts'
import { type Context, Range, type Value } from '#core/expression/values/value.ts'

/** The names that can be seen from a place of an expression, the innermost first. */
export type Scope = { readonly names: Context; readonly outer: Scope | null; readonly item?: Value }

/** A part of an expression, compiled: what it comes to where these names can be seen. */
export type Step = (scope: Scope) => Value

/** A scope of its own without names. */
export const noNames: Context = new Map()

/** The items that lie in a range. */
export function* between(items: Iterable<Value>, range: Range): Iterable<Value> {
  for (const item of items) if (within(item, range) === true) yield item
}

/** Values from a start, a step apart; charged as they are taken. */
export function* steppedFrom<T extends Value>(
  start: T,
  direction: number,
  count: number,
  step: (start: T, by: number) => T,
): Iterable<T> {
  for (let i = 0; i <= count; i++) yield step(start, i * direction)
}
