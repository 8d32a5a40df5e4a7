import { Trash2 } from 'lucide-react'
import { useState } from 'react'
import { useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay, usePerson } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Hint } from '#web/parts/hint.tsx'
import { Input, Labelled, Select } from '#web/parts/input.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'

/** Who is away and who decides meanwhile, how one hears of approvals, and who does not work here any more. */
export default function Absences() {
  const absences = useAnswer('absences')
  const may = useMay('rules')
  const maySettle = useMay('settings')
  const say = useNotice()
  const drop = useCall('dropAbsence', () => say('The absence is taken back.'))
  const mail = useCall('setApprovalMail', () => say('Kept.'))
  const left = useCall('setLeft')
  if (absences.isPending) return <Loading />
  if (absences.isError) return <Failed error={absences.error} retry={() => void absences.refetch()} />
  const { data } = absences
  return (
    <div className="h-full overflow-auto px-4 pt-4 pb-10">
      <h1 className="flex items-center gap-2 text-xl">
        Who is away <Hint topic="stand-ins" />
      </h1>
      <div className="mt-3 grid max-w-5xl gap-8 md:grid-cols-[1fr_20rem]">
        <section aria-label="Absences">
          {data.absences.length === 0 && (
            <p className="text-sm text-soft">Nobody is away, and nobody will be.</p>
          )}
          <ul className="text-sm">
            {data.absences.map(({ id, person, from, to, standIn, mine }) => (
              <li key={id} className="flex items-center gap-3 border-b border-hair/60 py-1.5">
                <span className="w-40 font-semibold">{person.name}</span>
                <span className="tabular-nums">
                  {from === to ? from : `${from} to ${to}`}
                  {from <= data.today && <span className="text-ochre">, away now</span>}
                </span>
                <span className="ml-auto">
                  {standIn ? (
                    `${standIn.name} stands in`
                  ) : (
                    <span className="text-brick">nobody stands in</span>
                  )}
                </span>
                {(mine || may) && (
                  <button
                    className="p-1 text-soft hover:text-brick"
                    aria-label={`Take back the absence of ${person.name}`}
                    onClick={() => drop.mutate({ params: { id } })}
                  >
                    <Trash2 size={14} />
                  </button>
                )}
              </li>
            ))}
          </ul>
          {maySettle && (
            <>
              <h2 className="mt-8 text-base">Who works here</h2>
              <ul className="mt-1 text-sm">
                {data.colleagues.map(({ id, name, post, left: gone }) => (
                  <li key={id} className="flex items-center gap-3 border-b border-hair/60 py-1">
                    <span className={`w-40 font-semibold ${gone ? 'text-soft line-through' : ''}`}>
                      {name}
                    </span>
                    <span className="text-soft">{post}</span>
                    <Button
                      kind="quiet"
                      className="ml-auto"
                      onClick={() => left.mutate({ params: { id }, body: { left: !gone } })}
                    >
                      {gone ? 'Works here again' : 'Has left'}
                    </Button>
                  </li>
                ))}
              </ul>
            </>
          )}
        </section>
        <aside className="flex flex-col gap-6">
          <NewAbsence today={data.today} colleagues={data.colleagues} mayForOthers={may} />
          <Labelled label="How you hear of approvals">
            <Select
              value={data.mail}
              onChange={(event) => mail.mutate({ body: { mail: event.target.value as 'each' | 'daily' } })}
            >
              <option value="each">a mail for each</option>
              <option value="daily">one mail a day</option>
            </Select>
          </Labelled>
        </aside>
      </div>
    </div>
  )
}

function NewAbsence({
  today,
  colleagues,
  mayForOthers,
}: {
  readonly today: string
  readonly colleagues: readonly { id: string; name: string; approves: boolean; left: boolean }[]
  readonly mayForOthers: boolean
}) {
  const me = usePerson()
  const say = useNotice()
  const [person, setPerson] = useState(me.id)
  const [from, setFrom] = useState(today)
  const [to, setTo] = useState(today)
  const [standIn, setStandIn] = useState('')
  const add = useCall('addAbsence', () => {
    say('Kept. What waits for an approval goes to the stand-in in that time.')
    setStandIn('')
  })
  return (
    <form
      aria-label="Say that somebody is away"
      className="flex flex-col gap-3 border border-hair bg-sheet p-3"
      onSubmit={(event) => {
        event.preventDefault()
        add.mutate({ body: { person, from, to, standIn: standIn || null } })
      }}
    >
      {mayForOthers && (
        <Labelled label="Who">
          <Select value={person} onChange={(event) => setPerson(event.target.value)}>
            {colleagues
              .filter((each) => !each.left)
              .map(({ id, name }) => (
                <option key={id} value={id}>
                  {id === me.id ? `${name} (you)` : name}
                </option>
              ))}
          </Select>
        </Labelled>
      )}
      <div className="grid grid-cols-2 gap-2">
        <Labelled label="From">
          <Input
            type="date"
            required
            min={today}
            value={from}
            onChange={(event) => setFrom(event.target.value)}
          />
        </Labelled>
        <Labelled label="Until">
          <Input type="date" required min={from} value={to} onChange={(event) => setTo(event.target.value)} />
        </Labelled>
      </div>
      <Labelled label="Who stands in">
        <Select value={standIn} onChange={(event) => setStandIn(event.target.value)}>
          <option value="">nobody</option>
          {colleagues
            .filter(({ id, approves, left }) => id !== person && approves && !left)
            .map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
        </Select>
      </Labelled>
      <Button kind="main" type="submit" busy={add.isPending} className="self-start">
        Keep
      </Button>
    </form>
  )
}
