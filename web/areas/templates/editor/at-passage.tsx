import { Popover } from 'radix-ui'
import type { ReactNode } from 'react'
import type { Editor } from '@tiptap/react'
import { keepForSuggestions } from '#web/parts/dialog.tsx'

/** Where the passage around the cursor stands, from the margin on; the cursor's own line where it is in none. */
function placeOf(editor: Editor, position: number | null): DOMRect {
  const found = position === null ? null : editor.view.nodeDOM(position)
  const page = editor.view.dom.getBoundingClientRect()
  const { top, bottom } =
    found instanceof HTMLElement
      ? found.getBoundingClientRect()
      : editor.view.coordsAtPos(editor.state.selection.from)
  // Of a long passage the place is its first lines: what is asked stands beside them, and both are in view.
  return new DOMRect(page.left, top, page.width, Math.min(bottom - top, 120))
}

/** A form about the passage at the cursor, right below it: what it is about stays in view. Escape and Cancel leave it. */
export function AtPassage({
  label,
  editor,
  position,
  open,
  onClose,
  children,
}: {
  readonly label: string
  readonly editor: Editor
  /** Of the passage; null: the words at the cursor. */
  readonly position: number | null
  readonly open: boolean
  readonly onClose: () => void
  readonly children: ReactNode
}) {
  const anchor = { current: { getBoundingClientRect: () => placeOf(editor, position) } }
  return (
    <Popover.Root open={open} onOpenChange={(now) => !now && onClose()}>
      <Popover.Anchor virtualRef={anchor} />
      <Popover.Portal>
        <Popover.Content
          role="dialog"
          aria-label={label}
          side="bottom"
          align="start"
          sideOffset={6}
          collisionPadding={12}
          onEscapeKeyDown={keepForSuggestions}
          onCloseAutoFocus={(event) => {
            event.preventDefault()
            editor.commands.focus(undefined, { scrollIntoView: false })
          }}
          className="z-40 max-h-(--radix-popover-content-available-height) overflow-auto border border-hair bg-paper p-4"
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
