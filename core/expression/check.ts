import { pathName, placeOf } from './compile.ts'
import { builtIns } from './functions.ts'
import { children, type ExpressionProblem, type Syntax } from './syntax.ts'
import type { TypeName } from './values/value.ts'

/** Types of the names an expression may read: full dotted names. `any` where nothing is known. */
export type NameTypes = ReadonlyMap<string, TypeName | 'any'>

/** The name under which the types have a field of each item of a list: its own name with the list before it is the list of all. */
export const ofEachItem = (list: string, name: string): string => `${list}[].${name}`

/**
 * Faults that no value can cure: a name the outline does not have, operands of kinds that never go together,
 * a condition that is no yes or no. Local names of `for`, `some`, `every` and filters are known.
 */
export function checkExpression(
  syntax: Syntax,
  names: NameTypes,
  wanted: TypeName | 'any' = 'any',
): readonly ExpressionProblem[] {
  const problems: ExpressionProblem[] = []
  const type = infer(syntax, names, new Map(), problems)
  if (problems.length === 0 && !fits(type, wanted))
    problems.push({
      message: `This gives a ${spoken(type)}; a ${spoken(wanted)} is needed.`,
      from: syntax.from,
      to: syntax.to,
    })
  return problems
}

/** The type an expression gives over these names; `any` where nothing is known. */
export const inferredType = (syntax: Syntax, names: NameTypes): TypeName | 'any' =>
  infer(syntax, names, new Map(), [])

type Inferred = TypeName | 'any'

/** Local names and, where it is known, the list of the outline whose items they stand for. `''` holds a filter's list. */
type Locals = ReadonlyMap<string, string | null>

/** A single value goes where a list is due, and a list of one where a single value is (DMN 10.3.2.9.4). */
const suits = (type: Inferred, wanted: Inferred) =>
  fits(type, wanted) || wanted === 'list' || (type === 'list' && wanted !== 'function')

const fits = (type: Inferred, wanted: Inferred) =>
  type === 'any' || wanted === 'any' || type === 'null' || type === wanted

const words: Partial<Record<Inferred, string>> = { boolean: 'yes or no', string: 'text' }
const spoken = (type: Inferred) => words[type] ?? type

const durations: readonly Inferred[] = ['days and time duration', 'years and months duration']
const dates: readonly Inferred[] = ['date', 'date and time', 'time']

/** Type of a sum, difference, product …; null where the operands never go together. */
function arithmeticType(operator: string, left: Inferred, right: Inferred): Inferred | null {
  if (left === 'any' || right === 'any' || left === 'null' || right === 'null') return 'any'
  if (left === 'number' && right === 'number') return 'number'
  if (operator === '+' && left === 'string' && right === 'string') return 'string'
  if ('+-'.includes(operator) && dates.includes(left) && durations.includes(right)) return left
  if (operator === '+' && durations.includes(left) && dates.includes(right)) return right
  if (
    operator === '-' &&
    dates.includes(left) &&
    dates.includes(right) &&
    (left === 'time') === (right === 'time')
  )
    return 'days and time duration'
  if (durations.includes(left) && left === right)
    return operator === '/' ? 'number' : '+-'.includes(operator) ? left : null
  if (durations.includes(left) && right === 'number' && '*/'.includes(operator)) return left
  if (operator === '*' && left === 'number' && durations.includes(right)) return right
  return null
}

