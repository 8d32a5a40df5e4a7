import { pathName } from './compile.ts'
import { builtIns } from './functions.ts'
import { children } from './syntax.ts'
import type { ExpressionProblem, Syntax } from './syntax.ts'
import type { TypeName } from './value.ts'

/** Types of the names an expression may read: full dotted names. `any` where nothing is known. */
export type NameTypes = ReadonlyMap<string, TypeName | 'any'>

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
  const type = infer(syntax, names, new Set(), problems)
  if (problems.length === 0 && !fits(type, wanted))
    problems.push({
      message: `This gives a ${spoken(type)}; a ${spoken(wanted)} is needed.`,
      from: syntax.from,
      to: syntax.to,
    })
  return problems
}

type Inferred = TypeName | 'any'

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
  if (operator === '-' && left === right && dates.includes(left)) return 'days and time duration'
  if (durations.includes(left) && left === right)
    return operator === '/' ? 'number' : '+-'.includes(operator) ? left : null
  if (durations.includes(left) && right === 'number' && '*/'.includes(operator)) return left
  if (operator === '*' && left === 'number' && durations.includes(right)) return right
  return null
}

function infer(
  node: Syntax,
  names: NameTypes,
  local: ReadonlySet<string>,
  problems: ExpressionProblem[],
): Inferred {
  const at = { from: node.from, to: node.to }
  const inner = (child: Syntax, more: readonly string[] = []) =>
    infer(child, names, more.length ? new Set([...local, ...more]) : local, problems)
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
      node.args.forEach((argument) => inner(argument.value))
      return builtIns.get(node.name)?.result ?? 'any'
    }
    case 'for':
    case 'some':
    case 'every': {
      node.over.forEach(({ list }, i) =>
        inner(
          list,
          node.over.slice(0, i).map((over) => over.name),
        ),
      )
      inner(node.body, [...node.over.map((over) => over.name), 'partial'])
      return node.kind === 'for' ? 'list' : 'boolean'
    }
    case 'filter':
      // Inside a filter every member of the item is a name; the item's shape is not known here.
      inner(node.of)
      return 'any'
    case 'in':
    case 'instance of':
      children(node).forEach((child) => inner(child))
      return 'boolean'
    default:
      children(node).forEach((child) => inner(child))
      return node.kind === 'list' || node.kind === 'context' || node.kind === 'range' ? node.kind : 'any'
  }
}

function nameType(
  path: string,
  names: NameTypes,
  local: ReadonlySet<string>,
  at: { from: number; to: number },
  problems: ExpressionProblem[],
): Inferred {
  const known = names.get(path)
  if (known) return known
  if (local.has(path.split('.')[0]!)) return 'any'
  const segments = path.split('.')
  for (let length = segments.length - 1; length > 0; length--) {
    const type = names.get(segments.slice(0, length).join('.'))
    if (type === 'list' || type === 'context' || type === 'any') return 'any'
    if (type && (dates.includes(type) || durations.includes(type))) return 'number'
  }
  if ([...names.keys()].some((name) => name.startsWith(`${path}.`))) return 'context'
  problems.push({ ...at, message: `There is no field “${path}”.` })
  return 'any'
}
