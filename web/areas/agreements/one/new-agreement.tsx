import { useSearchParams } from 'react-router'
import { useAnswer } from '#web/api/client.ts'
import { useMay } from '#web/frame/person.ts'
import { isMadeOf } from '#contract/one-agreement.ts'
import { RECORD_KINDS } from '#core/records/kinds.ts'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { ForWhom } from './for-whom.tsx'
import { Making } from './making.tsx'
import type { MadeOf } from './use-one-agreement.ts'
import { type Choice, choicesOf, WhatChoice, WhatSelect } from './what-choice.tsx'

/** Stands in the address for values that are typed, without a record. */
const TYPED = 'typed'

/** Of an address: a record (`customer/…`), typed values (null), or neither yet. */
function whom(text: string | null): MadeOf | null | undefined {
  if (text === TYPED) return null
  const [kind, id] = (text ?? '').split('/')
  const known = RECORD_KINDS.find((each) => each === kind)
  return known && isMadeOf(known) && id ? { kind: known, id } : undefined
}

/** A new agreement, wherever one comes from: what it is made from and for whom are chosen, then it stands with its pages. */
export default function NewAgreementPage() {
  const [search, setSearch] = useSearchParams()
  const of = whom(search.get('for'))
  // Of a record, those first that it feeds best.
  const templates = useAnswer('templates', of ? { query: { record: of.id } } : {}, { keep: true })
  const packets = useAnswer('packets')
  const may = useMay('runs')
  if (!may)
    return <Empty title="You do not make agreements here">Your role has no right to make agreements.</Empty>
  if (templates.isPending || packets.isPending) return <Loading />
  if (templates.isError) return <Failed error={templates.error} retry={() => void templates.refetch()} />
  if (packets.isError) return <Failed error={packets.error} retry={() => void packets.refetch()} />
  const choices = choicesOf(templates.data, packets.data)
  const what =
    choices.find(({ value }) => value === search.get('of')) ?? (search.has('best') ? choices[0] : undefined)
  const choose = (change: Readonly<Record<string, string>>) => {
    const next = new URLSearchParams(search)
    for (const [name, value] of Object.entries(change))
      if (value) next.set(name, value)
      else next.delete(name)
    setSearch(next)
  }
  if (what && of !== undefined)
    return (
      <Making
        key={`${of ? `${of.kind}/${of.id}` : TYPED} ${what.value}`}
        of={of}
        what={what.value}
        choice={
          <WhatSelect
            choices={choices}
            chosen={what.value}
            onChoose={(value) => choose({ of: value, best: '' })}
          />
        }
        onChangeWhom={() => choose({ of: what.value, for: '', best: '' })}
      />
    )
  return <Choosing {...{ choices, what, of }} onChoose={choose} />
}

function Choosing({
  choices,
  what,
  of,
  onChoose,
}: {
  readonly choices: readonly Choice[]
  readonly what: Choice | undefined
  readonly of: MadeOf | null | undefined
  readonly onChoose: (change: Readonly<Record<string, string>>) => void
}) {
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-12 shrink-0 items-center gap-3 border-b border-hair px-4">
        <h1 className="text-lg">New agreement</h1>
        <span role="status" className="text-sm text-soft">
          {what
            ? `${what.name}: choose for whom`
            : of === undefined
              ? 'Choose what it is made from, and for whom'
              : 'Choose what it is made from'}
        </span>
      </div>
      <div className="grid min-h-0 flex-1 grid-cols-2 max-md:grid-cols-1 max-md:overflow-auto">
        <section aria-label="What" className="min-h-0 overflow-auto px-4 pt-3 pb-6">
          <WhatChoice
            choices={choices}
            chosen={what?.value ?? null}
            record={of?.id ?? null}
            onChoose={(value) => onChoose({ of: value })}
          />
        </section>
        <section
          aria-label="For whom"
          className="min-h-0 overflow-auto border-l border-hair px-4 pt-3 pb-6 max-md:border-t max-md:border-l-0"
        >
          <ForWhom
            chosen={of}
            focus={what !== undefined}
            onChoose={(value) => onChoose({ for: value === null ? TYPED : `${value.kind}/${value.id}` })}
          />
        </section>
      </div>
    </div>
  )
}
