import { Decimal } from 'decimal.js'
import { Temporal } from 'temporal-polyfill'
import { checkExpression } from '../expression/check.ts'
import { compileExpression } from '../expression/compile.ts'
import type { Expression } from '../expression/compile.ts'
import { parseDate } from '../expression/functions.ts'
import type { ExpressionProblem } from '../expression/syntax.ts'
import { number, toText } from '../expression/value.ts'
import type { Context, Value } from '../expression/value.ts'
import { isNumeric, nameTypes } from './field.ts'
import type { Field, FieldValue, Outline, RecordData } from './field.ts'

/** An outline whose computed values are compiled and put in an order in which each finds what it needs. */
export interface ReadyOutline {
  readonly outline: Outline
  readonly computed: readonly { readonly field: Field; readonly expression: Expression }[]
}

export type OutlineProblem = ExpressionProblem & { readonly field: string }

export type Prepared =
  | { readonly ok: true; readonly ready: ReadyOutline }
  | { readonly ok: false; readonly problems: readonly OutlineProblem[] }

/** Compiles the computed values; reports faulty expressions and values that need each other in a circle. */
export function prepareOutline(outline: Outline): Prepared {
  const problems: OutlineProblem[] = []
  const found = new Map<string, Expression>()
  const names = nameTypes(outline)
  for (const field of outline) {
    if (field.computed === undefined) continue
    const compiled = compileExpression(field.computed)
    if (!compiled.ok) problems.push({ ...compiled.problem, field: field.name })
    else {
      found.set(field.name, compiled.expression)
      const wanted = names.get(field.name) ?? 'any'
      problems.push(
        ...checkExpression(compiled.expression.syntax, names, wanted).map((problem) => ({
          ...problem,
          field: field.name,
        })),
      )
    }
  }
  const order: string[] = []
  const visiting = new Set<string>()
  const visit = (name: string): boolean => {
    if (order.includes(name)) return true
    const expression = found.get(name)
    if (!expression) return true
    if (visiting.has(name)) return false
    visiting.add(name)
    const sound = expression.reads.every(visit)
    visiting.delete(name)
    if (sound) order.push(name)
    return sound
  }
  for (const [name, expression] of found)
    if (!visit(name))
      problems.push({
        field: name,
        message: `“${name}” needs itself: its value goes round in a circle.`,
        from: 0,
        to: expression.text.length,
      })
  if (problems.length) return { ok: false, problems }
  const fields = new Map(outline.map((field) => [field.name, field]))
  return {
    ok: true,
    ready: {
      outline,
      computed: order.map((name) => ({ field: fields.get(name)!, expression: found.get(name)! })),
    },
  }
}

/** Every field's value, computed ones included, in stored form; a computed value that cannot be worked out is absent. */
export function completeRecord(
  ready: ReadyOutline,
  data: RecordData,
): { readonly data: RecordData; readonly context: Context } {
  const complete: Record<string, FieldValue> = {}
  const context = new Map<string, Value>()
  for (const field of ready.outline) {
    const value = field.computed === undefined ? data[field.name] : undefined
    if (value !== undefined) complete[field.name] = value
    place(context, field.name, value === undefined ? null : toValue(field, value))
  }
  for (const { field, expression } of ready.computed) {
    const value = expression.evaluate(context)
    const stored = toStored(field, value)
    if (stored !== null) complete[field.name] = stored
    place(context, field.name, stored === null ? null : value)
  }
  return { data: complete, context }
}

/** Puts a value under a dotted name, making groups as nested contexts. */
function place(context: Map<string, Value>, name: string, value: Value): void {
  const parts = name.split('.')
  let at = context
  for (const part of parts.slice(0, -1)) {
    const group = at.get(part)
    const next = group instanceof Map ? (group as Map<string, Value>) : new Map<string, Value>()
    at.set(part, next)
    at = next
  }
  at.set(parts.at(-1)!, value)
}

/** A stored value as expressions see it. */
export function toValue(field: Field, value: FieldValue): Value {
  if (typeof value === 'boolean') return value
  if (isNumeric(field.type)) return number(value)
  return field.type === 'date' ? parseDate(value) : value
}

function toStored(field: Field, value: Value): FieldValue | null {
  if (value === null) return null
  if (field.type === 'yes/no') return typeof value === 'boolean' ? value : null
  if (isNumeric(field.type)) return value instanceof Decimal ? value.toFixed() : null
  if (field.type === 'date') return value instanceof Temporal.PlainDate ? value.toString() : null
  return toText(value)
}
