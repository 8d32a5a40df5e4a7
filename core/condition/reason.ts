import { evaluateSyntax, pathName } from '../expression/compile.ts'
import { type Comparator, compare, order } from '../expression/values/operators.ts'
import { children, type Syntax, type Test } from '../expression/syntax.ts'
import { isList, number, Range, toText, type Value } from '../expression/values/value.ts'

// Reasoning over conditions: can they hold together? Values are taken to be known (two-valued logic). What the reasoner
// does not understand counts as a free yes or no, so that "can never hold" is only said where it is certain.

/** Values a field can take, as far as they are limited: the choices of a choice. */
export type Domains = ReadonlyMap<string, readonly string[]>

/** A statement about one variable: a field, the difference of two fields, or a part that is not understood. */
type Atom =
  | { readonly variable: string; readonly operator: Comparator; readonly value: Value }
  | { readonly variable: string; readonly truth: boolean }

/** A condition in terms the reasoner works with, negations pushed down to the atoms. */
type Formula =
  | { readonly all: readonly Formula[] }
  | { readonly any: readonly Formula[] }
  | { readonly atom: Atom }
  | { readonly constant: boolean }

const opposite: Record<Comparator, Comparator> = {
  '=': '!=',
  '!=': '=',
  '<': '>=',
  '>=': '<',
  '>': '<=',
  '<=': '>',
}
const mirrored: Record<Comparator, Comparator> = {
  '=': '=',
  '!=': '!=',
  '<': '>',
  '>': '<',
  '<=': '>=',
  '>=': '<=',
}

/** The value of a part that reads no field; undefined where it reads one. */
function constantOf(node: Syntax): Value | undefined {
  const reads = (part: Syntax): boolean => part.kind === 'name' || children(part).some(reads)
  return reads(node) ? undefined : evaluateSyntax(node, new Map())
}

const textKey = (node: Syntax): string =>
  JSON.stringify(node, (key, value: unknown) => (key === 'from' || key === 'to' ? undefined : value))

function comparison(operator: Comparator, left: Syntax, right: Syntax, whole: Syntax): Formula {
  const [name, other] = [pathName(left), pathName(right)]
  const [known, known2] = [constantOf(right), constantOf(left)]
  if (known === null || known2 === null) {
    const path = name ?? other
    if (path !== null && (operator === '=' || operator === '!='))
      return { atom: { variable: `${path} is empty`, truth: operator === '=' } }
  }
  const simple = (variable: string, op: Comparator, value: Value): Formula =>
    typeof value === 'boolean'
      ? { atom: { variable, truth: (op === '=') === value } }
      : { atom: { variable, operator: op, value } }
  if (name !== null && known !== undefined && known !== null) return simple(name, operator, known)
  if (other !== null && known2 !== undefined && known2 !== null)
    return simple(other, mirrored[operator], known2)
  if (name !== null && other !== null) {
    // Two fields: what counts is the sign of their difference.
    const swap = name > other
    return {
      atom: {
        variable: swap ? `${other} less ${name}` : `${name} less ${other}`,
        operator: swap ? mirrored[operator] : operator,
        value: number(0),
      },
    }
  }
  const key = textKey(whole)
  return { atom: { variable: key, truth: true } }
}

function membership(value: Syntax, tests: readonly Test[], whole: Syntax): Formula {
  return {
    any: tests.map((test): Formula => {
      if ('operator' in test) return comparison(test.operator, value, test.with, whole)
      const { expression } = test
      if (expression.kind === 'range') return within(value, expression, whole)
      const known = constantOf(expression)
      if (known instanceof Range) return { atom: { variable: textKey(whole), truth: true } }
      const name = pathName(value)
      if (isList(known ?? null) && name !== null)
        return {
          any: (known as readonly Value[]).map((item) => ({
            atom: { variable: name, operator: '=', value: item },
          })),
        }
      return comparison('=', value, expression, whole)
    }),
  }
}

const within = (value: Syntax, range: Syntax & { kind: 'range' }, whole: Syntax): Formula => ({
  all: [
    comparison(range.lowIncluded ? '>=' : '>', value, range.low, whole),
    comparison(range.highIncluded ? '<=' : '<', value, range.high, whole),
  ],
})

function translate(node: Syntax): Formula {
  switch (node.kind) {
    case 'boolean':
      return { constant: node.value }
    case 'and':
      return { all: [translate(node.left), translate(node.right)] }
    case 'or':
      return { any: [translate(node.left), translate(node.right)] }
    case 'comparison':
      return comparison(node.operator, node.left, node.right, node)
    case 'in':
      return membership(node.value, node.tests, node)
    case 'call': {
      const [first, second] = node.args.map(({ value }) => value)
      if (node.name === 'not' && first) return negated(translate(first))
      if (node.name === 'list contains' && first && second)
        return membership(second, [{ expression: first }], node)
      if (node.name === 'is defined' && first) {
        const name = pathName(first)
        if (name !== null) return { atom: { variable: `${name} is empty`, truth: false } }
      }
      break
    }
    case 'name':
    case 'path': {
      const name = pathName(node)
      if (name !== null) return { atom: { variable: name, truth: true } }
    }
  }
  const known = constantOf(node)
  if (typeof known === 'boolean') return { constant: known }
  return { atom: { variable: textKey(node), truth: true } }
}

