import { isNumeric } from './field-kinds.ts'
import { Decimal } from 'decimal.js'
import { Temporal } from 'temporal-polyfill'
import { checkExpression, type NameTypes } from '../expression/check.ts'
import { compileExpression } from '../expression/compile.ts'
import { isoDate, parseDate } from '../calendar/days.ts'
import { isoDateTime, isoTime, parseDateTime, parseTime } from '../calendar/times.ts'
import type { ExpressionProblem } from '../expression/syntax.ts'
import {
  type Context,
  isContext,
  isList,
  number,
  TODAY,
  toText,
  type Value,
} from '../expression/values/value.ts'
import { minorUnitDigits } from '../money/currency.ts'
import { type Line, lineAmount } from '../money/line-items.ts'
import { perObject } from '../per-object.ts'
import { coerce } from './coerce.ts'
import {
  type Field,
  type FieldValue,
  isItems,
  type ItemData,
  nameTypes,
  nameTypesInRepeat,
  type Outline,
  type PlainValue,
  type RecordData,
} from './field.ts'

/** A field whose value comes by itself: from a formula of the outline, or worked out by a function of ours. */
export interface ComputedField {
  readonly field: Field
  /** Names it needs first. */
  readonly reads: readonly string[]
  readonly evaluate: (record: Context) => Value
}

/** An outline whose computed values are compiled and put in an order in which each finds what it needs. */
export interface ReadyOutline {
  readonly outline: Outline
  readonly computed: readonly ComputedField[]
  /** Formulas of lists' items by `list.field`. */
  readonly itemFormulas: ReadonlyMap<string, (record: Context) => Value>
  /** Of fields, and of lists' items by `list.field`. */
  readonly defaults: ReadonlyMap<string, PlainValue>
}

/** What is wrong with a field’s formula. */
export type OutlineProblem = ExpressionProblem & { readonly field: string }

/** An outline whose formulas can be worked out, or what is wrong with them. */
export type Prepared =
  | { readonly ok: true; readonly ready: ReadyOutline }
  | { readonly ok: false; readonly problems: readonly OutlineProblem[] }

/**
 * Compiles the computed values; reports faulty expressions, defaults that are no value of their type, and values that
 * need each other in a circle. `given` are fields that are worked out without a formula.
 */
export function prepareOutline(outline: Outline, given: readonly ComputedField[] = []): Prepared {
  const problems: OutlineProblem[] = []
  const whole = [...outline, ...given.map(({ field }) => field)]
  const names = nameTypes(whole)
  const found = new Map<string, ComputedField>(given.map((each) => [each.field.name, each]))
  const itemFormulas = new Map<string, (record: Context) => Value>()
  for (const field of outline) {
    if (field.computed !== undefined) {
      const expression = formula(field.computed, field, field.name, names, problems)
      if (expression)
        found.set(field.name, {
          field,
          reads: expression.reads,
          evaluate: (record) => expression.evaluate(record),
        })
    }
    for (const item of field.items ?? []) {
      if (item.computed === undefined) continue
      const name = `${field.name}.${item.name}`
      const types = new Map([
        ...nameTypesInRepeat(whole, field.name),
        ...nameTypes(field.items ?? []),
        ...[...nameTypes([item]).values()].map((type) => [name, type] as const),
      ])
      const expression = formula(item.computed, item, name, types, problems)
      if (expression) itemFormulas.set(name, (record) => expression.evaluate(record))
    }
  }
  const defaults = readDefaults(outline, problems)
  const computed = inOrder(found, problems)
  return problems.length
    ? { ok: false, problems }
    : { ok: true, ready: { outline: whole, computed, itemFormulas, defaults } }
}

/** A field's formula, compiled; null if it has faults, which are told under `name`. */
function formula(text: string, field: Field, name: string, types: NameTypes, problems: OutlineProblem[]) {
  const compiled = compileExpression(text)
  const faults = compiled.ok
    ? checkExpression(
        compiled.expression.syntax,
        types,
        types.get(name) ?? nameTypes([field]).get(field.name),
      )
    : [compiled.problem]
  problems.push(...faults.map((problem) => ({ ...problem, field: name })))
  return compiled.ok ? compiled.expression : null
}