function infer(node: Syntax, names: NameTypes, local: Locals, problems: ExpressionProblem[]): Inferred {
  const at = { from: node.from, to: node.to }
  const inner = (child: Syntax, more: readonly (readonly [string, string | null])[] = []) =>
    infer(child, names, more.length ? new Map([...local, ...more]) : local, problems)
  const path = pathName(node)
  if (path !== null) return nameType(path, names, local, at, problems)
  switch (node.kind) {
    case 'number':
    case 'string':
    case 'boolean':
    case 'null':
      return node.kind
    case 'negative':
      return inner(node.of)
    case 'arithmetic': {
      const [left, right] = [inner(node.left), inner(node.right)]
      const type = arithmeticType(node.operator, left, right)
      if (type === null)
        problems.push({ ...at, message: `${spoken(left)} ${node.operator} ${spoken(right)} has no meaning.` })
      return type ?? 'any'
    }
    case 'comparison': {
      const [left, right] = [inner(node.left), inner(node.right)]
      if (!fits(left, right) && right !== 'null')
        problems.push({ ...at, message: `A ${spoken(left)} is compared with a ${spoken(right)}.` })
      return 'boolean'
    }
    case 'and':
    case 'or': {
      for (const side of [node.left, node.right]) {
        const type = inner(side)
        if (!fits(type, 'boolean'))
          problems.push({
            from: side.from,
            to: side.to,
            message: `“${node.kind}” joins conditions; this is a ${spoken(type)}.`,
          })
      }
      return 'boolean'
    }
    case 'if': {
      const test = inner(node.test)
      if (!fits(test, 'boolean'))
        problems.push({
          from: node.test.from,
          to: node.test.to,
          message: `“if” needs a condition; this is a ${spoken(test)}.`,
        })
      const [then, otherwise] = [inner(node.then), inner(node.otherwise)]
      return then === 'null' ? otherwise : otherwise === 'null' || then === otherwise ? then : 'any'
    }
    case 'call': {
      const known = builtIns.get(node.name)
      node.args.forEach((argument, i) => {
        const type = inner(argument.value)
        const named = argument.name === null || !known ? i : placeOf(known, argument.name)
        const place = named < 0 ? i : named
        const wanted = known?.types?.[place] ?? 'any'
        if (!suits(type, wanted))
          problems.push({
            from: argument.value.from,
            to: argument.value.to,
            message: `${node.name} wants a ${spoken(wanted)} for “${known?.parameters[place] ?? ''}”; this is a ${spoken(type)}.`,
          })
      })
      return known?.result ?? 'any'
    }
    case 'for':
    case 'some':
    case 'every': {
      const over: [string, string | null][] = []
      for (const { name, list, to } of node.over) {
        inner(list, over)
        if (to) inner(to, over)
        over.push([name, listName(list, names)])
      }
      inner(node.body, [...over, ['partial', null]])
      return node.kind === 'for' ? 'list' : 'boolean'
    }
    case 'filter': {
      inner(node.of)
      const list = listName(node.of, names)
      // Of a list that is not the outline's, the members are not known: every name may be one.
      const type =
        list === null
          ? 'any'
          : inner(node.by, [
              ['', list],
              ['item', list],
            ])
      if (type === 'any' || list === null) return 'any'
      return type === 'number' ? 'any' : 'list'
    }
    case 'function':
      inner(
        node.body,
        node.parameters.map((name) => [name, null]),
      )
      return 'function'
    case 'context': {
      const twice = node.entries.find(({ key }, i) =>
        node.entries.slice(0, i).some((other) => other.key === key),
      )
      if (twice) problems.push({ ...at, message: `“${twice.key}” stands twice in this context.` })
      node.entries.forEach((entry, i) =>
        inner(
          entry.value,
          node.entries.slice(0, i).map(({ key }) => [key, null]),
        ),
      )
      return 'context'
    }
    case 'in': {
      const value = inner(node.value)
      for (const test of node.tests) {
        const expression = 'operator' in test ? test.with : test.expression
        const ends = expression.kind === 'range' ? [expression.low, expression.high] : [expression]
        for (const end of ends) {
          const type = inner(end)
          // A list or a range is looked through; what stands in it is not known here.
          if (
            type !== 'list' &&
            type !== 'range' &&
            value !== 'list' &&
            !fits(value, type) &&
            value !== 'null'
          )
            problems.push({
              from: end.from,
              to: end.to,
              message: `A ${spoken(value)} is compared with a ${spoken(type)}.`,
            })
        }
      }
      return 'boolean'
    }
    case 'instance of':
      children(node).forEach((child) => inner(child))
      return 'boolean'
    default:
      children(node).forEach((child) => inner(child))
      return node.kind === 'list' || node.kind === 'range' ? node.kind : 'any'
  }
}

function nameType(
  path: string,
  names: NameTypes,
  local: Locals,
  at: { from: number; to: number },
  problems: ExpressionProblem[],
): Inferred {
  const segments = path.split('.')
  const filtered = local.get('')
  const member = filtered ? names.get(ofEachItem(filtered, path)) : undefined
  if (member) return member
  const known = names.get(path)
  if (known) return known
  if (local.has(segments[0]!)) {
    const list = local.get(segments[0]!)
    if (!list || segments.length === 1) return 'any'
    const type = names.get(ofEachItem(list, segments[1]!))
    if (!type) problems.push({ ...at, message: `The items of “${list}” have no field “${segments[1]!}”.` })
    return segments.length === 2 ? (type ?? 'any') : 'any'
  }
  for (let length = segments.length - 1; length > 0; length--) {
    const type = names.get(segments.slice(0, length).join('.'))
    if (type === 'list' || type === 'context' || type === 'any') return 'any'
    if (type && (dates.includes(type) || durations.includes(type))) return 'number'
  }
  if ([...names.keys()].some((name) => name.startsWith(`${path}.`))) return 'context'
  problems.push({ ...at, message: `There is no field “${path}”.` })
  return 'any'
}

/** The outline's list that an expression gives, whole or filtered. */
function listName(node: Syntax, names: NameTypes): string | null {
  if (node.kind === 'filter') return listName(node.of, names)
  const path = pathName(node)
  return path !== null && names.get(path) === 'list' && !path.includes('[]') ? path : null
}
