import { isNumeric } from '#core/outline/field-kinds.ts'
import { sql, type SQL } from 'drizzle-orm'
import { compileExpression, pathName } from '#core/expression/compile.ts'
import type { Comparator } from '#core/expression/values/operators.ts'
import type { Syntax } from '#core/expression/syntax.ts'
import { type Field, type Outline } from '#core/outline/field.ts'
import { record } from '#server/db/schema.ts'

/**
 * The part of a condition over records that the database decides by itself: comparisons of plain fields with what is
 * written in the condition, joined by `and`. What it lets through is looked at again with the whole condition, so it may
 * let through too much and never too little.
 */
export function whereInSql(fields: Outline, where: string): SQL | undefined {
  if (where.trim() === '') return undefined
  const compiled = compileExpression(where)
  if (!compiled.ok) return undefined
  const plain = new Map(
    fields.flatMap((field) =>
      field.computed === undefined && field.default === undefined && field.type !== 'list'
        ? [[field.name, field] as const]
        : [],
    ),
  )
  const parts = conjuncts(compiled.expression.syntax).flatMap((part) => decided(plain, part) ?? [])
  return parts.length ? sql.join(parts, sql` and `) : undefined
}

const conjuncts = (node: Syntax): readonly Syntax[] =>
  node.kind === 'and' ? [...conjuncts(node.left), ...conjuncts(node.right)] : [node]

const TURNED: Readonly<Record<Comparator, Comparator>> = {
  '=': '=',
  '!=': '!=',
  '<': '>',
  '<=': '>=',
  '>': '<',
  '>=': '<=',
}
const SIGNS: Readonly<Record<Comparator, SQL>> = {
  '=': sql`=`,
  '!=': sql`<>`,
  '<': sql`<`,
  '<=': sql`<=`,
  '>': sql`>`,
  '>=': sql`>=`,
}

function decided(fields: ReadonlyMap<string, Field>, node: Syntax): SQL | null {
  const own = fields.get(pathName(node) ?? '')
  if (own) return own.type === 'yes/no' ? sql`${record.data}->${own.name} = 'true'::jsonb` : null
  if (node.kind !== 'comparison') return null
  const left = fields.get(pathName(node.left) ?? '')
  if (left) return compared(left, node.operator, node.right)
  const right = fields.get(pathName(node.right) ?? '')
  return right ? compared(right, TURNED[node.operator], node.left) : null
}

/** A field that a record does not have is null: equal to null alone, unequal to all else, and neither above nor below. */
function compared(field: Field, operator: Comparator, literal: Syntax): SQL | null {
  const text = sql`${record.data}->>${field.name}`
  if (literal.kind === 'null')
    return operator === '=' ? sql`${text} is null` : operator === '!=' ? sql`${text} is not null` : null
  const missing = operator === '!=' ? sql`true` : sql`false`
  const sign = SIGNS[operator]
  // What is not of the field's type any more is left to whoever looks again.
  const where = (shape: string, test: SQL) =>
    sql`case when ${text} is null then ${missing} when ${text} ~ ${shape} then ${test} else true end`
  if (isNumeric(field.type) && literal.kind === 'number' && literal.text.length < 40)
    return where('^-?[0-9]{1,30}([.][0-9]{1,30})?$', sql`(${text})::numeric ${sign} ${literal.text}::numeric`)
  if (field.type === 'date') {
    const day =
      literal.kind === 'call' && literal.name === 'date' && literal.args.length === 1
        ? literal.args[0]!.value
        : null
    return day?.kind === 'string' && /^\d{4}-\d{2}-\d{2}$/.test(day.value)
      ? where('^[0-9]{4}-[0-9]{2}-[0-9]{2}$', sql`${text} collate "C" ${sign} ${day.value}`)
      : null
  }
  const isText = !isNumeric(field.type) && !['yes/no', 'time', 'date and time'].includes(field.type)
  // Order of texts is that of their UTF-16 units, which the database does not have.
  return isText && literal.kind === 'string' && (operator === '=' || operator === '!=')
    ? sql`coalesce(${text} collate "C" ${sign} ${literal.value}, ${missing})`
    : null
}
