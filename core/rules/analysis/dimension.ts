import { Decimal } from 'decimal.js'
import { Temporal } from 'temporal-polyfill'
import { compileUnaryTests, evaluateSyntax } from '../../expression/compile.ts'
import { TESTED } from '../../expression/parse.ts'
import { children, type Syntax, type Test } from '../../expression/syntax.ts'
import { type Comparator, order } from '../../expression/values/operators.ts'
import { isList, number, Range, toText, type Value } from '../../expression/values/value.ts'
import type { Tested } from '../cell.ts'
import { isAnything } from '../table.ts'

// The values of a column fall into finitely many stretches on which every cell of the column is true or false throughout: the
// values it names, and what lies between them. A cell is the set of its stretches, and what is true of sets is true of cells.

/** A set of stretches, one byte each: 1 where it is in. */
export type Stretches = Uint8Array

/** Values that no cell of a column tells apart. */
export interface Stretch {
  /** One of them. */
  readonly value: Value
  /** That value alone; else all between its neighbours. */
  readonly alone: boolean
}

/** The values of one column, as far as its cells tell them apart. */
export interface Dimension {
  readonly input: string
  readonly kind: 'ordered' | 'texts' | 'yes/no' | 'condition'
  readonly stretches: readonly Stretch[]
  /** Place of the stretch of all texts that no cell names; -1 where there is none. */
  readonly other: number
  /** Place of the missing value, where a cell asks for it; else -1. */
  readonly missing: number
  /** Of a test that is not understood: its text. It holds in the first of its two stretches. */
  readonly test: string | null
}

const isTested = (node: Syntax): boolean => node.kind === 'name' && node.name === TESTED
const readsName = (node: Syntax): boolean => node.kind === 'name' || children(node).some(readsName)

/** The value of what reads nothing; undefined where it reads something. */
const constantOf = (node: Syntax): Value | undefined =>
  readsName(node) ? undefined : evaluateSyntax(node, new Map())

interface Comparison {
  readonly operator: Comparator
  readonly with: Value
}

/** A cell in terms of comparisons with constants. */
type Condition =
  | { readonly all: readonly Condition[] }
  | { readonly any: readonly Condition[] }
  | { readonly not: Condition }
  | { readonly is: Comparison }
  | { readonly constant: boolean }

const MIRRORED: Record<Comparator, Comparator> = {
  '=': '=',
  '!=': '!=',
  '<': '>',
  '>': '<',
  '<=': '>=',
  '>=': '<=',
}

/** A cell's tests as comparisons with constants; null where they say more than that. */
export function conditionOf(node: Syntax): Condition | null {
  switch (node.kind) {
    case 'boolean':
      return { constant: node.value }
    case 'and':
    case 'or': {
      const [left, right] = [conditionOf(node.left), conditionOf(node.right)]
      if (!left || !right) return null
      return node.kind === 'and' ? { all: [left, right] } : { any: [left, right] }
    }
    case 'comparison': {
      const [left, right] = [constantOf(node.left), constantOf(node.right)]
      if (isTested(node.left) && right !== undefined) return { is: { operator: node.operator, with: right } }
      if (isTested(node.right) && left !== undefined)
        return { is: { operator: MIRRORED[node.operator], with: left } }
      return null
    }
    case 'in': {
      if (!isTested(node.value)) return null
      const tests = node.tests.map(conditionOfTest)
      const known = tests.filter((test) => test !== null)
      return known.length === tests.length ? { any: known } : null
    }
    case 'call': {
      const [first] = node.args
      if (node.name !== 'not' || !first || node.args.length > 1) return null
      const inner = conditionOf(first.value)
      return inner && { not: inner }
    }
    default:
      return null
  }
}

function conditionOfTest(test: Test): Condition | null {
  if ('operator' in test) {
    const value = constantOf(test.with)
    return value === undefined ? null : { is: { operator: test.operator, with: value } }
  }
  const value = constantOf(test.expression)
  if (value === undefined) return null
  if (value instanceof Range) return within(value)
  if (isList(value)) {
    const parts = value.map((item): Condition =>
      item instanceof Range ? within(item) : { is: { operator: '=', with: item } },
    )
    return { any: parts }
  }
  return { is: { operator: '=', with: value } }
}

const within = ({ low, high, lowIncluded, highIncluded }: Range): Condition => ({
  all: [
    ...(low === null ? [] : [{ is: { operator: lowIncluded ? '>=' : '>', with: low } as const }]),
    ...(high === null ? [] : [{ is: { operator: highIncluded ? '<=' : '<', with: high } as const }]),
  ],
})

function* comparisonsIn(condition: Condition): Generator<Comparison> {
  if ('is' in condition) yield condition.is
  else if ('not' in condition) yield* comparisonsIn(condition.not)
  else if ('all' in condition || 'any' in condition)
    for (const part of 'all' in condition ? condition.all : condition.any) yield* comparisonsIn(part)
}

