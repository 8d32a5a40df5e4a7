import { useState } from 'react'
import type { Field } from '#core/outline/field.ts'
import { PLURALS, type RecordKind } from '#core/records/kinds.ts'
import { useCall } from '#web/api/client.ts'
import { Dialog } from '#web/parts/dialog.tsx'
import { Select } from '#web/parts/input.tsx'
import { useNotice } from '#web/api/notices.tsx'
import { count } from '#web/parts/signs/when.tsx'
import { FormEnd } from '#web/parts/form-end.tsx'
import { FieldInput } from './field-input.tsx'

/** Sets one value in many records; all of them or none. */
export function BulkEdit({
  kind,
  fields,
  ids,
  onClose,
}: {
  readonly kind: RecordKind
  readonly fields: readonly Field[]
  readonly ids: readonly string[] | null
  readonly onClose: () => void
}) {
  const say = useNotice()
  const settable = fields.filter(
    ({ type, name, computed }) => type !== 'list' && name !== 'name' && !computed,
  )
  const [name, setName] = useState(settable[0]?.name ?? '')
  const [value, setValue] = useState('')
  const field = settable.find((each) => each.name === name)
  const save = useCall('changeRecords', ({ changed }) => {
    say(`${count(changed)} ${PLURALS[kind]} changed.`)
    setValue('')
    onClose()
  })
  return (
    <Dialog
      title={`Change ${count(ids?.length ?? 0)} ${PLURALS[kind]}`}
      open={ids !== null}
      onClose={onClose}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          save.mutate({ params: { kind }, body: { ids, data: { [name]: value.trim() || null } } })
        }}
      >
        <Select aria-label="Field to set" value={name} onChange={(event) => setName(event.target.value)}>
          {settable.map((each) => (
            <option key={each.name} value={each.name}>
              {each.label}
            </option>
          ))}
        </Select>
        {field && <FieldInput field={field} label="Its new value" value={value} onChange={setValue} />}
        <p className="text-sm text-soft">
          {value.trim() ? 'What stands there now is replaced.' : 'Without a value the field is emptied.'}
        </p>
        <FormEnd label="Set" busy={save.isPending} onClose={onClose} />
      </form>
    </Dialog>
  )
}
