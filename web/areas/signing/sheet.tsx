import { Dialog as Radix } from 'radix-ui'
import type { ReactNode } from 'react'

/** A panel to fill something in: from below on a phone, in the middle of a desk. It keeps the focus; Escape closes it. */
export function Sheet({
  title,
  note,
  onClose,
  children,
}: {
  readonly title: string
  readonly note?: string | undefined
  readonly onClose: () => void
  readonly children: ReactNode
}) {
  return (
    <Radix.Root open onOpenChange={(now) => !now && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-ink/25" />
        <Radix.Content
          aria-describedby={undefined}
          className="fixed inset-x-0 bottom-0 z-50 max-h-[88dvh] overflow-auto border-t border-hair bg-paper px-5 pt-4 pb-6 text-[1.0625rem] sm:inset-x-auto sm:top-[14vh] sm:bottom-auto sm:left-1/2 sm:w-[34rem] sm:-translate-x-1/2 sm:border"
        >
          <Radix.Title className="font-serif text-lg font-semibold wrap-anywhere">{title}</Radix.Title>
          {note && <p className="mt-0.5 text-sm text-soft">{note}</p>}
          <div className="mt-3">{children}</div>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  )
}

/** How lines to write in look on these pages: large enough for a thumb, and for a phone not to zoom in. */
export const FIELD =
  'min-h-11 w-full rounded-sm border border-hair bg-sheet px-3 py-2 text-[1.0625rem] aria-invalid:border-brick'
