import { feelTypeOf, type FieldType } from './field-kinds.ts'
import { type NameTypes, ofEachItem } from '../expression/check.ts'
import type { Rounding } from '../money/currency.ts'
import type { TypeName } from '../expression/values/value.ts'

/**
 * What makes a list one of priced items: which of its fields are the quantity (none: one), the price of one, the discount
 * in percent and the tax rate in percent, and which field of the outline is a discount on the whole (percent or money).
 */
export interface LineItems {
  readonly quantity: string | null
  readonly price: string
  readonly discount: string | null
  readonly taxRate: string | null
  readonly overallDiscount: string | null
  readonly rounding: Rounding
}

/** One field of a data outline. Dots in the name make groups: `buyer.name`. */
export interface Field {
  readonly name: string
  readonly label: string
  readonly type: FieldType
  readonly required: boolean
  /** Allowed values of a choice. */
  readonly choices?: readonly string[] | undefined
  /** ISO 4217 code of a money field. */
  readonly currency?: string | undefined
  readonly example?: string | undefined
  /** Taken where a record gives no value; written as a cell would be. */
  readonly default?: string | undefined
  readonly help?: string | undefined
  /** Display format of merge fields that name none. */
  readonly format?: string | undefined
  /** FEEL expression of a computed value; such a field is never mapped or asked for. */
  readonly computed?: string | undefined
  /** Of a list: the fields of its items, none of them a list. */
  readonly items?: readonly Field[] | undefined
  readonly lineItems?: LineItems | undefined
}

/** The fields of a template’s data, in their order. */
export type Outline = readonly Field[]

/**
 * A field's value as stored: text, email, phone, address and choice as text; number, money and percent as decimal text
 * (`"78200.00"`, percent in points: `"12"` is 12 %); date, time and date and time as ISO 8601 text without zone; yes/no as boolean; a list as its items.
 * Absent means not known.
 */
export type PlainValue = string | boolean
/** One item of a list, by its fields. */
export type ItemData = Readonly<Record<string, PlainValue>>
/** A value of a record: numbers as plain decimals, dates and times in ISO 8601, lists by their items. */
export type FieldValue = PlainValue | readonly ItemData[]
/** A record’s values by field. */
export type RecordData = Readonly<Record<string, FieldValue>>

/** Whether a value is a list of items. */
export const isItems = (value: FieldValue | undefined): value is readonly ItemData[] => Array.isArray(value)

/**
 * What expressions see of an outline. Of a list `lines` with a field `price`, the name `lines.price` is the list of all
 * prices, and `lines[].price` tells the type of one.
 */
export const nameTypes = (outline: Outline): NameTypes =>
  new Map(
    outline.flatMap((field): [string, TypeName | 'any'][] => [
      [field.name, feelTypeOf(field.type)],
      ...(field.items ?? []).flatMap((item): [string, TypeName][] => [
        [`${field.name}.${item.name}`, 'list'],
        [ofEachItem(field.name, item.name), feelTypeOf(item.type)],
      ]),
    ]),
  )

/** The same inside a repeat over a list, where `item` is one of its items. */
export function nameTypesInRepeat(outline: Outline, list: string | null): NameTypes {
  const items = outline.find(({ name }) => name === list)?.items
  if (!items) return nameTypes(outline)
  return new Map([
    ...nameTypes(outline),
    ...items.map((item) => [`item.${item.name}`, feelTypeOf(item.type)] as const),
  ])
}

/** A field by the name merge fields use: `buyer.name`, or `lines.price` for the price of an item. */
export interface FoundField {
  readonly field: Field
  /** The list it is an item's field of. */
  readonly list: Field | null
}

/** All names merge fields may use. */
export const fieldsByName = (outline: Outline): ReadonlyMap<string, FoundField> =>
  new Map(
    outline.flatMap((field): [string, FoundField][] =>
      field.type === 'list'
        ? (field.items ?? []).map((item) => [`${field.name}.${item.name}`, { field: item, list: field }])
        : [[field.name, { field, list: null }]],
    ),
  )

/** All that a value can be given for: fields, lists, and the fields of lists by their list's name before their own. */
export const fieldsAndLists = (outline: Outline): ReadonlyMap<string, Field> =>
  new Map(
    outline.flatMap((field) => [
      [field.name, field] as const,
      ...(field.items ?? []).map((item) => [`${field.name}.${item.name}`, item] as const),
    ]),
  )

/** A dotted name of letters, digits and underscores in any alphabet; never a word of the expression language. */
export function fieldNameProblem(name: string): string | null {
  const reserved = new Set([
    'if',
    'then',
    'else',
    'for',
    'in',
    'return',
    'some',
    'every',
    'satisfies',
    'and',
    'or',
    'not',
    'null',
    'true',
    'false',
    'between',
    'instance',
    'of',
    'function',
    'item',
    'partial',
  ])
  for (const part of name.split('.')) {
    if (part in Object.prototype) return `“${part}” is a word of the machine’s own and cannot name a field.`
    if (!/^[\p{L}_][\p{L}\p{N}_]*$/u.test(part))
      return `“${name}” is no field name: letters, digits and _ in groups joined by dots.`
    if (reserved.has(part)) return `“${part}” is a word of the expression language and cannot name a field.`
  }
  return null
}
