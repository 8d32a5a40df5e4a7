import type { Field, Outline } from './field.ts'
import { FIELD_KINDS } from './field-kinds.ts'

type Schema = Readonly<Record<string, unknown>>

/**
 * An outline as JSON Schema (2020-12): what a program sends as the data of one agreement. Groups are objects, lists arrays of
 * objects; computed values are not sent.
 */
export function jsonSchemaOf(outline: Outline): Schema {
  const properties: Record<string, unknown> = {}
  const required: string[] = []
  const groups = new Map<string, Field[]>()
  for (const field of outline) {
    if (field.computed !== undefined) continue
    const [group, ...rest] = field.name.split('.')
    if (rest.length) {
      groups.set(group!, [...(groups.get(group!) ?? []), { ...field, name: rest.join('.') }])
      continue
    }
    properties[field.name] = schemaOf(field)
    if (isNeeded(field)) required.push(field.name)
  }
  for (const [name, fields] of groups) {
    properties[name] = jsonSchemaOf(fields)
    if (fields.some(isNeeded)) required.push(name)
  }
  return {
    type: 'object',
    properties,
    ...(required.length ? { required } : {}),
    additionalProperties: false,
  }
}

const isNeeded = ({ required, default: otherwise, computed }: Field): boolean =>
  required && otherwise === undefined && computed === undefined

function schemaOf(field: Field): Schema {
  const said = {
    title: field.label,
    ...(field.help ? { description: field.help } : {}),
    ...(field.example ? { examples: [field.example] } : {}),
    ...(field.default === undefined ? {} : { default: field.default }),
  }
  return {
    ...said,
    ...FIELD_KINDS[field.type].schema,
    ...(field.type === 'list' ? { items: jsonSchemaOf(field.items ?? []) } : {}),
    ...(field.type === 'choice' ? { enum: [...(field.choices ?? [])] } : {}),
    ...(field.type === 'money' ? { 'x-currency': field.currency ?? 'USD' } : {}),
    ...(field.type === 'percent' ? { description: field.help ?? 'in points: 12 is 12 %' } : {}),
  }
}