/** Defaults as values of their types, those of items under `list.item`. */
function readDefaults(outline: Outline, problems: OutlineProblem[]): ReadonlyMap<string, PlainValue> {
  const defaults = new Map<string, PlainValue>()
  const all = outline.flatMap((field) => [
    [field.name, field] as const,
    ...(field.items ?? []).map((item) => [`${field.name}.${item.name}`, item] as const),
  ])
  for (const [name, field] of all) {
    if (field.default === undefined || field.default === '') continue
    const read = coerce(field, field.default, null)
    if (read.ok && read.value !== null) defaults.set(name, read.value)
    else if (!read.ok) problems.push({ field: name, message: `The default: ${read.problem}`, from: 0, to: 0 })
  }
  return defaults
}

/** Computed fields so that each comes after those it reads; one that needs itself is told. */
function inOrder(
  found: ReadonlyMap<string, ComputedField>,
  problems: OutlineProblem[],
): readonly ComputedField[] {
  const order = new Map<string, ComputedField>()
  const visiting = new Set<string>()
  const visit = (name: string): boolean => {
    const computed = found.get(name)
    if (!computed || order.has(name)) return true
    if (visiting.has(name)) return false
    visiting.add(name)
    const sound = computed.reads.every(visit)
    visiting.delete(name)
    if (sound) order.set(name, computed)
    return sound
  }
  for (const [name, { field }] of found)
    if (!visit(name))
      problems.push({
        field: name,
        message: `“${name}” needs itself: its value goes round in a circle.`,
        from: 0,
        to: field.computed?.length ?? 0,
      })
  return [...order.values()]
}

/** A record with its computed values. */
export interface CompleteRecord {
  readonly data: RecordData
  readonly context: Context
}

/** Records completed lately: one agreement asks for the same one to merge, to route, and for each of its patterns. */
const completed = new WeakMap<RecordData, { readonly ready: ReadyOutline; readonly record: CompleteRecord }>()

/** Every field's value, computed ones included, in stored form; a computed value that cannot be worked out is absent. */
export function completeRecord(ready: ReadyOutline, data: RecordData): CompleteRecord {
  const known = completed.get(data)
  if (known?.ready === ready) return known.record
  const record = complete(ready, data)
  completed.set(data, { ready, record })
  return record
}

/** Fields that records give by themselves. */
const givenFields = perObject((ready: ReadyOutline) => {
  const computed = new Set(ready.computed.map(({ field }) => field))
  const given = ready.outline.filter((field) => !computed.has(field))
  return {
    plain: given.filter(({ type }) => type !== 'list'),
    lists: given.filter(({ type }) => type === 'list'),
  }
})

function complete(ready: ReadyOutline, data: RecordData): CompleteRecord {
  const values: Record<string, FieldValue> = {}
  const context = new Map<string, Value>()
  const today = data[TODAY]
  if (typeof today === 'string') {
    values[TODAY] = today
    context.set(TODAY, parseDate(today))
  }
  const { plain, lists } = givenFields(ready)
  for (const field of plain) {
    const value = data[field.name] ?? ready.defaults.get(field.name)
    if (value !== undefined) values[field.name] = value
    place(context, field, value === undefined ? null : toValue(field, value))
  }
  // Lists come after the plain values, which the formulas of their items may read.
  for (const field of lists) {
    const value = data[field.name]
    const items = (isItems(value) ? value : []).map((item, i) => completeItem(ready, field, item, i, context))
    values[field.name] = items.map((item) => item.data)
    place(
      context,
      field,
      items.map((item) => item.context),
    )
  }
  for (const { field, evaluate } of ready.computed) {
    const value = evaluate(context)
    const stored = toStored(field, value)
    if (stored !== null) values[field.name] = stored
    place(context, field, stored === null ? null : value)
  }
  return { data: values, context }
}

