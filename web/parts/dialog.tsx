import { Dialog as Radix } from 'radix-ui'
import type { ReactNode } from 'react'

/** Escape puts away the suggestions of an editor first, and what is around them only after. */
export function keepForSuggestions(event: KeyboardEvent): void {
  if (document.querySelector('.cm-tooltip-autocomplete')) event.preventDefault()
}

/** A window over the page, on a phone a sheet from below, that keeps the focus; Escape and a click beside it close it. */
export function Dialog({
  title,
  open,
  onClose,
  children,
  hideTitle = false,
}: {
  readonly title: string
  readonly open: boolean
  readonly onClose: () => void
  readonly children: ReactNode
  readonly hideTitle?: boolean
}) {
  return (
    <Radix.Root open={open} onOpenChange={(now) => !now && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-ink/25" />
        <Radix.Content
          aria-describedby={undefined}
          onEscapeKeyDown={keepForSuggestions}
          className="fixed z-50 overflow-auto border-hair bg-paper p-5 max-md:inset-x-0 max-md:bottom-0 max-md:max-h-[85dvh] max-md:border-t md:top-[14vh] md:left-1/2 md:max-h-[76vh] md:w-[min(36rem,calc(100vw-2rem))] md:-translate-x-1/2 md:border"
        >
          <Radix.Title className={hideTitle ? 'sr-only' : 'mb-3 font-serif text-lg font-semibold'}>
            {title}
          </Radix.Title>
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  )
}
