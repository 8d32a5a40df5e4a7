import * as v from 'valibot'
import type { Field } from '#core/outline/field.ts'
import { PLURALS, type RecordKind } from '#core/records/kinds.ts'
import { call } from '#web/api/client.ts'
import { Dialog } from '#web/parts/dialog.tsx'
import { text } from '#web/parts/form/entries.ts'
import { SelectField } from '#web/parts/form/fields.tsx'
import { Form } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import { useNotice } from '#web/api/notices.tsx'
import { count } from '#web/parts/signs/when.tsx'
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
  const entry = useEntry({
    schema: v.object({ name: v.string(), value: text(5000) }),
    start: { name: settable[0]?.name ?? '', value: '' },
    send: ({ name, value }) =>
      call('changeRecords', { params: { kind }, body: { ids, data: { [name]: value || null } } }),
    onDone: ({ changed }) => {
      say(`${count(changed)} ${PLURALS[kind]} changed.`)
      entry.set('value', '')
      onClose()
    },
  })
  const value = entry.value('value')
  const field = settable.find(({ name }) => name === entry.value('name'))
  return (
    <Dialog
      title={`Change ${count(ids?.length ?? 0)} ${PLURALS[kind]}`}
      open={ids !== null}
      onClose={onClose}
    >
      <Form entry={entry} submit={`Change ${PLURALS[kind]}`} onClose={onClose}>
        <SelectField
          label="Field"
          of={entry.at('name')}
          options={settable.map(({ name, label }) => [name, label] as const)}
        />
        {field && (
          <FieldInput
            field={field}
            label="New value"
            value={value}
            onChange={(entered) => entry.set('value', entered)}
          />
        )}
        <p className="text-sm text-soft">
          {value.trim() ? 'The present values are replaced.' : 'Without a value the field is emptied.'}
        </p>
      </Form>
    </Dialog>
  )
}
