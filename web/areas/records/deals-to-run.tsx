import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { call, problemText } from '#web/frame/client.ts'
import { useNotice } from '#web/frame/notices.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Loading } from '#web/parts/states.tsx'
import { StartRun } from './start-run.tsx'
import { useEffect } from 'react'

/** Deals as the source of a run: taken as they are now, then template, check, make. */
export function DealsToRun({
  ids,
  onClose,
}: {
  readonly ids: readonly string[] | null
  readonly onClose: () => void
}) {
  return (
    <Dialog title="Make agreements of deals" open={ids !== null} onClose={onClose}>
      {ids && <Taken ids={ids} onClose={onClose} />}
    </Dialog>
  )
}

function Taken({ ids, onClose }: { readonly ids: readonly string[]; readonly onClose: () => void }) {
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
  return <StartRun sheetId={sheetId} name={ids.length === 1 ? 'One deal' : `${ids.length} deals`} />
}
