import { feelTypeOf, type FieldType } from '#core/outline/field-kinds.ts'
import type { TypeName } from '#core/expression/values/value.ts'

const TYPES: Partial<Record<TypeName, string>> = {
  date: 'date',
  time: 'time',
  'date and time': 'datetime-local',
}

/** The browser's kind of entry for a field of this type. */
export const inputType = (type: FieldType | undefined): string => (type && TYPES[feelTypeOf(type)]) ?? 'text'
