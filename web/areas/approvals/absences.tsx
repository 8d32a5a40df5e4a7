import { Trash2 } from 'lucide-react'
import * as v from 'valibot'
import { call, useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay, usePerson } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Hint } from '#web/parts/hint.tsx'
import { filled, orNone } from '#web/parts/form/entries.ts'
import { SelectField, TextField } from '#web/parts/form/fields.tsx'
import { Form } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import { Labelled, Select } from '#web/parts/input.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'

/** Absences with their stand-ins, emails about approvals, and colleagues who were deactivated. */
export default function Absences() {
  const absences = useAnswer('absences')
  const may = useMay('rules')
  const maySettle = useMay('settings')
  const say = useNotice()
  const drop = useCall('dropAbsence', () => say('Absence removed.'))
  const mail = useCall('setApprovalMail', () => say('Saved.'))
  const left = useCall('setLeft')
  if (absences.isPending) return <Loading />
  if (absences.isError) return <Failed error={absences.error} retry={() => void absences.refetch()} />
  const { data } = absences
  return (
    <div className="h-full overflow-auto px-4 pt-4 pb-10">
      <h1 className="flex items-center gap-2 text-xl">
        Absences <Hint topic="stand-ins" />
      </h1>
      <div className="mt-3 grid max-w-5xl gap-8 md:grid-cols-[1fr_20rem]">
        <section aria-label="Absences">
          {data.absences.length === 0 && <p className="text-sm text-soft">No absences are planned.</p>}
          <ul className="text-sm">
            {data.absences.map(({ id, person, from, to, standIn, mine }) => (
              <li key={id} className="flex items-center gap-3 border-b border-hair/60 py-1.5">
                <span className="w-40 font-semibold">{person.name}</span>
                <span className="tabular-nums">
                  {from === to ? from : `${from} to ${to}`}
                  {from <= data.today && <span className="text-ochre">, away now</span>}
                </span>
                <span className="ml-auto">
                  {standIn ? `${standIn.name} stands in` : <span className="text-brick">no stand-in</span>}
                </span>
                {(mine || may) && (
                  <button
                    className="p-1 text-soft hover:text-brick"
                    aria-label={`Remove the absence of ${person.name}`}
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
              <h2 className="mt-8 text-base">Colleagues</h2>
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
                      {gone ? 'Reactivate' : 'Deactivate'}
                    </Button>
                  </li>
                ))}
              </ul>
            </>
          )}
        </section>
        <aside className="flex flex-col gap-6">
          <NewAbsence today={data.today} colleagues={data.colleagues} mayForOthers={may} />
          <Labelled label="Emails about approvals">
            <Select
              value={data.mail}
              onChange={(event) => mail.mutate({ body: { mail: event.target.value as 'each' | 'daily' } })}
            >
              <option value="each">one for each approval</option>
              <option value="daily">one a day</option>
            </Select>
          </Labelled>
        </aside>
      </div>
    </div>
  )
}

const absenceSchema = v.object({
  person: v.string(),
  from: filled('Choose the first day.'),
  to: filled('Choose the last day.'),
  standIn: orNone,
})

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
  const entry = useEntry({
    schema: absenceSchema,
    start: { person: me.id, from: today, to: today, standIn: '' },
    send: (body) => call('addAbsence', { body }),
    onDone: () => {
      say('Absence saved. Approvals go to the stand-in in that time.')
      entry.set('standIn', '')
    },
  })
  const person = entry.value('person')
  return (
    <Form
      entry={entry}
      label="Add an absence"
      submit="Save absence"
      className="border border-hair bg-sheet p-3"
    >
      <h2 className="text-base">Add an absence</h2>
      {mayForOthers && (
        <SelectField
          label="Who"
          of={entry.at('person')}
          options={colleagues
            .filter(({ left }) => !left)
            .map(({ id, name }) => [id, id === me.id ? `${name} (you)` : name] as const)}
        />
      )}
      <div className="grid grid-cols-2 gap-2">
        <TextField label="From" of={entry.at('from')} type="date" min={today} />
        <TextField label="Until" of={entry.at('to')} type="date" min={entry.value('from')} />
      </div>
      <SelectField
        label="Stand-in"
        of={entry.at('standIn')}
        options={[
          ['', 'nobody'],
          ...colleagues
            .filter(({ id, approves, left }) => id !== person && approves && !left)
            .map(({ id, name }) => [id, name] as const),
        ]}
      />
    </Form>
  )
}
