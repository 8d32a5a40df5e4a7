import type { NameTypes } from '../expression/check.ts'
import type { TypeName } from '../expression/value.ts'

export const FIELD_TYPES = [
  'text',
  'long text',
  'number',
  'money',
  'percent',
  'date',
  'yes/no',
  'choice',
  'email',
] as const
export type FieldType = (typeof FIELD_TYPES)[number]

/** One field of a data outline. Dots in the name make groups: `grower.name`. */
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
  /** FEEL expression of a computed value; such a field is never mapped or asked for. */
  readonly computed?: string | undefined
}

export type Outline = readonly Field[]

/**
 * A field's value as stored: text, email and choice as text; number, money and percent as decimal text (`"78200.00"`,
 * percent in points: `"12"` is 12 %); date as ISO 8601 text; yes/no as boolean. Absent means not known.
 */
export type FieldValue = string | boolean
export type RecordData = Readonly<Record<string, FieldValue>>

const feelTypes: Record<FieldType, TypeName> = {
  text: 'string',
  'long text': 'string',
  number: 'number',
  money: 'number',
  percent: 'number',
  date: 'date',
  'yes/no': 'boolean',
  choice: 'string',
  email: 'string',
}

/** What expressions see of an outline. */
export const nameTypes = (outline: Outline): NameTypes =>
  new Map(outline.map((field) => [field.name, feelTypes[field.type]]))

export const isNumeric = (type: FieldType): boolean => feelTypes[type] === 'number'

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
    if (!/^[\p{L}_][\p{L}\p{N}_]*$/u.test(part))
      return `“${name}” is no field name: letters, digits and _ in groups joined by dots.`
    if (reserved.has(part)) return `“${part}” is a word of the expression language and cannot name a field.`
  }
  return null
}
