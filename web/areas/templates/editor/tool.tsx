import { Popover } from 'radix-ui'
import { type ReactNode, useRef, useState } from 'react'

/** A tool with its sign; pressing it leaves the cursor where it is. */
export function Tool({
  label,
  active = false,
  disabled = false,
  onClick,
  children,
}: {
  readonly label: string
  readonly active?: boolean
  readonly disabled?: boolean
  readonly onClick?: () => void
  readonly children: ReactNode
}) {
  return (
    <button
      type="button"
      title={label}
      aria-label={label}
      aria-pressed={active}
      disabled={disabled}
      onMouseDown={(event) => event.preventDefault()}
      onClick={onClick}
      className={`flex h-7 min-w-6 items-center justify-center gap-1 rounded-sm px-0.5 text-sm disabled:opacity-35 ${active ? 'bg-petrol-wash text-petrol' : 'hover:bg-wash'}`}
    >
      {children}
    </button>
  )
}

export const Gap = () => <span className="mx-0.5 h-4 border-l border-hair" />

/** A tool that opens a form. */
export function Pop({
  label,
  icon,
  children,
}: {
  readonly label: string
  readonly icon: ReactNode
  readonly children: (close: () => void) => ReactNode
}) {
  const [open, setOpen] = useState(false)
  const used = useRef(false)
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button type="button" className="flex h-7 items-center gap-1 rounded-sm px-1.5 text-sm hover:bg-wash">
          {icon}
          {label}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={6}
          collisionPadding={12}
          className="z-40 border border-hair bg-paper p-3"
          // Whoever has put something in goes on writing; whoever has not is back at the tool.
          onCloseAutoFocus={(event) => {
            if (used.current) event.preventDefault()
            used.current = false
          }}
        >
          {children(() => {
            used.current = true
            setOpen(false)
          })}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