/** An item with its computed fields; `position` counts from 1 in contexts. */
function completeItem(
  ready: ReadyOutline,
  list: Field,
  data: ItemData,
  index: number,
  record: Context,
): { data: ItemData; context: Context } {
  const complete: Record<string, PlainValue> = {}
  const context = new Map<string, Value>()
  for (const field of list.items ?? []) {
    const value =
      field.computed === undefined
        ? (data[field.name] ?? ready.defaults.get(`${list.name}.${field.name}`))
        : undefined
    if (value !== undefined) complete[field.name] = value
    context.set(field.name, value === undefined ? null : toValue(field, value))
  }
  for (const field of list.items ?? []) {
    const formula = ready.itemFormulas.get(`${list.name}.${field.name}`)
    if (!formula) continue
    const value = formula(new Map([...record, ...context, ['item', context]]))
    const stored = toStored(field, value)
    if (stored !== null && !isItems(stored)) complete[field.name] = stored
    context.set(field.name, stored === null ? null : value)
  }
  context.set('position', number(index + 1))
  const line = lineValues(list, context)
  const amount = line && lineAmount(line, currencyOf(list), list.lineItems!.rounding)
  if (amount) {
    complete[LINE_AMOUNT] = amount.toFixed(minorUnitDigits(currencyOf(list)))
    context.set(LINE_AMOUNT, amount)
  }
  return { data: complete, context }
}

/** Name of the field that line items have by themselves: what the line comes to, rounded as it is printed. */
export const LINE_AMOUNT = 'amount'

/** The currency of a list's prices. */
export const currencyOf = (list: Field): string =>
  list.items?.find(({ name }) => name === list.lineItems?.price)?.currency ?? 'USD'

/** Values of a line, as numbers; a discount or tax rate that is not there counts as none. Null where one is missing. */
export function lineValues(list: Field, item: Context): Line | null {
  const rule = list.lineItems
  if (!rule) return null
  const read = (name: string | null, otherwise: number): Decimal | null => {
    if (name === null) return number(otherwise)
    const value = item.get(name) ?? null
    return value instanceof Decimal ? value : null
  }
  const [quantity, price] = [read(rule.quantity, 1), read(rule.price, 0)]
  if (!quantity || !price) return null
  return {
    quantity,
    price,
    discountPercent: read(rule.discount, 0) ?? number(0),
    taxPercent: read(rule.taxRate, 0) ?? number(0),
  }
}

const pathOf = perObject(({ name }: Field) => {
  const parts = name.split('.')
  return { groups: parts.slice(0, -1), last: parts.at(-1)! }
})

/** Puts a field's value under its dotted name, making groups as nested contexts. */
function place(context: Map<string, Value>, field: Field, value: Value): void {
  const { groups, last } = pathOf(field)
  let at = context
  for (const part of groups) {
    const group = at.get(part)
    const next = group instanceof Map ? (group as Map<string, Value>) : new Map<string, Value>()
    at.set(part, next)
    at = next
  }
  at.set(last, value)
}

/** A stored value as expressions see it. */
export function toValue(field: Field, value: FieldValue): Value {
  if (typeof value === 'boolean') return value
  if (isItems(value))
    return value.map(
      (item) =>
        new Map(
          (field.items ?? []).map((each) => [
            each.name,
            item[each.name] === undefined ? null : toValue(each, item[each.name]!),
          ]),
        ),
    )
  if (isNumeric(field.type)) return number(value as string)
  if (field.type === 'date') return parseDate(value as string)
  if (field.type === 'time') return parseTime(value as string)
  return field.type === 'date and time' ? parseDateTime(value as string) : (value as string)
}

/** A value in stored form; null where it is no value of the field's type. */
export function toStored(field: Field, value: Value): FieldValue | null {
  if (value === null) return null
  if (field.type === 'yes/no') return typeof value === 'boolean' ? value : null
  if (isNumeric(field.type)) return value instanceof Decimal ? value.toFixed() : null
  if (field.type === 'date') return value instanceof Temporal.PlainDate ? isoDate(value) : null
  if (field.type === 'time') return value instanceof Temporal.PlainTime ? isoTime(value) : null
  if (field.type === 'date and time')
    return value instanceof Temporal.PlainDateTime ? isoDateTime(value) : null
  if (field.type !== 'list') return toText(value)
  if (!isList(value)) return null
  return value.filter(isContext).map((item) =>
    Object.fromEntries(
      (field.items ?? []).flatMap((each) => {
        const stored = toStored(each, item.get(each.name) ?? null)
        return stored === null || isItems(stored) ? [] : [[each.name, stored] as const]
      }),
    ),
  )
}
