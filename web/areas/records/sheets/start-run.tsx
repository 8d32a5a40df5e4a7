import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Input } from '#web/parts/input.tsx'

const PACKET = 'packet:'

/** Chooses what to make of a sheet's rows; the best fitting template stands first. The run's page does the rest. */
export function StartRun({ sheetId, name: sheetName }: { readonly sheetId: string; readonly name: string }) {
  const navigate = useNavigate()
  const say = useNotice()
  const templates = useAnswer('templates', { query: { sheet: sheetId } })
  const packets = useAnswer('packets')
  const [chosen, setChosen] = useState<string | null>(null)
  const [name, setName] = useState(() => sheetName.replace(/\.\w+$/, ''))
  const published =
    templates.data?.filter(({ latestEdition, may }) => latestEdition !== null && may.use) ?? []
  const what = chosen ?? published[0]?.id ?? ''
  const start = useMutation({
    mutationFn: () =>
      call('startRun', {
        body: {
          name,
          sheetId,
          ...(what.startsWith(PACKET) ? { packetId: what.slice(PACKET.length) } : { templateId: what }),
        },
      }),
    onSuccess: ({ id }) => navigate(`/runs/${id}?view=set-up`),
    onError: (error) => say(problemText(error), 'fault'),
  })
  return (
    <form
      aria-label="Set up a run"
      className="flex shrink-0 flex-wrap items-end gap-3 border-y border-hair bg-wash px-4 py-2 text-sm"
      onSubmit={(event) => {
        event.preventDefault()
        start.mutate()
      }}
    >
      <label>
        <span className="block text-xs text-soft">Template or packet</span>
        <select
          className="rounded-sm border border-hair bg-sheet px-1.5 py-1"
          value={what}
          onChange={(event) => setChosen(event.target.value)}
        >
          {published.map((each) => (
            <option key={each.id} value={each.id}>
              {each.name}, edition {each.latestEdition}
            </option>
          ))}
          {packets.data?.map((packet) => (
            <option key={packet.id} value={`${PACKET}${packet.id}`}>
              {packet.name}, packet of {packet.templates.length}
            </option>
          ))}
        </select>
      </label>
      <label className="w-72">
        <span className="block text-xs text-soft">Name of the run</span>
        <Input value={name} maxLength={200} onChange={(event) => setName(event.target.value)} />
      </label>
      <Button kind="main" type="submit" busy={start.isPending} disabled={!name.trim() || what === ''}>
        Check the rows
      </Button>
    </form>
  )
}
