import { within } from '#core/expression/values/operators.ts'
import { type Context, Range, type Value } from '#core/expression/values/value.ts'

export type Scope = { readonly names: Context; readonly outer: Scope | null; readonly item?: Value }

export type Step = (scope: Scope) => Value

export const noNames: Context = new Map()

export function* between(items: Iterable<Value>, range: Range): Iterable<Value> {
  for (const item of items) if (within(item, range) === true) yield item
}

export function* steppedFrom<T extends Value>(
  start: T,
  direction: number,
  count: number,
  step: (start: T, by: number) => T,
): Iterable<T> {
  for (let i = 0; i <= count; i++) yield step(start, i * direction)
}
