import { Decimal } from 'decimal.js'
import { Temporal } from 'temporal-polyfill'
import { addDays } from '../calendar/days.ts'
import { spend } from './values/budget.ts'
import { and, or, within } from './values/operators.ts'
import { type Context, isList, Range, type Value } from './values/value.ts'
import { children, type Iteration, sizeOf, type Syntax } from './syntax.ts'
import { noNames, type Scope, type Step } from './step.ts'

/** Whether a loop's body looks at the results so far (DMN 10.3.2.14); to keep them for each step costs. */
const readsPartial = (node: Syntax): boolean =>
  (node.kind === 'name' && node.name === 'partial') || children(node).some(readsPartial)

/** Steps of one turn of a loop or filter: a large body costs more than a small one. */
export const turnSteps = (body: Syntax): number => 1 + (sizeOf(body) >> 3)

/** A loop over every combination of its lists; `compile` makes a step of its parts. */
export function iterate(
  kind: 'for' | 'some' | 'every',
  over: readonly Iteration[],
  inner: Syntax,
  compile: (node: Syntax) => Step,
): Step {
  const body = compile(inner)
  const turn = turnSteps(inner)
  const names = readsPartial(inner)
    ? (results: readonly Value[]): Context => {
        spend(results.length)
        return new Map([['partial', [...results]]])
      }
    : () => noNames
  const lists = over.map(({ name, list, to }) => ({ name, list: compile(list), to: to && compile(to) }))
  /** False as soon as no further turn can change the result. */
  const visit = (scope: Scope, level: number, take: (value: Value) => boolean, results: Value[]): boolean => {
    spend(turn)
    const source = lists[level]
    if (!source) return take(body({ names: names(results), outer: scope }))
    const items = source.to ? countUp(source.list(scope), source.to(scope)) : itemsOf(source.list(scope))
    if (items === null) throw new NoList()
    for (const item of items)
      if (!visit({ names: new Map([[source.name, item]]), outer: scope }, level + 1, take, results))
        return false
    return true
  }
  const walk = (scope: Scope, take: (value: Value, results: Value[]) => boolean, results: Value[]) => {
    try {
      visit(scope, 0, (value) => take(value, results), results)
      return true
    } catch (error) {
      if (error instanceof NoList) return false
      throw error
    }
  }
  if (kind === 'for')
    return (scope) => {
      const results: Value[] = []
      return walk(scope, (value) => results.push(value) > 0, results) ? results : null
    }
  const [join, ended] = kind === 'some' ? [or, true] : [and, false]
  return (scope) => {
    let joined: Value = !ended
    return walk(scope, (value) => (joined = join(joined, value)) !== ended, []) ? joined : null
  }
}

/** A loop over nothing known has no value. */
class NoList extends Error {}

/** What a loop goes over: a list, a range between whole numbers or days, or a single value as a list of one. */
function itemsOf(value: Value): Iterable<Value> | null {
  if (value === null) return null
  if (isList(value)) return value
  if (!(value instanceof Range)) return [value]
  const items = countUp(value.low, value.high)
  return items && between(items, value)
}

/** Whole steps from one number or day to another, up or down; made one by one, so that none is made in vain. */
function countUp(from: Value, to: Value): Iterable<Value> | null {
  if (from instanceof Decimal && to instanceof Decimal)
    return steppedFrom(from, to.gte(from) ? 1 : -1, Math.floor(to.minus(from).abs().toNumber()), (start, i) =>
      start.plus(i),
    )
  if (from instanceof Temporal.PlainDate && to instanceof Temporal.PlainDate) {
    const days = from.until(to, { largestUnit: 'day' }).days
    return steppedFrom(from, Math.sign(days), Math.abs(days), (start, i) => addDays(start, i) ?? start)
  }
  return null
}

/** The items that lie in a range. */
function* between(items: Iterable<Value>, range: Range): Iterable<Value> {
  for (const item of items) if (within(item, range) === true) yield item
}

/** Values from a start, a step apart. */
function* steppedFrom<T extends Value>(
  start: T,
  direction: number,
  count: number,
  step: (start: T, by: number) => T,
): Iterable<T> {
  for (let i = 0; i <= count; i++) yield step(start, i * direction)
}
