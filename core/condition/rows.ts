import { type FieldType, feelTypeOf, isNumeric } from '../outline/field-kinds.ts'
import type { TypeName } from '../expression/values/value.ts'
import { pathName } from '../expression/compile.ts'
import { parseExpression } from '../expression/parse.ts'
import type { Syntax } from '../expression/syntax.ts'

// A condition as rows of field, comparison and value: the other view of the typed expression. Only what both views can
// say is shown as rows; anything else stays an expression.

/** How a row of a condition compares, with the words for it. */
export const COMPARISONS = {
  is: 'is',
  'is not': 'is not',
  'is under': 'is under',
  'is at most': 'is at most',
  'is over': 'is over',
  'is at least': 'is at least',
  'lies between': 'lies between',
  'is one of': 'is one of',
  contains: 'contains',
  'starts with': 'starts with',
  'is yes': 'is yes',
  'is no': 'is no',
  'is empty': 'is empty',
  'is filled': 'is filled',
} as const
export type RowComparison = keyof typeof COMPARISONS

/** One row. `values`: none for `is yes`, `is empty` …, two for `lies between`, one or more for `is one of`, else one. */
export interface ConditionRow {
  readonly field: string
  readonly comparison: RowComparison
  readonly values: readonly string[]
}

/** Rows and groups of which all, or any one, have to hold. */
export interface ConditionGroup {
  readonly join: 'all' | 'any'
  readonly parts: readonly (ConditionRow | ConditionGroup)[]
}

/** Whether a part of a condition is a group of parts. */
export const isGroup = (part: ConditionRow | ConditionGroup): part is ConditionGroup => 'join' in part

const ORDERED: readonly RowComparison[] = [
  'is',
  'is not',
  'is under',
  'is at most',
  'is over',
  'is at least',
  'lies between',
  'is empty',
  'is filled',
]

/** Types of the expression language that are written as a function of their ISO 8601 text. */
const MOMENTS: ReadonlySet<string> = new Set<TypeName>(['date', 'time', 'date and time'])
const isMoment = (type: FieldType): boolean => MOMENTS.has(feelTypeOf(type))

/** Times in expressions always have seconds (XML Schema); people leave them out. */
const withSeconds = (text: string): string => text.replace(/(^|T)(\d{2}:\d{2})$/, '$1$2:00')

/** Comparisons that make sense for a type, the usual one first. */
export function comparisonsFor(type: FieldType): readonly RowComparison[] {
  if (feelTypeOf(type) === 'boolean') return ['is yes', 'is no', 'is empty']
  if (type === 'choice') return ['is', 'is not', 'is one of', 'is empty', 'is filled']
  if (isMoment(type) || isNumeric(type)) return ORDERED
  if (type === 'list') return ['is empty', 'is filled']
  return ['is', 'is not', 'contains', 'starts with', 'is one of', 'is empty', 'is filled']
}

/** How many values a comparison takes. */
export const valuesOf = (comparison: RowComparison): 0 | 1 | 2 | 'many' => {
  if (comparison === 'lies between') return 2
  if (comparison === 'is one of') return 'many'
  return ['is yes', 'is no', 'is empty', 'is filled'].includes(comparison) ? 0 : 1
}

const signs: Partial<Record<RowComparison, string>> = {
  is: '=',
  'is not': '!=',
  'is under': '<',
  'is at most': '<=',
  'is over': '>',
  'is at least': '>=',
}

function literal(value: string, type: FieldType): string {
  if (isNumeric(type)) return /^-?\d+(\.\d+)?$/.test(value.trim()) ? value.trim() : JSON.stringify(value)
  if (isMoment(type)) return `${feelTypeOf(type)}(${JSON.stringify(withSeconds(value))})`
  return JSON.stringify(value)
}

function rowText({ field, comparison, values }: ConditionRow, type: FieldType): string {
  const [first = '', second = ''] = values
  const list = type === 'list'
  switch (comparison) {
    case 'is yes':
      return field
    case 'is no':
      return `not(${field})`
    case 'is empty':
      return list ? `count(${field}) = 0` : `${field} = null`
    case 'is filled':
      return list ? `count(${field}) > 0` : `${field} != null`
    case 'lies between':
      return `${field} in [${literal(first, type)}..${literal(second, type)}]`
    case 'is one of':
      return `${field} in (${values.map((value) => literal(value, type)).join(', ')})`
    case 'contains':
    case 'starts with':
      return `${comparison}(${field}, ${JSON.stringify(first)})`
    default:
      return `${field} ${signs[comparison]!} ${literal(first, type)}`
  }
}

