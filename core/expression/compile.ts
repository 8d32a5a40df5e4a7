import { Decimal } from 'decimal.js'
import { evaluation, LONGEST_TEXT, spend, spendText } from './values/budget.ts'
import { type BuiltIn, builtIns } from './functions.ts'
import { readTemporal } from './functions/dates.ts'
import { and, calculate, compare, equal, or, within } from './values/operators.ts'
import { type Parsed, parseExpression, parseUnaryTests, TESTED } from './parse.ts'
import { conforms } from './types.ts'
import { type Context, isContext, isList, Lambda, Range, typeOf, type Value } from './values/value.ts'
import { type Argument, children, type ExpressionProblem, type Syntax, type Test } from './syntax.ts'
import { iterate, turnSteps } from './iterate.ts'
import { noNames, type Scope, type Step } from './step.ts'
import { constant, finite, member, negated } from './apply.ts'

/** A compiled expression. Compile once, evaluate many: evaluating parses nothing. */
export interface Expression {
  readonly text: string
  readonly syntax: Syntax
  /** Full names of the fields it reads, such as `buyer.name`, in order of appearance. */
  readonly reads: readonly string[]
  /** Names resolve in `record`, where dotted groups are nested contexts. An unknown name is null. */
  evaluate(record: Context): Value
}

/** An expression that can be evaluated, or what is wrong with its text. */
export type Compiled =
  | { readonly ok: true; readonly expression: Expression }
  | { readonly ok: false; readonly problem: ExpressionProblem }

/** Compiled lately: a template is prepared and checked with every key typed, and most of it stays as it was. */
const KEPT = 2000

/** The same text gives the same result, so results are kept for a while. */
function keptLately<T>(make: (text: string) => T): (text: string) => T {
  const lately = new Map<string, T>()
  return (text) => {
    const known = lately.get(text)
    if (known !== undefined) return known
    const made = make(text)
    lately.set(text, made)
    if (lately.size > KEPT) lately.delete(lately.keys().next().value!)
    return made
  }
}

/** Compiles an expression. */
export const compileExpression: (text: string) => Compiled = keptLately(compileAnew)

/** The tests of a decision table's cell, compiled. */
export interface UnaryTests {
  readonly text: string
  /** As a condition on the name `?`. */
  readonly syntax: Syntax
  /** Names it reads besides the value it tests. */
  readonly reads: readonly string[]
  /** Whether the value passes; null where that cannot be told. */
  evaluate(value: Value, record: Context): Value
}

/** The same of a cell’s tests. */
export type CompiledTests =
  | { readonly ok: true; readonly tests: UnaryTests }
  | { readonly ok: false; readonly problem: ExpressionProblem }

/** Compiles the tests of a cell (DMN 1.3, 8.3.3). */
export const compileUnaryTests: (text: string) => CompiledTests = keptLately(compileTests)

function compileTests(text: string): CompiledTests {
  const parsed = sound(parseUnaryTests(text))
  if (!parsed.ok) return parsed
  const { syntax } = parsed
  const step = compile(syntax)
  const tests: UnaryTests = {
    text,
    syntax,
    reads: [...new Set(readPaths(syntax))].filter((name) => name !== TESTED),
    evaluate: (value, record) =>
      evaluation(
        () => step({ names: new Map([[TESTED, value]]), outer: { names: record, outer: null } }),
        null,
      ),
  }
  return { ok: true, tests }
}

/** Parsed, and all functions it calls are there and called as they are to be. */
function sound(parsed: Parsed): Parsed {
  const problem = parsed.ok ? unknownCall(parsed.syntax) : null
  return problem ? { ok: false, problem } : parsed
}

function compileAnew(text: string): Compiled {
  const parsed = sound(parseExpression(text))
  if (!parsed.ok) return parsed
  const step = compile(parsed.syntax)
  const expression: Expression = {
    text,
    syntax: parsed.syntax,
    reads: [...new Set(readPaths(parsed.syntax))],
    evaluate: (record) => withinBounds(step, record),
  }
  return { ok: true, expression }
}

