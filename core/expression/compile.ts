import { Decimal } from 'decimal.js'
import { builtIns } from './functions.ts'
import { calculate, and, compare, equal, or, within } from './operators.ts'
import { parseExpression } from './parse.ts'
import { isContext, isList, number, Number34, Range, typeOf } from './value.ts'
import type { Context, Value } from './value.ts'
import { children } from './syntax.ts'
import type { Argument, ExpressionProblem, Iteration, Syntax, Test } from './syntax.ts'

/** A compiled expression. Compile once, evaluate many: evaluating parses nothing. */
export interface Expression {
  readonly text: string
  readonly syntax: Syntax
  /** Full names of the fields it reads, such as `grower.name`, in order of appearance. */
  readonly reads: readonly string[]
  /** Names resolve in `record`, where dotted groups are nested contexts. An unknown name is null. */
  evaluate(record: Context): Value
}

export type Compiled =
  | { readonly ok: true; readonly expression: Expression }
  | { readonly ok: false; readonly problem: ExpressionProblem }

type Scope = { readonly names: Context; readonly outer: Scope | null; readonly item?: Value }
type Step = (scope: Scope) => Value

/** Expressions compiled lately: a template is prepared and checked with every key typed, and most of it stays as it was. */
const lately = new Map<string, Compiled>()
const KEPT = 2000

/** Compiles an expression. The same text gives the same result, so results are kept for a while. */
export function compileExpression(text: string): Compiled {
  const known = lately.get(text)
  if (known) return known
  const made = compileAnew(text)
  lately.set(text, made)
  if (lately.size > KEPT) lately.delete(lately.keys().next().value!)
  return made
}

function compileAnew(text: string): Compiled {
  const parsed = parseExpression(text)
  if (!parsed.ok) return parsed
  const problem = unknownCall(parsed.syntax)
  if (problem) return { ok: false, problem }
  const step = compile(parsed.syntax)
  const expression: Expression = {
    text,
    syntax: parsed.syntax,
    reads: [...new Set(readPaths(parsed.syntax))],
    evaluate: (record) => withinBounds(step, record),
  }
  return { ok: true, expression }
}

/** Steps of loops one evaluation may take; expressions come from people, and nobody else may have to wait for one. */
const MOST_STEPS = 250_000
let steps = 0
class TooLong extends Error {}

function count(more: number): void {
  steps += more
  if (steps > MOST_STEPS) throw new TooLong()
}

/** Evaluates; null where loops inside loops would take for ever. */
function withinBounds(step: Step, record: Context): Value {
  steps = 0
  try {
    return step({ names: record, outer: null })
  } catch (error) {
    if (error instanceof TooLong) return null
    throw error
  }
}

/** Evaluates a part of an expression that has been parsed already; the whole has to have compiled. */
export const evaluateSyntax = (syntax: Syntax, record: Context): Value =>
  withinBounds(compile(syntax), record)

/** A path of names as written, `a.b.c`; null where the path starts at something else than a name. */
export function pathName(node: Syntax): string | null {
  if (node.kind === 'name') return node.name
  if (node.kind !== 'path') return null
  const start = pathName(node.of)
  return start === null ? null : `${start}.${node.name}`
}

function readPaths(node: Syntax, local: ReadonlySet<string> = new Set()): string[] {
  const whole = pathName(node)
  if (whole !== null) return local.has(whole.split('.')[0]!) ? [] : [whole]
  const inside =
    node.kind === 'for' || node.kind === 'some' || node.kind === 'every'
      ? new Set([...local, ...node.over.map((over) => over.name), 'partial'])
      : node.kind === 'filter'
        ? new Set([...local, 'item'])
        : local
  return children(node).flatMap((child) => readPaths(child, inside))
}

