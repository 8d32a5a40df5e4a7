import { FIELD_TYPES, type FieldType } from '#core/outline/field-kinds.ts'
import { Plus, X } from 'lucide-react'
import { useState } from 'react'
import { type Field } from '#core/outline/field.ts'
import { nameFromColumn } from '#core/mapping/from-columns.ts'
import { PLURALS, type RecordKind } from '#core/records/kinds.ts'
import { useCall } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Input, Select } from '#web/parts/input.tsx'
import { Form } from '#web/parts/form/form.tsx'

/** Fields that people add to a kind of record, each with its type. */
export function FieldsForm({
  kind,
  fields,
  open,
  onClose,
}: {
  readonly kind: RecordKind
  readonly fields: readonly Field[]
  readonly open: boolean
  readonly onClose: () => void
}) {
  return (
    <Dialog title={`Fields of ${PLURALS[kind]}`} open={open} onClose={onClose}>
      <FieldRows kind={kind} before={fields} onClose={onClose} />
    </Dialog>
  )
}

function FieldRows({
  kind,
  before,
  onClose,
}: {
  readonly kind: RecordKind
  readonly before: readonly Field[]
  readonly onClose: () => void
}) {
  const [fields, setFields] = useState(before)
  const save = useCall('saveRecordFields', onClose)
  const put = (at: number, change: Partial<Field>) =>
    setFields(fields.map((field, i) => (i === at ? { ...field, ...change } : field)))
  return (
    <Form
      entry={{
        submit: (event) => {
          event.preventDefault()
          save.mutate({ params: { kind }, body: { fields } })
        },
        busy: save.isPending,
        refusal: null,
      }}
      submit="Save fields"
      onClose={onClose}
    >
      <ul className="flex flex-col gap-1.5">
        {fields.map((field, i) => (
          <li key={i} className="grid grid-cols-[1fr_8rem_1fr_auto] items-center gap-2">
            <Input
              aria-label={`Label of field ${i + 1}`}
              value={field.label}
              onChange={(event) =>
                put(i, {
                  label: event.target.value,
                  ...(before.includes(field) ? {} : { name: nameFromColumn(event.target.value) }),
                })
              }
            />
            <Select
              aria-label={`Type of ${field.label}`}
              value={field.type}
              onChange={(event) => put(i, { type: event.target.value as FieldType })}
            >
              {FIELD_TYPES.filter((type) => type !== 'list').map((type) => (
                <option key={type}>{type}</option>
              ))}
            </Select>
            {field.type === 'choice' ? (
              <Input
                aria-label={`Choices of ${field.label}`}
                placeholder="choices, with commas between"
                value={field.choices?.join(', ') ?? ''}
                onChange={(event) =>
                  put(i, { choices: event.target.value.split(',').map((choice) => choice.trim()) })
                }
              />
            ) : (
              <span className="truncate text-xs text-soft">{field.name}</span>
            )}
            <button
              type="button"
              aria-label={`Drop ${field.label}`}
              className="p-1 text-soft hover:text-ink"
              onClick={() => setFields(fields.toSpliced(i, 1))}
            >
              <X size={14} />
            </button>
          </li>
        ))}
      </ul>
      <Button
        kind="quiet"
        className="mt-2"
        onClick={() =>
          setFields([
            ...fields,
            { name: `field_${fields.length + 1}`, label: 'New field', type: 'text', required: false },
          ])
        }
      >
        <Plus size={13} /> Field
      </Button>
      <p className="mt-2 text-xs text-soft">
        What records have in a field that is dropped stays with them, unseen, and comes back with the field.
      </p>
    </Form>
  )
}
