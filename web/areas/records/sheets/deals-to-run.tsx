import { useMutation } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { call, problemText } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Loading } from '#web/parts/states.tsx'
import { StartRun } from './start-run.tsx'

/** Deals as the source of a run: taken as they are now, then template, check, make. */
export function DealsToRun({
  ids,
  name,
  onClose,
}: {
  readonly ids: readonly string[] | null
  readonly name: string
  readonly onClose: () => void
}) {
  return (
    <Dialog title="Make agreements of deals" open={ids !== null} onClose={onClose}>
      {ids && <Taken ids={ids} name={name} onClose={onClose} />}
    </Dialog>
  )
}

function Taken({
  ids,
  name,
  onClose,
}: {
  readonly ids: readonly string[]
  readonly name: string
  readonly onClose: () => void
}) {
  const say = useNotice()
  const [sheetId, setSheetId] = useState<string | null>(null)
  const take = useMutation({
    mutationFn: () => call('dealsToSheet', { body: { ids } }),
    onSuccess: ({ id }) => setSheetId(id),
    onError: (error) => {
      say(problemText(error), 'fault')
      onClose()
    },
  })
  const { mutate } = take
  useEffect(() => mutate(), [mutate])
  if (!sheetId) return <Loading label="The deals are being read" />
  return <StartRun sheetId={sheetId} name={name} />
}