/** One column read: the dimensions that its cells span, and each row's set in each of them; null: all of it. */
export interface ReadColumn {
  readonly dimensions: readonly Dimension[]
  readonly sets: readonly (readonly (Stretches | null)[])[]
  /** Tests that are not understood, and count as conditions of their own. */
  readonly unclear: readonly string[]
}

const isOrdered = (value: Value): boolean => value instanceof Decimal || value instanceof Temporal.PlainDate

/** Whether a column's comparisons are of a kind that is told apart exactly. */
function suits({ operator, with: value }: Comparison, { type }: Tested): boolean {
  if (value === null) return operator === '=' || operator === '!='
  if (type === 'number') return value instanceof Decimal
  if (type === 'date') return value instanceof Temporal.PlainDate
  if (type === 'boolean') return typeof value === 'boolean' && (operator === '=' || operator === '!=')
  return type === 'string' && typeof value === 'string' && (operator === '=' || operator === '!=')
}

/** Reads the cells of a column, one a row. */
export function readColumn(
  input: string,
  tested: Tested,
  cells: readonly (string | undefined)[],
): ReadColumn {
  const conditions = cells.map((cell): Condition | string | null => {
    if (isAnything(cell)) return null
    const compiled = compileUnaryTests(cell!)
    const condition = compiled.ok ? conditionOf(compiled.tests.syntax) : null
    if (condition && [...comparisonsIn(condition)].every((each) => suits(each, tested))) return condition
    return cell!.trim()
  })
  const understood = conditions.filter((each): each is Condition => each !== null && typeof each === 'object')
  const unclear = [...new Set(conditions.filter((each) => typeof each === 'string'))]
  const own = understood.length ? dimensionOf(input, tested, understood) : null
  const dimensions = [...(own ? [own] : []), ...unclear.map((test) => conditionDimension(input, test))]
  const places =
    own && new Map(own.stretches.map(({ value, alone }, i) => [alone ? toText(value) : `~${i}`, i]))
  const sets = conditions.map((condition) =>
    dimensions.map(({ test }): Stretches | null => {
      if (condition === null) return null
      if (typeof condition === 'string') return test === condition ? Uint8Array.of(1, 0) : null
      return test === null ? ownSet(condition, own!, places!) : null
    }),
  )
  return { dimensions, sets, unclear }
}

const conditionDimension = (input: string, test: string): Dimension => ({
  input,
  kind: 'condition',
  stretches: [
    { value: true, alone: true },
    { value: false, alone: true },
  ],
  other: -1,
  missing: -1,
  test,
})

function dimensionOf(input: string, { type, choices }: Tested, conditions: readonly Condition[]): Dimension {
  const named = new Map<string, Value>()
  let asksMissing = false
  for (const { with: value } of conditions.flatMap((each) => [...comparisonsIn(each)]))
    if (value === null) asksMissing = true
    else named.set(toText(value), value)
  const missing = (count: number) => (asksMissing ? count : -1)
  const gone: readonly Stretch[] = asksMissing ? [{ value: null, alone: true }] : []
  const alone = (value: Value): Stretch => ({ value, alone: true })
  if (type === 'boolean')
    return {
      input,
      kind: 'yes/no',
      stretches: [alone(true), alone(false), ...gone],
      other: -1,
      missing: missing(2),
      test: null,
    }
  if (type === 'string') {
    const texts = choices ?? [...named.keys()]
    const stretches = texts.map(alone)
    if (!choices) stretches.push({ value: otherText(texts), alone: false })
    return {
      input,
      kind: 'texts',
      stretches: [...stretches, ...gone],
      other: choices ? -1 : texts.length,
      missing: missing(stretches.length),
      test: null,
    }
  }
  const stretches = between([...named.values()].filter(isOrdered).sort((a, b) => order(a, b)!))
  return {
    input,
    kind: 'ordered',
    stretches: [...stretches, ...gone],
    other: -1,
    missing: missing(stretches.length),
    test: null,
  }
}

/** A text that is none of those. */
function otherText(texts: readonly string[]): string {
  for (let word = 'something else'; ; word += ' still') if (!texts.includes(word)) return word
}

/** The values named and what lies between them, in order. Between two days that follow each other lies nothing. */
function between(values: readonly Value[]): Stretch[] {
  const [first] = values
  if (first === undefined) return []
  const stretches: Stretch[] = [{ value: below(first), alone: false }]
  values.forEach((value, i) => {
    stretches.push({ value, alone: true })
    const next = values[i + 1]
    const middle = next === undefined ? above(value) : middleOf(value, next)
    if (middle !== null) stretches.push({ value: middle, alone: false })
  })
  return stretches
}

const below = (value: Value): Value =>
  value instanceof Decimal
    ? value.greaterThan(1)
      ? value.div(2).toSignificantDigits(2, Decimal.ROUND_DOWN)
      : value.minus(1)
    : (value as Temporal.PlainDate).subtract({ days: 1 })
const above = (value: Value): Value =>
  value instanceof Decimal
    ? value.plus(value.abs().greaterThan(10) ? roundStep(value.abs()) : 1)
    : (value as Temporal.PlainDate).add({ days: 1 })

