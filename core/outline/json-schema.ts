import type { Field, FieldType, Outline } from './field.ts'

type Schema = Readonly<Record<string, unknown>>

/** Formats of JSON Schema 2020-12 that say more than the type; a number may come as text, so that no digit is lost. */
const SHAPES: Readonly<Record<Exclude<FieldType, 'list' | 'choice'>, Schema>> = {
  text: { type: 'string' },
  'long text': { type: 'string' },
  number: { type: ['number', 'string'] },
  money: { type: ['number', 'string'] },
  percent: { type: ['number', 'string'] },
  date: { type: 'string', format: 'date' },
  time: { type: 'string' },
  'date and time': { type: 'string' },
  'yes/no': { type: ['boolean', 'string'] },
  email: { type: 'string', format: 'email' },
  phone: { type: 'string' },
  address: { type: 'string' },
}

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
  if (field.type === 'list') return { ...said, type: 'array', items: jsonSchemaOf(field.items ?? []) }
  if (field.type === 'choice') return { ...said, type: 'string', enum: [...(field.choices ?? [])] }
  return {
    ...said,
    ...SHAPES[field.type],
    ...(field.type === 'money' ? { 'x-currency': field.currency ?? 'USD' } : {}),
    ...(field.type === 'percent' ? { description: field.help ?? 'in points: 12 is 12 %' } : {}),
  }
}
