import { useRef, useState } from 'react'
import type { Field } from '#core/outline/field.ts'
import type { RecordKind } from '#core/records/kinds.ts'
import { useCall } from '#web/api/client.ts'
import { useEditing } from './editing.ts'
import { FieldInput } from './field-input.tsx'
import { type BookRecord, shownValue } from './use-records.ts'

/** Milliseconds in which a second click makes a double one; a single one opens the record. */
const SECOND_CLICK = 230

interface Props {
  readonly kind: RecordKind
  readonly field: Field
  readonly record: BookRecord
  readonly onOpen: () => void
}

/** A value in a list, changed in its place: a double click or `e` begins. */
export function InlineCell({ field, record, onOpen, kind }: Props) {
  const { at, begin } = useEditing()
  const opening = useRef<ReturnType<typeof setTimeout> | null>(null)
  if (at?.record === record.id && at.field === field.name)
    return <CellInput kind={kind} field={field} record={record} />
  return (
    <span
      className="block min-h-5 cursor-text truncate"
      title="Double click, or e, to change"
      onClick={(event) => {
        event.stopPropagation()
        if (opening.current) clearTimeout(opening.current)
        opening.current = setTimeout(onOpen, SECOND_CLICK)
      }}
      onDoubleClick={(event) => {
        event.stopPropagation()
        if (opening.current) clearTimeout(opening.current)
        begin(record.id, field.name)
      }}
    >
      {shownValue(field, record.data[field.name])}
    </span>
  )
}

/** Enter and leaving keep, Tab goes on to the next field, Escape leaves it as it was. What is refused stays to be mended. */
function CellInput({ kind, field, record }: Omit<Props, 'onOpen'>) {
  const { end, step } = useEditing()
  const before = String(record.data[field.name] ?? '')
  const [text, setText] = useState(before)
  const then = useRef<() => void>(end)
  // A field that goes away loses the focus too: that is no second end.
  const gone = useRef(false)
  const leave = (next: () => void) => {
    gone.current = true
    next()
  }
  const save = useCall('saveRecord', () => leave(then.current))
  const keep = (next: () => void) => {
    if (save.isPending || gone.current) return
    if (text === before) return leave(next)
    then.current = next
    save.mutate({
      params: { kind, id: record.id },
      body: {
        version: record.version,
        customer: record.customer?.id ?? null,
        data: { ...record.data, [field.name]: text },
      },
    })
  }
  return (
    <span onClick={(event) => event.stopPropagation()}>
      <FieldInput
        field={field}
        label={`${field.label} of ${record.name}`}
        value={text}
        autoFocus
        disabled={save.isPending}
        invalid={save.isError}
        onChange={setText}
        onBlur={() => save.isError || keep(() => end(false))}
        onKeyDown={(event) => {
          event.stopPropagation()
          if (event.key === 'Enter') keep(end)
          else if (event.key === 'Escape') leave(end)
          else if (event.key === 'Tab') {
            event.preventDefault()
            keep(() => step(event.shiftKey ? -1 : 1))
          }
        }}
      />
    </span>
  )
}