function negated(formula: Formula): Formula {
  if ('constant' in formula) return { constant: !formula.constant }
  if ('all' in formula) return { any: formula.all.map(negated) }
  if ('any' in formula) return { all: formula.any.map(negated) }
  const { atom } = formula
  return 'truth' in atom
    ? { atom: { ...atom, truth: !atom.truth } }
    : { atom: { ...atom, operator: opposite[atom.operator] } }
}

/** What is known of one variable on the way down a branch. */
interface Knowledge {
  low: { value: Value; included: boolean } | null
  high: { value: Value; included: boolean } | null
  equals: Value | undefined
  not: Value[]
  truth: boolean | undefined
}

type Branch = ReadonlyMap<string, Knowledge>

/** Branches beyond this many and the reasoner gives up: it then knows nothing. */
const MOST_BRANCHES = 4000

class GivenUp extends Error {}

/** Adds an atom to what is known; null where the two contradict each other. */
function add(branch: Branch, atom: Atom, domains: Domains): Branch | null {
  const before = branch.get(atom.variable)
  const known: Knowledge = before
    ? { ...before, not: [...before.not] }
    : { low: null, high: null, equals: undefined, not: [], truth: undefined }
  if ('truth' in atom) {
    if (known.truth !== undefined && known.truth !== atom.truth) return null
    known.truth = atom.truth
  } else if (!narrow(known, atom.operator, atom.value)) return null
  if (!possible(known, domains.get(atom.variable))) return null
  return new Map([...branch, [atom.variable, known]])
}

function narrow(known: Knowledge, operator: Comparator, value: Value): boolean {
  const tighter = (side: 'low' | 'high', included: boolean) => {
    const now = known[side]
    const compared = now && order(value, now.value)
    const better = side === 'low' ? (compared ?? 1) > 0 : (compared ?? -1) < 0
    if (!now || better || (compared === 0 && !included)) known[side] = { value, included }
  }
  switch (operator) {
    case '=':
      if (known.equals !== undefined && compare('=', known.equals, value) !== true) return false
      known.equals = value
      return true
    case '!=':
      known.not.push(value)
      return true
    case '<':
    case '<=':
      tighter('high', operator === '<=')
      return true
    default:
      tighter('low', operator === '>=')
      return true
  }
}

const inside = (value: Value, { low, high, not }: Knowledge): boolean =>
  (!low || compare(low.included ? '>=' : '>', value, low.value) !== false) &&
  (!high || compare(high.included ? '<=' : '<', value, high.value) !== false) &&
  !not.some((other) => compare('=', value, other) === true)

function possible(known: Knowledge, domain: readonly string[] | undefined): boolean {
  const { low, high, equals } = known
  if (equals !== undefined)
    return inside(equals, known) && (!domain || typeof equals !== 'string' || domain.includes(equals))
  if (domain) return domain.some((value) => inside(value, known))
  if (!low || !high) return true
  const between = order(low.value, high.value)
  if (between === null) return true
  if (between > 0) return false
  return between < 0 || (low.included && high.included && inside(low.value, known))
}

/** All ways in which a formula can hold, given what is known. */
function branches(formula: Formula, known: readonly Branch[], domains: Domains): readonly Branch[] {
  if (known.length > MOST_BRANCHES) throw new GivenUp()
  if ('constant' in formula) return formula.constant ? known : []
  if ('atom' in formula)
    return known.flatMap((branch) => {
      const more = add(branch, formula.atom, domains)
      return more ? [more] : []
    })
  if ('all' in formula)
    return formula.all.reduce<readonly Branch[]>((so, part) => branches(part, so, domains), known)
  const found = formula.any.flatMap((part) => branches(part, known, domains))
  if (found.length > MOST_BRANCHES) throw new GivenUp()
  return found
}

/** A case in which conditions are as asked: each field named with a value or a span of values. */
export type Example = readonly { readonly name: string; readonly says: string }[]

/** Whether it can be, with values under which it is. */
export type Verdict = { readonly possible: false } | { readonly possible: true; readonly example: Example }

/**
 * Whether all of `holding` can be true while all of `failing` are false. Certain where it says no; where it says yes
 * there may be parts it does not understand.
 */
export function together(holding: readonly Syntax[], failing: readonly Syntax[], domains: Domains): Verdict {
  const formula: Formula = {
    all: [...holding.map(translate), ...failing.map((node) => negated(translate(node)))],
  }
  try {
    const [found] = branches(formula, [new Map()], domains)
    return found ? { possible: true, example: exampleOf(found, domains) } : { possible: false }
  } catch (error) {
    if (error instanceof GivenUp) return { possible: true, example: [] }
    throw error
  }
}

function exampleOf(branch: Branch, domains: Domains): Example {
  return [...branch].flatMap(([name, known]) => {
    if (name.startsWith('{')) return []
    const says = describe(known, domains.get(name))
    return says ? [{ name, says }] : []
  })
}

function describe(known: Knowledge, domain: readonly string[] | undefined): string | null {
  if (known.truth !== undefined) return known.truth ? 'yes' : 'no'
  if (known.equals !== undefined) return toText(known.equals)
  if (domain) return domain.find((value) => inside(value, known)) ?? null
  const { low, high } = known
  const parts = [
    low && `${low.included ? 'at least' : 'over'} ${toText(low.value)}`,
    high && `${high.included ? 'at most' : 'under'} ${toText(high.value)}`,
    ...known.not.map((value) => `not ${toText(value)}`),
  ].filter((part) => part !== null)
  return parts.length ? parts.join(', ') : null
}
