import { useNavigate } from 'react-router'
import * as v from 'valibot'
import { call, useAnswer } from '#web/api/client.ts'
import { filled } from '#web/parts/form/entries.ts'
import { type Option, SelectField, TextField } from '#web/parts/form/fields.tsx'
import { Form } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import { Loading } from '#web/parts/states.tsx'

const PACKET = 'packet:'

const runSchema = v.object({ name: filled('Enter a name.'), what: v.string() })

/** Chooses what to make of a sheet's rows; the best fitting template stands first. The run's page does the rest. */
export function StartRun({ sheetId, name }: { readonly sheetId: string; readonly name: string }) {
  const templates = useAnswer('templates', { query: { sheet: sheetId } })
  const packets = useAnswer('packets')
  if (!templates.data || !packets.data) return <Loading />
  const choices = [
    ...templates.data
      .filter(({ latestEdition, may }) => latestEdition !== null && may.use)
      .map((each) => [each.id, `${each.name}, edition ${each.latestEdition}`] as const),
    ...packets.data.map(
      (each) => [`${PACKET}${each.id}`, `${each.name}, packet of ${each.templates.length}`] as const,
    ),
  ]
  return <RunForm sheetId={sheetId} name={name.replace(/\.\w+$/, '')} choices={choices} />
}

function RunForm({
  sheetId,
  name,
  choices,
}: {
  readonly sheetId: string
  readonly name: string
  readonly choices: readonly Option[]
}) {
  const navigate = useNavigate()
  const entry = useEntry({
    schema: runSchema,
    start: { name, what: choices[0]?.[0] ?? '' },
    send({ name, what }) {
      const of = what.startsWith(PACKET) ? { packetId: what.slice(PACKET.length) } : { templateId: what }
      return call('startRun', { body: { name, sheetId, ...of } })
    },
    onDone: ({ id }) => void navigate(`/runs/${id}?view=set-up`),
  })
  return (
    <Form
      entry={entry}
      label="Set up a run"
      layout="row"
      submit="Check rows"
      disabled={choices.length === 0}
      className="shrink-0 border-y border-hair bg-wash px-4 py-2"
    >
      <SelectField label="Template or packet" of={entry.at('what')} options={choices} />
      <TextField label="Name of the run" of={entry.at('name')} className="min-w-72" maxLength={200} />
    </Form>
  )
}