function unknownCall(node: Syntax): ExpressionProblem | null {
  if (node.kind === 'call' && node.name !== '@') {
    const known = builtIns.get(node.name)
    const { from, to } = node
    if (!known) return { message: `There is no function “${node.name}”.`, from, to }
    const least = known.parameters.length - (known.optional ?? 0)
    if (node.args.length < least || (!known.variadic && node.args.length > known.parameters.length))
      return { message: `${node.name} takes ${known.parameters.join(', ')}.`, from, to }
    const odd = node.args.find((arg) => arg.name !== null && !known.parameters.includes(arg.name))
    if (odd) return { message: `${node.name} has no parameter “${odd.name}”.`, from, to }
  }
  for (const child of children(node)) {
    const problem = unknownCall(child)
    if (problem) return problem
  }
  return null
}

function lookUp(scope: Scope, name: string): Value {
  for (let at: Scope | null = scope; at; at = at.outer) {
    const found = at.names.get(name)
    if (found !== undefined) return found
    if (at.item !== undefined && name === 'item') return at.item
  }
  return null
}

function compile(node: Syntax): Step {
  switch (node.kind) {
    case 'number':
    case 'string':
    case 'boolean':
    case 'null':
      return constant(node)
    case 'name':
      return (scope) => lookUp(scope, node.name)
    case 'path': {
      const of = compile(node.of)
      return (scope) => member(of(scope), node.name)
    }
    case 'negative': {
      const of = compile(node.of)
      return (scope) => negated(of(scope))
    }
    case 'arithmetic':
      return binary(node, (left, right) => calculate(node.operator, left, right))
    case 'comparison':
      return binary(node, (left, right) => compare(node.operator, left, right))
    case 'and':
      return binary(node, and)
    case 'or':
      return binary(node, or)
    case 'in':
      return membership(compile(node.value), node.tests.map(compileTest))
    case 'if': {
      const [test, then, otherwise] = [compile(node.test), compile(node.then), compile(node.otherwise)]
      return (scope) => (test(scope) === true ? then(scope) : otherwise(scope))
    }
    case 'filter':
      return filter(compile(node.of), compile(node.by))
    case 'call':
      return call(node.name, node.args)
    case 'list': {
      const items = node.items.map(compile)
      return (scope) => items.map((item) => item(scope))
    }
    case 'context': {
      const entries = node.entries.map(({ key, value }) => [key, compile(value)] as const)
      return (scope) => {
        const made = new Map<string, Value>()
        for (const [key, value] of entries) made.set(key, value({ names: made, outer: scope }))
        return made
      }
    }
    case 'range': {
      const [low, high] = [compile(node.low), compile(node.high)]
      return (scope) => new Range(low(scope), high(scope), node.lowIncluded, node.highIncluded)
    }
    case 'for':
    case 'some':
    case 'every':
      return iterate(node.kind, node.over, node.body)
    case 'instance of': {
      const value = compile(node.value)
      return (scope) => {
        const found = value(scope)
        return node.type === 'Any' ? found !== null : typeOf(found) === node.type
      }
    }
  }
}

