import { Plus } from 'lucide-react'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { useAnswer, useCall } from '#web/api/client.ts'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { FormEnd } from '#web/parts/form-end.tsx'
import { OrderedNames } from '#web/parts/ordered-names.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { plural, When } from '#web/parts/signs/when.tsx'

/** Forms that outside people fill: what they make, whether they are open, and what waits. */
export default function IntakesPage() {
  const forms = useAnswer('intakes')
  const writer = useMay('templates')
  const [making, setMaking] = useState(false)
  if (forms.isPending) return <Loading />
  if (forms.isError) return <Failed error={forms.error} retry={() => void forms.refetch()} />
  return (
    <div className="flex h-full flex-col">
      <div className="flex items-center gap-4 px-4 pt-4 pb-3">
        <div>
          <Link to="/templates" className="block text-xs text-petrol hover:underline">
            Templates
          </Link>
          <h1 className="text-xl">Intake forms</h1>
        </div>
        <p className="self-end text-sm text-soft">
          People outside answer; the answers become a record and its agreements.
        </p>
        {writer && (
          <Button kind="main" className="ml-auto" onClick={() => setMaking(true)}>
            <Plus size={14} /> New form
          </Button>
        )}
      </div>
      {forms.data.length === 0 ? (
        <Empty title="No intake forms yet">
          Choose templates or a packet: each value that they need becomes a question, asked once.
        </Empty>
      ) : (
        <ul className="min-h-0 overflow-auto border-t border-hair" aria-label="Intake forms">
          {forms.data.map((form) => (
            <li key={form.id} className="border-b border-hair">
              <Link
                to={`/intakes/${form.id}`}
                className="grid grid-cols-[minmax(0,1.3fr)_minmax(0,1fr)_9rem_9rem_8rem] items-baseline gap-4 px-4 py-2 text-sm hover:bg-wash"
              >
                <span className="truncate font-semibold">{form.title}</span>
                <span className="truncate text-soft">
                  {form.problem ? <span className="text-brick">{form.problem}</span> : form.makes.join(', ')}
                </span>
                <span>
                  {form.open ? plural(form.open, 'open link') : <span className="text-soft">not open</span>}
                </span>
                <span>
                  {plural(form.answers, 'answer')}
                  {form.waiting > 0 && <span className="text-ochre">, {form.waiting} waiting</span>}
                </span>
                <span className="text-right text-soft">
                  <When at={form.changedAt} />
                </span>
              </Link>
            </li>
          ))}
        </ul>
      )}
      <Dialog title="A new intake form" open={making} onClose={() => setMaking(false)}>
        <StartForm onClose={() => setMaking(false)} />
      </Dialog>
    </div>
  )
}

function StartForm({ onClose }: { readonly onClose: () => void }) {
  const templates = useAnswer('templates')
  const packets = useAnswer('packets')
  const navigate = useNavigate()
  const make = useCall('makeIntake', ({ id }) => void navigate(`/intakes/${id}`))
  const [chosen, setChosen] = useState<readonly string[]>([])
  const [packet, setPacket] = useState('')
  const usable = templates.data?.filter(({ latestEdition, may }) => latestEdition !== null && may.use) ?? []
  const names = new Map(usable.map((each) => [each.id, each.name]))
  return (
    <form
      className="flex flex-col gap-4 text-sm"
      onSubmit={(event) => {
        event.preventDefault()
        make.mutate({ body: packet ? { packet } : { templates: chosen } })
      }}
    >
      <div>
        <p className="mb-1 font-semibold">What each answer becomes an agreement of</p>
        <OrderedNames ids={chosen} nameOf={(id) => names.get(id) ?? ''} onChange={setChosen} />
        <select
          aria-label="Add a template"
          className="mt-2 w-full rounded-sm border border-hair bg-sheet px-2 py-1"
          value=""
          disabled={packet !== '' || chosen.length >= 10}
          onChange={(event) => event.target.value && setChosen([...chosen, event.target.value])}
        >
          <option value="">Add a template …</option>
          {usable
            .filter(({ id }) => !chosen.includes(id))
            .map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
        </select>
        <p className="mt-1 text-xs text-soft">Each of them makes an agreement of its own.</p>
      </div>
      <label className="block">
        <span className="mb-1 block font-semibold">Or of a packet, signed as one</span>
        <select
          className="w-full rounded-sm border border-hair bg-sheet px-2 py-1"
          value={packet}
          disabled={chosen.length > 0}
          onChange={(event) => setPacket(event.target.value)}
        >
          <option value="">none</option>
          {packets.data
            ?.filter(({ problem }) => problem === null)
            .map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
        </select>
      </label>
      <FormEnd
        label="Make the form"
        busy={make.isPending}
        disabled={chosen.length === 0 && packet === ''}
        onClose={onClose}
      />
    </form>
  )
}
