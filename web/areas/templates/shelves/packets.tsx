import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import * as v from 'valibot'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { filled } from '#web/parts/form/entries.ts'
import { TextField } from '#web/parts/form/fields.tsx'
import { Refusal } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import { OrderedNames } from '#web/parts/ordered-names.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'

type Packet = Answer<Api['packets']>[number]

/** Templates that are made of one record together, in an order, and signed in one sitting. */
export default function Packets() {
  const packets = useAnswer('packets')
  const writer = useMay('templates')
  const [search] = useSearchParams()
  const [open, setOpen] = useState<string | 'new' | null>(search.get('open'))
  if (packets.isPending) return <Loading />
  if (packets.isError) return <Failed error={packets.error} retry={() => void packets.refetch()} />
  const shown = packets.data.find(({ id }) => id === open)
  return (
    <div className="flex h-full flex-col">
      <div className="flex items-center gap-4 px-4 pt-4 pb-3">
        <div>
          <Link to="/templates" className="block text-xs text-petrol hover:underline">
            Templates
          </Link>
          <h1 className="text-xl">Packets</h1>
        </div>
        <p className="self-end text-sm text-soft">
          Several templates from one record: each value asked once, one number, one signing.
        </p>
        {writer && (
          <Button kind="main" className="ml-auto" onClick={() => setOpen('new')}>
            New packet
          </Button>
        )}
      </div>
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
        {packets.data.length === 0 ? (
          <Empty title="No packets yet">
            Put templates together that go out together, such as an agreement and its price schedule.
          </Empty>
        ) : (
          <ul className="min-h-0 overflow-auto border-t border-hair" aria-label="Packets">
            {packets.data.map((packet) => (
              <li key={packet.id} className="border-b border-hair">
                <button
                  className={`w-full px-4 py-2 text-left ${open === packet.id ? 'bg-petrol-wash' : 'hover:bg-wash'}`}
                  onClick={() => setOpen(packet.id)}
                >
                  <span className="font-semibold">{packet.name}</span>
                  <span className="block text-sm text-soft">
                    {packet.templates.map(({ name }) => name).join(', ')}
                  </span>
                  {packet.problem && <span className="block text-sm text-brick">{packet.problem}</span>}
                </button>
              </li>
            ))}
          </ul>
        )}
        {(shown ?? open === 'new') && (
          <PacketForm
            key={open}
            packet={shown ?? null}
            editable={writer}
            onDone={(id) => setOpen(id)}
            onClose={() => setOpen(null)}
          />
        )}
      </div>
    </div>
  )
}

const packetSchema = v.object({ name: filled('Enter a name.'), templates: v.array(v.string()) })

function PacketForm({
  packet,
  editable,
  onDone,
  onClose,
}: {
  readonly packet: Packet | null
  readonly editable: boolean
  readonly onDone: (id: string) => void
  readonly onClose: () => void
}) {
  const say = useNotice()
  const templates = useAnswer('templates')
  const entry = useEntry({
    schema: packetSchema,
    start: { name: packet?.name ?? '', templates: packet?.templates.map(({ id }) => id) ?? [] },
    async send(body) {
      if (!packet) return (await call('makePacket', { body })).id
      await call('savePacket', { params: { id: packet.id }, body })
      return packet.id
    },
    onDone: (id, { name }) => {
      say(`Packet “${name}” saved. New runs use it as it is now.`)
      onDone(id)
    },
  })
  const parts = entry.value('templates')
  const drop = useMutation({
    mutationFn: () => call('dropPacket', { params: { id: packet!.id } }),
    onSuccess: onClose,
    onError: (error) => say(problemText(error), 'fault'),
  })
  const names = new Map(templates.data?.map((each) => [each.id, each.name]))
  return (
    <form
      aria-label={packet?.name ?? 'New packet'}
      className="min-h-0 overflow-auto border-t border-l border-hair px-5 py-3"
      onSubmit={entry.submit}
    >
      <fieldset disabled={!editable}>
        <TextField label="Name" of={entry.at('name')} maxLength={200} />
        <p className="mt-4 mb-1 text-sm font-semibold">Documents in order</p>
        <OrderedNames
          ids={parts}
          nameOf={(id) => names.get(id) ?? ''}
          onChange={(ids) => entry.set('templates', [...ids])}
        />
        <select
          aria-label="Add a template"
          className="mt-2 rounded-sm border border-hair bg-sheet px-2 py-1 text-sm"
          value=""
          onChange={(event) => event.target.value && entry.set('templates', [...parts, event.target.value])}
        >
          <option value="">Add a template …</option>
          {templates.data
            ?.filter(({ id }) => !parts.includes(id))
            .map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
                {each.latestEdition === null ? ', not published' : ''}
              </option>
            ))}
        </select>
        <p className="mt-3 text-xs text-soft">
          The first names the agreement and says how it is sent. Signers are the same people wherever their
          role has the same name.
        </p>
        <Refusal entry={entry} className="mt-3" />
        <div className="mt-4 flex gap-2">
          <Button kind="main" type="submit" busy={entry.busy} disabled={parts.length < 2}>
            Save packet
          </Button>
          <Button kind="quiet" onClick={onClose}>
            Close
          </Button>
          {packet && (
            <Link
              to={`/templates/packets/${packet.id}/afterwards`}
              className="self-center text-sm text-petrol underline"
            >
              Next steps
            </Link>
          )}
          {packet && editable && (
            <Button kind="quiet" className="ml-auto" busy={drop.isPending} onClick={() => drop.mutate()}>
              Delete packet
            </Button>
          )}
        </div>
      </fieldset>
    </form>
  )
}
