import { Plus } from 'lucide-react'
import { Link, useNavigate } from 'react-router'
import * as v from 'valibot'
import { call, useAnswer } from '#web/api/client.ts'
import { useMay } from '#web/frame/person.ts'
import { DialogButton } from '#web/parts/dialog-button.tsx'
import { SelectField } from '#web/parts/form/fields.tsx'
import { Form } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import { Select } from '#web/parts/input.tsx'
import { OrderedNames } from '#web/parts/ordered-names.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { plural, When } from '#web/parts/signs/when.tsx'

/** Forms that outside people fill: what they make, whether they are open, and what waits. */
export default function IntakesPage() {
  const forms = useAnswer('intakes')
  const writer = useMay('templates')
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
          Respondents outside fill them in; each response becomes a record and its agreements.
        </p>
        {writer && (
          <DialogButton
            kind="main"
            className="ml-auto"
            title="New intake form"
            label={
              <>
                <Plus size={14} /> New intake form
              </>
            }
            content={(close) => <StartForm onClose={close} />}
          />
        )}
      </div>
      {forms.data.length === 0 ? (
        <Empty title="No intake forms yet">
          Choose templates or a packet. Each value that they need becomes a question, asked once.
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
                  {form.open ? plural(form.open, 'public link') : <span className="text-soft">not open</span>}
                </span>
                <span>
                  {plural(form.answers, 'response')}
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
    </div>
  )
}

const startSchema = v.object({ templates: v.array(v.string()), packet: v.string() })

function StartForm({ onClose }: { readonly onClose: () => void }) {
  const templates = useAnswer('templates')
  const packets = useAnswer('packets')
  const navigate = useNavigate()
  const entry = useEntry({
    schema: startSchema,
    start: { templates: [] as string[], packet: '' },
    send: ({ templates, packet }) => call('makeIntake', { body: packet ? { packet } : { templates } }),
    onDone: ({ id }) => void navigate(`/intakes/${id}`),
  })
  const chosen = entry.value('templates')
  const packet = entry.value('packet')
  const usable = templates.data?.filter(({ latestEdition, may }) => latestEdition !== null && may.use) ?? []
  const names = new Map(usable.map((each) => [each.id, each.name]))
  return (
    <Form
      entry={entry}
      submit="Create intake form"
      disabled={chosen.length === 0 && packet === ''}
      className="text-sm"
      onClose={onClose}
    >
      <div>
        <p className="mb-1 font-semibold">Templates</p>
        <OrderedNames
          ids={chosen}
          nameOf={(id) => names.get(id) ?? ''}
          onChange={(ids) => entry.set('templates', [...ids])}
        />
        <Select
          aria-label="Add a template"
          className="mt-2"
          value=""
          disabled={packet !== '' || chosen.length >= 10}
          onChange={({ target }) => target.value && entry.set('templates', [...chosen, target.value])}
        >
          <option value="">Add a template …</option>
          {usable
            .filter(({ id }) => !chosen.includes(id))
            .map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
        </Select>
        <p className="mt-1 text-xs text-soft">Each response makes one agreement of each template.</p>
      </div>
      <SelectField
        label="Or a packet, signed as one"
        of={entry.at('packet')}
        disabled={chosen.length > 0}
        options={[
          ['', 'none'],
          ...(packets.data ?? [])
            .filter(({ problem }) => problem === null)
            .map(({ id, name }) => [id, name] as const),
        ]}
      />
    </Form>
  )
}
