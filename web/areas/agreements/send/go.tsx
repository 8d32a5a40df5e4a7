import { useState } from 'react'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Input, Labelled } from '#web/parts/input.tsx'
import { Menu, MenuItem } from '#web/parts/menu.tsx'
import { FormEnd } from '#web/parts/form-end.tsx'

/** A quarter of an hour from now, as the input for times writes it. */
const soon = () => {
  const at = new Date(Date.now() + 15 * 60_000)
  return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16)
}

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
  const [at, setAt] = useState('')
  return (
    <>
      <Menu trigger={<Button disabled={disabled || busy}>At a time …</Button>}>
        <MenuItem
          onSelect={() => {
            setAt(soon())
            setChoosing(true)
          }}
        >
          Choose day and time
        </MenuItem>
      </Menu>
      <Button kind={unread ? 'danger' : 'main'} busy={busy} disabled={disabled} onClick={() => onGo(null)}>
        {unread ? 'Send unread' : label}
      </Button>
      <Dialog title="When it goes" open={choosing} onClose={() => setChoosing(false)}>
        <form
          onSubmit={(event) => {
            event.preventDefault()
            if (!at) return
            setChoosing(false)
            onGo(new Date(at).toISOString())
          }}
        >
          <Labelled
            label="Day and time"
            hint={`In this device’s time zone, ${Intl.DateTimeFormat().resolvedOptions().timeZone}. It goes within five minutes after that.`}
          >
            <Input
              type="datetime-local"
              autoFocus
              value={at}
              onChange={(event) => setAt(event.target.value)}
            />
          </Labelled>
          <FormEnd
            className="mt-4"
            label="Have it go then"
            disabled={!at}
            onClose={() => setChoosing(false)}
          />
        </form>
      </Dialog>
    </>
  )
}
