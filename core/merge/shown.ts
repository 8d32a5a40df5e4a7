import { type Field, type FieldValue, isItems, type RecordData } from '../outline/field.ts'
import { completeRecord, toValue } from '../outline/record.ts'
import { formatValue } from '../text/format.ts'
import type { ReadyTemplate } from './prepare.ts'

/** Values of a record, computed ones too, as each field's default format shows them; null where there is none. */
export function shownValues(
  ready: ReadyTemplate,
  data: RecordData,
  fields: Iterable<Field> = ready.fields.values(),
): Readonly<Record<string, string | null>> {
  const { data: complete } = completeRecord(ready.outline, data)
  return Object.fromEntries(
    [...fields].map((field) => [field.name, shown(ready, field, complete[field.name])]),
  )
}

function shown(ready: ReadyTemplate, field: Field, value: FieldValue | undefined): string | null {
  if (value === undefined) return null
  if (isItems(value)) return `${value.length} ${value.length === 1 ? 'item' : 'items'}`
  return formatValue(field, toValue(field, value), null, ready.content.language)
}
