import { useState } from 'react'
import * as v from 'valibot'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { localMoment } from '#web/parts/form/entries.ts'
import { TextField } from '#web/parts/form/fields.tsx'
import { Form } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import { Menu, MenuItem } from '#web/parts/menu.tsx'

/** A quarter of an hour from now, as the input for times writes it. */
const soon = () => localMoment(new Date(Date.now() + 15 * 60_000).toISOString())

const timeSchema = v.object({ at: v.pipe(v.string(), v.nonEmpty('Choose day and time.')) })

/** Sends at once, or at a time that is chosen; `unread`: nobody has read the words, and it is asked once more. */
export function Go({
  label,
  unread,
  busy,
  disabled,
  onGo,
}: {
  readonly label: string
  readonly unread: boolean
  readonly busy: boolean
  readonly disabled: boolean
  /** ISO 8601; null: at once. */
  readonly onGo: (at: string | null) => void
}) {
  const [choosing, setChoosing] = useState(false)
  return (
    <>
      <Menu trigger={<Button disabled={disabled || busy}>Schedule …</Button>}>
        <MenuItem onSelect={() => setChoosing(true)}>Choose day and time</MenuItem>
      </Menu>
      <Button kind={unread ? 'danger' : 'main'} busy={busy} disabled={disabled} onClick={() => onGo(null)}>
        {unread ? 'Send unread' : label}
      </Button>
      <Dialog title="Schedule sending" open={choosing} onClose={() => setChoosing(false)}>
        <Schedule onGo={onGo} onClose={() => setChoosing(false)} />
      </Dialog>
    </>
  )
}

function Schedule({ onGo, onClose }: { readonly onGo: (at: string) => void; readonly onClose: () => void }) {
  const entry = useEntry({
    schema: timeSchema,
    start: { at: soon() },
    send: ({ at }) => Promise.resolve(new Date(at).toISOString()),
    onDone: (at) => {
      onClose()
      onGo(at)
    },
  })
  return (
    <Form entry={entry} submit="Schedule" onClose={onClose}>
      <TextField
        label="Day and time"
        hint={`In this device’s time zone, ${Intl.DateTimeFormat().resolvedOptions().timeZone}. Sending begins within 5 minutes of it.`}
        of={entry.at('at')}
        type="datetime-local"
        autoFocus
      />
    </Form>
  )
}