/** Evaluates; null where loops inside loops would take for ever. */
const withinBounds = (step: Step, record: Context): Value =>
  evaluation(() => step({ names: record, outer: null }), null)

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
  if (node.kind === 'context')
    return node.entries.flatMap(({ value }, i) =>
      readPaths(value, new Set([...local, ...node.entries.slice(0, i).map(({ key }) => key)])),
    )
  const inside =
    node.kind === 'for' || node.kind === 'some' || node.kind === 'every'
      ? new Set([...local, ...node.over.map((over) => over.name), 'partial'])
      : node.kind === 'filter'
        ? new Set([...local, 'item'])
        : node.kind === 'function'
          ? new Set([...local, ...node.parameters])
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
    const odd = node.args.find((arg) => arg.name !== null && placeOf(known, arg.name) < 0)
    if (odd) return { message: `${node.name} has no parameter “${odd.name}”.`, from, to }
    const twice = node.args.find((arg, i) =>
      node.args.slice(0, i).some((other) => arg.name !== null && other.name === arg.name),
    )
    if (twice) return { message: `${node.name} is given “${twice.name}” twice.`, from, to }
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
      return membership(
        compile(node.value),
        node.tests.map((test) => compileTest(test, isTested(node.value))),
      )
    case 'if': {
      const [test, then, otherwise] = [compile(node.test), compile(node.then), compile(node.otherwise)]
      return (scope) => (test(scope) === true ? then(scope) : otherwise(scope))
    }
    case 'filter':
      return filter(compile(node.of), compile(node.by), turnSteps(node.by))
    case 'call':
      return call(node.name, node.args)
    case 'function': {
      const body = compile(node.body)
      return (scope) =>
        new Lambda(node.parameters, (values) =>
          body({ names: new Map(node.parameters.map((name, i) => [name, values[i] ?? null])), outer: scope }),
        )
    }
    case 'list': {
      const items = node.items.map(compile)
      return (scope) => {
        spend(items.length)
        return items.map((item) => item(scope))
      }
    }
    case 'context': {
      const entries = node.entries.map(({ key, value }) => [key, compile(value)] as const)
      // A key that stands twice makes it no context (DMN 10.3.2.6: keys are distinct).
      if (new Set(entries.map(([key]) => key)).size < entries.length) return () => null
      return (scope) => {
        spend(entries.length)
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
      return iterate(node.kind, node.over, node.body, compile)
    case 'instance of': {
      const value = compile(node.value)
      return (scope) => conforms(value(scope), node.type)
    }
  }
}

function binary(node: { left: Syntax; right: Syntax }, apply: (left: Value, right: Value) => Value): Step {
  const [left, right] = [compile(node.left), compile(node.right)]
  return (scope) => apply(left(scope), right(scope))
}

/** `inCell`: it is a test of a cell of a table; elsewhere being in what is missing is unknown (`1 in null`). */
function compileTest(test: Test, inCell: boolean): (scope: Scope, value: Value) => Value {
  if ('operator' in test) {
    const other = compile(test.with)
    return (scope, value) => compare(test.operator, value, other(scope))
  }
  const expression = compile(test.expression)
  return (scope, value) => {
    const found = expression(scope)
    if (found === null && !inCell) return null
    if (found instanceof Range) return within(value, found)
    // A list is looked through, for a list among its items too, or is the value itself (DMN 10.3.2.8, table 54).
    if (isList(found)) {
      spend(found.length)
      return (
        found.some((item) => (item instanceof Range ? within(value, item) : equal(value, item)) === true) ||
        (isList(value) && equal(value, found) === true)
      )
    }
    return equal(value, found)
  }
}

