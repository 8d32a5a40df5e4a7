import { DropdownMenu } from 'radix-ui'
import type { ReactNode } from 'react'

/** What opens under its trigger; arrows, letters and Escape work. */
export function Menu({ trigger, children }: { readonly trigger: ReactNode; readonly children: ReactNode }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={6}
          className="z-50 max-h-80 min-w-44 overflow-auto border border-hair bg-sheet py-1 text-sm"
        >
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}

/** One thing to do in a menu. */
export function MenuItem({
  onSelect,
  children,
}: {
  readonly onSelect: () => void
  readonly children: ReactNode
}) {
  return (
    <DropdownMenu.Item
      onSelect={onSelect}
      className="cursor-pointer px-3 py-1.5 outline-none data-highlighted:bg-petrol-wash"
    >
      {children}
    </DropdownMenu.Item>
  )
}