/** The expression that rows say. `types` knows the type of each field by name. */
export function rowsToExpression(group: ConditionGroup, types: ReadonlyMap<string, FieldType>): string {
  const parts = group.parts.map((part) => {
    if (!isGroup(part)) return rowText(part, types.get(part.field) ?? 'text')
    const inner = rowsToExpression(part, types)
    return part.parts.length > 1 && part.join !== group.join ? `(${inner})` : inner
  })
  return parts.filter((part) => part !== '').join(group.join === 'all' ? ' and ' : ' or ')
}

function literalValue(node: Syntax): string | null {
  if (node.kind === 'number') return node.text
  if (node.kind === 'string') return node.value
  if (node.kind === 'negative') {
    const inner = literalValue(node.of)
    return inner === null ? null : `-${inner}`
  }
  if (node.kind === 'call' && (node.name === '@' || MOMENTS.has(node.name)) && node.args.length === 1)
    return literalValue(node.args[0]!.value)
  return null
}

const row = (field: string, comparison: RowComparison, ...values: string[]): ConditionRow => ({
  field,
  comparison,
  values,
})

function readRow(node: Syntax): ConditionRow | null {
  const own = pathName(node)
  if (own !== null) return row(own, 'is yes')
  if (node.kind === 'comparison') {
    const field = pathName(node.left)
    const counted =
      node.left.kind === 'call' && node.left.name === 'count' ? pathName(node.left.args[0]!.value) : null
    const value = literalValue(node.right)
    if (counted !== null && value === '0') {
      if (node.operator === '=') return row(counted, 'is empty')
      return node.operator === '>' ? row(counted, 'is filled') : null
    }
    if (field === null) return null
    if (node.right.kind === 'null') {
      if (node.operator === '=') return row(field, 'is empty')
      return node.operator === '!=' ? row(field, 'is filled') : null
    }
    if (node.right.kind === 'boolean' && (node.operator === '=' || node.operator === '!='))
      return row(field, node.right.value === (node.operator === '=') ? 'is yes' : 'is no')
    const comparison = (Object.keys(signs) as RowComparison[]).find((name) => signs[name] === node.operator)
    return value === null || !comparison ? null : row(field, comparison, value)
  }
  if (node.kind === 'call') {
    const [first, second] = node.args.map(({ value }) => value)
    const field = first && pathName(first)
    if (node.name === 'not' && typeof field === 'string') return row(field, 'is no')
    const value = second ? literalValue(second) : null
    if (
      (node.name === 'contains' || node.name === 'starts with') &&
      typeof field === 'string' &&
      value !== null
    )
      return row(field, node.name, value)
  }
  return node.kind === 'in' ? readMembership(node) : null
}

function readMembership(node: Syntax & { kind: 'in' }): ConditionRow | null {
  const field = pathName(node.value)
  if (field === null) return null
  const [only] = node.tests
  if (node.tests.length === 1 && only && 'expression' in only && only.expression.kind === 'range') {
    const { low, high, lowIncluded, highIncluded } = only.expression
    const [from, to] = [literalValue(low), literalValue(high)]
    return lowIncluded && highIncluded && from !== null && to !== null
      ? row(field, 'lies between', from, to)
      : null
  }
  const values = node.tests.map((test) => ('expression' in test ? literalValue(test.expression) : null))
  return values.every((value) => value !== null) ? row(field, 'is one of', ...values) : null
}

function read(node: Syntax): ConditionRow | ConditionGroup | null {
  if (node.kind !== 'and' && node.kind !== 'or') return readRow(node)
  const join = node.kind === 'and' ? 'all' : 'any'
  const parts = [read(node.left), read(node.right)]
  if (parts.some((part) => part === null)) return null
  return {
    join,
    // a and b and c is one group of three.
    parts: parts.flatMap((part) => (isGroup(part!) && part.join === join ? part.parts : [part!])),
  }
}

/** Rows that say the same as an expression; null where rows cannot say it. An empty expression is an empty group. */
export function expressionToRows(text: string): ConditionGroup | null {
  if (text.trim() === '') return { join: 'all', parts: [] }
  const parsed = parseExpression(text)
  const found = parsed.ok ? read(parsed.syntax) : null
  if (!found) return null
  return isGroup(found) ? found : { join: 'all', parts: [found] }
}