/** In a cell of a table the value tested has no name of its own, and `null` there is a test like any other. */
const isTested = (value: Syntax): boolean => value.kind === 'name' && value.name === TESTED

function membership(value: Step, tests: readonly ((scope: Scope, value: Value) => Value)[]): Step {
  return (scope) => {
    const found = value(scope)
    return tests.map((test) => test(scope, found)).reduce(or, false)
  }
}

/** `list[number]` picks by position, from 1 or from the end; `list[condition]` keeps what it holds for. */
function filter(of: Step, by: Step, turn: number): Step {
  return (scope) => {
    const found = of(scope)
    const list = isList(found) ? found : found === null ? [] : [found]
    const inside = (item: Value): Scope => ({ names: isContext(item) ? item : noNames, outer: scope, item })
    const position = by(inside(list[0] ?? null))
    if (position instanceof Decimal) return itemAt(list, position)
    spend(list.length * turn)
    return list.filter((item) => by(inside(item)) === true)
  }
}

/** Positions count from 1, or from the end with a minus; none but whole numbers, and not 0 (DMN 10.3.2.5). */
const itemAt = (list: readonly Value[], position: Decimal): Value =>
  position.isInteger() && !position.isZero()
    ? (list.at(position.isPositive() ? position.toNumber() - 1 : position.toNumber()) ?? null)
    : null

/** Where a parameter stands by its name, which may be another one that the specification gives it; -1 where there is none. */
export const placeOf = (known: BuiltIn, name: string): number => {
  const place = known.parameters.indexOf(name)
  return place >= 0 ? place : (known.alsoNamed?.[name] ?? -1)
}

function call(name: string, args: readonly Argument[]): Step {
  const steps = args.map((argument) => compile(argument.value))
  const step = callStep(name, args, steps)
  // Functions depend on their arguments alone: of what is written in the expression itself the result is known now.
  if (!args.every((argument) => isLiteral(argument.value))) return step
  if (builtIns.get(name)?.reads) return step
  const result = evaluation(() => step({ names: noNames, outer: null }), null)
  return () => result
}

const isLiteral = ({ kind }: Syntax): boolean =>
  kind === 'number' || kind === 'string' || kind === 'boolean' || kind === 'null'

function callStep(name: string, args: readonly Argument[], steps: readonly Step[]): Step {
  // `@"…"` is whichever of them its text is (DMN 10.3.2.3.4).
  if (name === '@') return (scope) => readTemporal(steps[0]!(scope))
  const builtIn = builtIns.get(name)!
  // What the specification calls a list or several values: a list under its name is that list.
  const positions = args.map((argument, i) => (argument.name === null ? i : placeOf(builtIn, argument.name)))
  const { reads } = builtIn
  if (reads) return (scope) => lookUp(scope, reads)
  return (scope) => {
    const values: Value[] = []
    steps.forEach((step, i) => (values[positions[i]!] = fitted(step(scope), builtIn.types?.[positions[i]!])))
    values.forEach(charge)
    return counted(finite(builtIn.call(values)))
  }
}

/**
 * A value where a function wants another shape: a single one as a list of one where a list is due, and a list of one as
 * its item where a single one is due (DMN 10.3.2.9.4).
 */
function fitted(value: Value, wanted: string | undefined): Value {
  if (wanted === undefined || wanted === 'any' || value === null) return value
  if (wanted === 'list') return isList(value) ? value : [value]
  return isList(value) && value.length === 1 && typeOf(value[0]!) === wanted ? value[0]! : value
}

/** What a function is given is looked through, at the most once. */
function charge(value: Value): void {
  if (typeof value === 'string') spendText(value.length)
  else if (isList(value)) spend(value.length >> 3)
}

/** What a function has made, counted; a text longer than any there may be is null. */
function counted(value: Value): Value {
  if (typeof value === 'string') {
    if (value.length > LONGEST_TEXT) return null
    spendText(value.length)
  } else if (isList(value)) spend(value.length)
  return value
}
