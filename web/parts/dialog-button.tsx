import { type ComponentProps, type ReactNode, useState } from 'react'
import { Button } from './button.tsx'
import { Dialog } from './dialog.tsx'

/** A button that opens a window of its own; what stands in it is given what closes it, and is new each time. */
export function DialogButton({
  title,
  label,
  content,
  look = 'button',
  ...rest
}: Omit<ComponentProps<typeof Button>, 'children' | 'content' | 'onClick'> & {
  readonly title: string
  /** What the button shows. */
  readonly label: ReactNode
  readonly content: (close: () => void) => ReactNode
  /** `link`: within a line of text. */
  readonly look?: 'button' | 'link'
}) {
  const [open, setOpen] = useState(false)
  const close = () => setOpen(false)
  return (
    <>
      {look === 'button' ? (
        <Button {...rest} onClick={() => setOpen(true)}>
          {label}
        </Button>
      ) : (
        <button
          type="button"
          className={`text-petrol underline ${rest.className ?? ''}`}
          onClick={() => setOpen(true)}
        >
          {label}
        </button>
      )}
      <Dialog title={title} open={open} onClose={close}>
        {open && content(close)}
      </Dialog>
    </>
  )
}
