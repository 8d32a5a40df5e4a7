import { useRef, useState } from 'react'
import type { Field } from '#core/outline/field.ts'
import type { RecordKind } from '#core/records/kinds.ts'
import { FieldInput } from './field-input.tsx'
import { shownValue, useRecordCall } from './use-records.ts'
import type { BookRecord } from './use-records.ts'

/** Milliseconds in which a second click makes a double one; a single one opens the record. */
const SECOND_CLICK = 230

/** A value in a list, changed in its place: a double click begins, Enter keeps, Escape leaves it. */
export function InlineCell({
  kind,
  field,
  record,
  onOpen,
}: {
  readonly kind: RecordKind
  readonly field: Field
  readonly record: BookRecord
  readonly onOpen: () => void
}) {
  const opening = useRef<ReturnType<typeof setTimeout> | null>(null)
  const before = record.data[field.name]
  const [text, setText] = useState<string | null>(null)
  const save = useRecordCall('saveRecord', () => setText(null))
  const keep = () => {
    if (text === null || text === String(before ?? '')) return setText(null)
    save.mutate({
      params: { kind, id: record.id },
      body: {
        version: record.version,
        customer: record.customer?.id ?? null,
        data: { ...record.data, [field.name]: text },
      },
    })
  }
  if (text === null)
    return (
      <span
        className="block min-h-5 cursor-text truncate"
        title="Double click to change"
        onClick={(event) => {
          event.stopPropagation()
          if (opening.current) clearTimeout(opening.current)
          opening.current = setTimeout(onOpen, SECOND_CLICK)
        }}
        onDoubleClick={(event) => {
          event.stopPropagation()
          if (opening.current) clearTimeout(opening.current)
          setText(String(before ?? ''))
        }}
      >
        {shownValue(field, before)}
      </span>
    )
  return (
    <span onClick={(event) => event.stopPropagation()}>
      <FieldInput
        field={field}
        label={`${field.label} of ${record.name}`}
        value={text}
        autoFocus
        disabled={save.isPending}
        onChange={setText}
        onBlur={keep}
        onKeyDown={(event) => {
          event.stopPropagation()
          if (event.key === 'Enter') keep()
          if (event.key === 'Escape') setText(null)
        }}
      />
    </span>
  )
}
