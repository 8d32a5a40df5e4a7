import type { FieldType } from './field-kinds.ts'
import type { Field } from './field.ts'

const guesses: readonly (readonly [RegExp, FieldType])[] = [
  [/e-?mail|mail_?address/i, 'email'],
  [/date|_on$|deadline|birthday|_by$/i, 'date'],
  [/phone|mobile|fax/i, 'phone'],
  [/percent|discount|rate$/i, 'percent'],
  [/price|amount|total|fee|rent$|cost|deposit/i, 'money'],
  [/quantity|count|number_of|^n$/i, 'number'],
  [/^is_|^has_|leased|organic/i, 'yes/no'],
]

/** A field of an outline for a name that a document uses; the type is a guess from the name, to be looked at. */
export function guessedField(name: string, label: string, hints: ReadonlySet<FieldType> = new Set()): Field {
  const type = [...hints][0] ?? guesses.find(([pattern]) => pattern.test(name))?.[1] ?? 'text'
  return {
    name,
    label,
    type,
    required: true,
    ...(type === 'money' ? { currency: 'USD' } : {}),
  }
}
