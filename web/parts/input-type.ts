import type { FieldType } from '#core/outline/field.ts'

const TYPES: Partial<Record<FieldType, string>> = {
  date: 'date',
  time: 'time',
  'date and time': 'datetime-local',
}

/** The browser's kind of entry for a field of this type. */
export const inputType = (type: string | undefined): string => TYPES[type as FieldType] ?? 'text'
