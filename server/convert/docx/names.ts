import { fieldNameProblem } from '#core/outline/field.ts'
import type { Field, FieldType } from '#core/outline/field.ts'

/** A field name made of what a document calls it: "Grower Name" becomes Grower_Name. Dots stay, for groups. */
export function fieldName(text: string): string {
  const parts = text
    .trim()
    .split('.')
    .map((part) =>
      part
        .trim()
        .replace(/[^\p{L}\p{N}_]+/gu, '_')
        .replace(/^_+|_+$/g, ''),
    )
    .filter((part) => part !== '')
    .map((part) => (/^\p{N}/u.test(part) ? `n${part}` : part))
  const name = parts.join('.') || 'field'
  return fieldNameProblem(name) ? `${name}_` : name
}

const guesses: readonly (readonly [RegExp, FieldType])[] = [
  [/e-?mail|mail_?address/i, 'email'],
  [/date|_on$|deadline|birthday|_by$/i, 'date'],
  [/phone|mobile|fax/i, 'phone'],
  [/percent|discount|rate$/i, 'percent'],
  [/price|amount|total|fee|rent$|cost|deposit/i, 'money'],
  [/quantity|count|number_of|acres|colonies|^n$/i, 'number'],
  [/^is_|^has_|leased|organic/i, 'yes/no'],
]

/** A field of an outline for a name that a document uses; the type is a guess from the name, to be looked at. */
export function guessedField(name: string, label: string, hints: ReadonlySet<FieldType>): Field {
  const type = [...hints][0] ?? guesses.find(([pattern]) => pattern.test(name))?.[1] ?? 'text'
  return {
    name,
    label,
    type,
    required: true,
    ...(type === 'money' ? { currency: 'USD' } : {}),
  }
}
