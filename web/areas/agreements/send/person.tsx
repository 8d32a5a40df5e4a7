import { useId } from 'react'
import * as v from 'valibot'
import type { PartyKind } from '#core/ceremony/parties.ts'
import { useAnswer } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { email, filled } from '#web/parts/form/entries.ts'
import { TextField } from '#web/parts/form/fields.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import { useSettled } from '#web/parts/use-settled.ts'

const personSchema = v.object({ name: filled('Enter a name.'), email, phone: v.string() })

const textOf = (value: unknown) => (typeof value === 'string' ? value : '')

/** Names somebody: by typing, or from the contacts of the record book as one types. */
export function Person({
  kind,
  onAdd,
  onCancel,
}: {
  readonly kind: PartyKind
  readonly onAdd: (person: { name: string; email: string; phone: string }) => void
  readonly onCancel: () => void
}) {
  const list = useId()
  const entry = useEntry({
    schema: personSchema,
    start: { name: '', email: '', phone: '' },
    send: (person) => Promise.resolve(person),
    onDone: onAdd,
  })
  const typed = entry.value('name').trim()
  const search = useSettled(typed, 200)
  const contacts = useAnswer(
    'records',
    { params: { kind: 'contact' }, query: { search, limit: '12' } },
    { enabled: search.length > 1, keep: true },
  )
  const known = search.length > 1 ? (contacts.data?.records ?? []) : []
  const name = entry.at('name')
  return (
    <form
      noValidate
      className="mt-2 grid grid-cols-[1fr_1fr_auto_auto] items-start gap-2 border-t border-hair pt-2"
      onSubmit={entry.submit}
    >
      <TextField
        label={kind === 'copy' ? 'Copy recipient' : 'Person who agrees'}
        of={{
          ...name,
          onChange: (event) => {
            const found = known.find((each) => each.name === (event.target as HTMLInputElement).value)
            if (found) {
              entry.set('email', textOf(found.data['email']))
              entry.set('phone', textOf(found.data['phone']))
            }
            return name.onChange(event)
          },
        }}
        autoFocus
        list={list}
      />
      <datalist id={list}>
        {known.map((each) => (
          <option key={each.id} value={each.name}>
            {textOf(each.data['email'])}
          </option>
        ))}
      </datalist>
      <TextField label="Email address" of={entry.at('email')} inputMode="email" />
      <Button className="mt-6" onClick={onCancel}>
        Cancel
      </Button>
      <Button kind="main" type="submit" className="mt-6">
        Add
      </Button>
    </form>
  )
}