function constant(node: Syntax & { kind: 'number' | 'string' | 'boolean' | 'null' }): Step {
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
const finite = (value: Value): Value => (value instanceof Decimal && !value.isFinite() ? null : value)

function binary(node: { left: Syntax; right: Syntax }, apply: (left: Value, right: Value) => Value): Step {
  const [left, right] = [compile(node.left), compile(node.right)]
  return (scope) => apply(left(scope), right(scope))
}

const negated = (value: Value): Value =>
  value instanceof Decimal
    ? value.neg()
    : typeOf(value).endsWith('duration')
      ? calculate('*', value, number(-1))
      : null

/** A member of a context; of a list of contexts, the list of their members (DMN 10.3.1.1). */
function member(of: Value, name: string): Value {
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

function compileTest(test: Test): (scope: Scope, value: Value) => Value {
  if ('operator' in test) {
    const other = compile(test.with)
    return (scope, value) => compare(test.operator, value, other(scope))
  }
  const expression = compile(test.expression)
  return (scope, value) => {
    const found = expression(scope)
    if (found instanceof Range) return within(value, found)
    if (isList(found) && !isList(value))
      return found.some((item) => (item instanceof Range ? within(value, item) : equal(value, item)) === true)
    return equal(value, found)
  }
}

function membership(value: Step, tests: readonly ((scope: Scope, value: Value) => Value)[]): Step {
  return (scope) => {
    const found = value(scope)
    return tests.map((test) => test(scope, found)).reduce(or, false)
  }
}

/** `list[number]` picks by position, from 1 or from the end; `list[condition]` keeps what it holds for. */
function filter(of: Step, by: Step): Step {
  return (scope) => {
    const found = of(scope)
    const list = isList(found) ? found : found === null ? [] : [found]
    const inside = (item: Value): Scope => ({ names: isContext(item) ? item : noNames, outer: scope, item })
    const position = by(inside(list[0] ?? null))
    if (position instanceof Decimal)
      return list.at(position.isPositive() ? position.toNumber() - 1 : position.toNumber()) ?? null
    count(list.length)
    return list.filter((item) => by(inside(item)) === true)
  }
}

const noNames: Context = new Map()

function call(name: string, args: readonly Argument[]): Step {
  const steps = args.map((argument) => compile(argument.value))
  const step = callStep(name, args, steps)
  // Functions depend on their arguments alone: of what is written in the expression itself the result is known now.
  if (!args.every((argument) => isLiteral(argument.value))) return step
  const result = step({ names: noNames, outer: null })
  return () => result
}

const isLiteral = ({ kind }: Syntax): boolean =>
  kind === 'number' || kind === 'string' || kind === 'boolean' || kind === 'null'

function callStep(name: string, args: readonly Argument[], steps: readonly Step[]): Step {
  if (name === '@') return (scope) => atLiteral(steps[0]!(scope))
  const builtIn = builtIns.get(name)!
  const positions = args.map((argument, i) =>
    argument.name === null ? i : builtIn.parameters.indexOf(argument.name),
  )
  return (scope) => {
    const values: Value[] = []
    steps.forEach((step, i) => (values[positions[i]!] = step(scope)))
    return finite(builtIn.call(values))
  }
}

/** `@"…"`: date, time, date and time or duration, whichever the text is (DMN 10.3.2.3.4). */
const atLiteral = (text: Value): Value =>
  ['date', 'time', 'date and time', 'duration']
    .map((name) => builtIns.get(name)!.call([text]))
    .find((found) => found !== null) ?? null

/** Whether a loop's body looks at the results so far (DMN 10.3.2.14); to keep them for each step costs. */
const readsPartial = (node: Syntax): boolean =>
  (node.kind === 'name' && node.name === 'partial') || children(node).some(readsPartial)

function iterate(kind: 'for' | 'some' | 'every', over: readonly Iteration[], inner: Syntax): Step {
  const body = compile(inner)
  const names = readsPartial(inner)
    ? (results: readonly Value[]): Context => {
        count(results.length)
        return new Map([['partial', [...results]]])
      }
    : () => noNames
  const lists = over.map(({ name, list, to }) => ({ name, list: compile(list), to: to && compile(to) }))
  const visit = (scope: Scope, level: number, results: Value[]): void => {
    count(1)
    const source = lists[level]
    if (!source) {
      results.push(body({ names: names(results), outer: scope }))
      return
    }
    const found = source.list(scope)
    const items = source.to ? countUp(found, source.to(scope)) : isList(found) ? found : [found]
    for (const item of items)
      visit({ names: new Map([[source.name, item]]), outer: scope }, level + 1, results)
  }
  return (scope) => {
    const results: Value[] = []
    visit(scope, 0, results)
    if (kind === 'for') return results
    return kind === 'some' ? results.reduce(or, false) : results.reduce(and, true)
  }
}

const MOST_COUNTED = 100_000

function countUp(from: Value, to: Value): readonly Value[] {
  if (!(from instanceof Decimal) || !(to instanceof Decimal)) return []
  const length = Math.min(Math.floor(to.minus(from).abs().toNumber()) + 1, MOST_COUNTED)
  const direction = to.gte(from) ? 1 : -1
  return Array.from({ length }, (_, i) => from.plus(i * direction))
}
