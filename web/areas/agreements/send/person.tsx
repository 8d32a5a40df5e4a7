import { useId, useState } from 'react'
import type { PartyKind } from '#core/ceremony/parties.ts'
import { useAnswer } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { Input, Labelled } from '#web/parts/input.tsx'
import { useSettled } from '#web/parts/use-settled.ts'

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
  const [name, setName] = useState('')
  const [email, setEmail] = useState('')
  const [phone, setPhone] = useState('')
  const search = useSettled(name.trim(), 200)
  const contacts = useAnswer(
    'records',
    { params: { kind: 'contact' }, query: { search, limit: '12' } },
    { enabled: search.length > 1, keep: true },
  )
  const known = search.length > 1 ? (contacts.data?.records ?? []) : []
  const textOf = (value: unknown) => (typeof value === 'string' ? value : '')
  const take = (typed: string) => {
    setName(typed)
    const found = known.find((each) => each.name === typed)
    if (!found) return
    setEmail(textOf(found.data['email']))
    setPhone(textOf(found.data['phone']))
  }
  return (
    <form
      className="mt-2 grid grid-cols-[1fr_1fr_auto_auto] items-end gap-2 border-t border-hair pt-2"
      onSubmit={(event) => {
        event.preventDefault()
        if (name.trim() && email.trim()) onAdd({ name: name.trim(), email: email.trim(), phone })
      }}
    >
      <Labelled label={kind === 'copy' ? 'Who gets a copy' : 'Who has to agree'}>
        <Input autoFocus list={list} value={name} onChange={(event) => take(event.target.value)} />
      </Labelled>
      <datalist id={list}>
        {known.map((each) => (
          <option key={each.id} value={each.name}>
            {textOf(each.data['email'])}
          </option>
        ))}
      </datalist>
      <Labelled label="Mail address">
        <Input inputMode="email" value={email} onChange={(event) => setEmail(event.target.value)} />
      </Labelled>
      <Button onClick={onCancel}>Not now</Button>
      <Button kind="main" type="submit" disabled={!(name.trim() && email.trim())}>
        Add
      </Button>
    </form>
  )
}
