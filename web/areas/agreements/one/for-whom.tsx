import { Check, PenLine } from 'lucide-react'
import { useState } from 'react'
import { isMadeOf } from '#contract/one-agreement.ts'
import { RECORD_KINDS } from '#core/records/kinds.ts'
import { useAnswer } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { PickList } from '#web/parts/pick-list.tsx'
import { useSettled } from '#web/parts/use-settled.ts'
import type { MadeOf } from './use-one-agreement.ts'

/** Milliseconds after the last key that the records are looked for. */
const PAUSE = 80

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

/** Records by their names, or nearly so; where nothing is written, those that were changed last. */
function useFound(q: string) {
  const { data = [] } = useAnswer('search', { query: { q, kinds: 'customer,deal,contact' } }, { keep: true })
  return data.flatMap(({ kind, id, label, of }) => {
    const known = RECORD_KINDS.find((each) => each === kind)
    return known && isMadeOf(known)
      ? [{ kind: known, id, name: label, hint: of ? `${kind} of ${of}` : kind }]
      : []
  })
}