const roundStep = (value: Decimal): Decimal => number(10).pow(value.log(10).floor())

/** A value between two, as short a number as there is; null where there is none. */
function middleOf(low: Value, high: Value): Value {
  if (low instanceof Decimal && high instanceof Decimal) {
    const middle = low.plus(high).div(2)
    for (let digits = 1; digits < 30; digits++) {
      const short = middle.toSignificantDigits(digits)
      if (short.greaterThan(low) && short.lessThan(high)) return short
    }
    return middle
  }
  const day = (low as Temporal.PlainDate).add({ days: 1 })
  return Temporal.PlainDate.compare(day, high as Temporal.PlainDate) < 0 ? day : null
}

/** What a cell holds for; a missing value only where it asks for one. */
function ownSet(condition: Condition, dimension: Dimension, places: ReadonlyMap<string, number>): Stretches {
  const set = setOf(condition, dimension, places)
  if (dimension.missing >= 0 && ![...comparisonsIn(condition)].some(({ with: value }) => value === null))
    set[dimension.missing] = 0
  return set
}

function setOf(condition: Condition, dimension: Dimension, places: ReadonlyMap<string, number>): Stretches {
  const size = dimension.stretches.length
  if ('constant' in condition) return new Uint8Array(size).fill(condition.constant ? 1 : 0)
  if ('not' in condition) return setOf(condition.not, dimension, places).map((bit) => 1 - bit)
  if ('is' in condition) return setOfComparison(condition.is, dimension, places)
  const parts = ('all' in condition ? condition.all : condition.any).map((part) =>
    setOf(part, dimension, places),
  )
  const all = 'all' in condition
  return new Uint8Array(size).map((_, i) => (parts[all ? 'every' : 'some']((part) => part[i] === 1) ? 1 : 0))
}

function setOfComparison(
  { operator, with: value }: Comparison,
  { stretches, kind, missing }: Dimension,
  places: ReadonlyMap<string, number>,
): Stretches {
  const set = new Uint8Array(stretches.length)
  const at = value === null ? missing : (places.get(toText(value)) ?? -1)
  if (kind !== 'ordered' || value === null || operator === '=' || operator === '!=') {
    if (at >= 0) set[at] = 1
    return operator === '!=' ? set.map((bit) => 1 - bit) : set
  }
  const end = missing < 0 ? stretches.length : missing
  if (operator === '<' || operator === '<=') set.fill(1, 0, at + (operator === '<=' ? 1 : 0))
  else set.fill(1, at + (operator === '>' ? 1 : 0), end)
  return set
}

/** A set as the tests of a cell; `-` where it is all there is, null where a cell cannot say it. */
export function cellOf(dimension: Dimension, set: Stretches): string | null {
  const { kind, stretches, other, missing, test } = dimension
  if (set.every((bit) => bit === 1)) return '-'
  if (kind === 'condition') return set[0] ? test : `not(${test!})`
  const tests = missing >= 0 && set[missing] ? ['null'] : []
  if (kind === 'ordered') return [...runsOf(dimension, set), ...tests].join(', ') || null
  const named = (wanted: number) =>
    stretches.flatMap(({ value, alone }, i) =>
      alone && i !== missing && set[i] === wanted ? [literal(value)] : [],
    )
  if (other >= 0 && set[other]) {
    const without = named(0).join(', ')
    if (tests.length) return `? = null or not(? in (${without}))`
    return without ? `not(${without})` : 'not(null)'
  }
  return [...named(1), ...tests].join(', ') || null
}

/** Stretches side by side as one span each. */
function* runsOf({ stretches, missing }: Dimension, set: Stretches): Generator<string> {
  const end = missing < 0 ? stretches.length : missing
  for (let i = 0; i < end; i++) {
    if (!set[i]) continue
    const from = i
    while (i + 1 < end && set[i + 1]) i++
    const [low, high] = [edge(stretches, from, -1), edge(stretches, i, 1)]
    if (from === i && stretches[from]!.alone) yield literal(stretches[from]!.value)
    else if (low && high)
      yield `${low.included ? '[' : '('}${literal(low.value)}..${literal(high.value)}${high.included ? ']' : ')'}`
    else if (low) yield `${low.included ? '>=' : '>'} ${literal(low.value)}`
    else if (high) yield `${high.included ? '<=' : '<'} ${literal(high.value)}`
    // All there is but the missing value.
    else yield 'not(null)'
  }
}

/** Where a run of stretches ends: the value at its end, or the one beside it, left out. */
function edge(
  stretches: readonly Stretch[],
  at: number,
  step: 1 | -1,
): { readonly value: Value; readonly included: boolean } | null {
  const own = stretches[at]!
  if (own.alone) return { value: own.value, included: true }
  const beside = stretches[at + step]
  return beside?.alone && beside.value !== null ? { value: beside.value, included: false } : null
}

/** A value as FEEL writes it. */
export function literal(value: Value): string {
  if (typeof value === 'string') return JSON.stringify(value)
  if (value instanceof Temporal.PlainDate) return `date("${value.toString()}")`
  return toText(value)
}
