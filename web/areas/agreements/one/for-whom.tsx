import { Check, PenLine } from 'lucide-react'
import { useState } from 'react'
import { useAnswer } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { PickList } from '#web/parts/pick-list.tsx'
import { useSettled } from '#web/parts/use-settled.ts'
import type { MadeOf } from './use-one-agreement.ts'

/** Milliseconds after the last key that the records are looked for. */
const PAUSE = 150
const SOME = '8'

/** Finds the record that an agreement is for, or has its values typed. */
export function ForWhom({
  chosen,
  focus,
  onChoose,
}: {
  readonly chosen: MadeOf | null | undefined
  /** The rest is chosen: this is what comes next. */
  readonly focus: boolean
  readonly onChoose: (of: MadeOf | null) => void
}) {
  const [text, setText] = useState('')
  const search = useSettled(text.trim(), PAUSE)
  const found = useFound(search)
  return (
    <>
      <h2 className="mb-2 font-serif text-base font-semibold">For whom</h2>
      <PickList
        label="Customer, contact or deal"
        placeholder="Find a customer, contact or deal"
        focused={focus}
        picks={found.map(({ id, name, hint }) => ({ value: id, label: name, hint }))}
        chosen={chosen?.id ?? null}
        text={text}
        none={search ? 'No record has this name.' : 'No records yet: type the values, or add records first.'}
        onText={setText}
        onChoose={(value) => {
          const record = found.find(({ id }) => id === value)
          if (record) onChoose({ kind: record.kind, id: value })
        }}
      />
      <p className="mt-4 flex items-center gap-3 text-sm text-soft">
        Without a record:{' '}
        <Button onClick={() => onChoose(null)} aria-pressed={chosen === null}>
          {chosen === null ? (
            <Check size={14} className="text-petrol" aria-hidden />
          ) : (
            <PenLine size={14} aria-hidden />
          )}
          Type the values
        </Button>
      </p>
    </>
  )
}

/** Records by their names, customers first. */
function useFound(search: string) {
  const asked = { query: { search, limit: SOME } }
  const keep = { keep: true }
  const customers = useAnswer('records', { params: { kind: 'customer' }, ...asked }, keep).data?.records ?? []
  const contacts = useAnswer('records', { params: { kind: 'contact' }, ...asked }, keep).data?.records ?? []
  const deals = useAnswer('records', { params: { kind: 'deal' }, ...asked }, keep).data?.records ?? []
  return [
    ...customers.map(({ id, name }) => ({ kind: 'customer' as const, id, name, hint: 'customer' })),
    ...deals.map(({ id, name, customer }) => ({
      kind: 'deal' as const,
      id,
      name,
      hint: customer ? `deal of ${customer.name}` : 'deal',
    })),
    ...contacts.map(({ id, name, customer }) => ({
      kind: 'contact' as const,
      id,
      name,
      hint: customer ? `contact of ${customer.name}` : 'contact',
    })),
  ]
}
