import { useEffect, useState } from 'react'
import { Dialog } from '#web/parts/dialog.tsx'
import { isTyping } from '#web/parts/keys.ts'

const KEYS = [
  ['j k, ↑ ↓', 'Move through a list'],
  ['Enter', 'Open'],
  ['x', 'Select the row'],
  ['e', 'Records: change the row in its place; Tab goes on, Escape leaves it'],
  ['/', 'Search this list'],
  ['Ctrl K', 'Find or do anything'],
  ['Alt ← Alt →', 'Proof: row before, row after'],
  ['Alt Shift ↑, ↓', 'Editor: move the clause up or down, with all that belongs to it'],
  ['Ctrl Enter', 'Editor: a further paragraph of the clause, for a list or a table too'],
  ['Ctrl Alt C', 'Editor: make a clause, or plain text again'],
  ['+ − 0 w p', 'Proof: larger, smaller, as on paper, as wide as the room, the whole page'],
  ['Tab, Shift Tab', 'Editor: clause, or item of a list, one level in or out'],
  ['Ctrl Z, Ctrl Shift Z', 'Editor: undo, redo'],
  ['Ctrl S', 'Editor: save now; it saves by itself'],
  ['?', 'This list'],
] as const

export function KeyHelp() {
  const [open, setOpen] = useState(false)
  useEffect(() => {
    const show = (event: KeyboardEvent) => {
      if (event.key === '?' && !isTyping(event.target)) setOpen(true)
    }
    window.addEventListener('keydown', show)
    return () => window.removeEventListener('keydown', show)
  }, [])
  return (
    <Dialog title="Keys" open={open} onClose={() => setOpen(false)}>
      <dl className="grid grid-cols-[auto_1fr] gap-x-6 gap-y-1.5 text-sm">
        {KEYS.map(([keys, meaning]) => (
          <div key={keys} className="contents">
            <dt className="font-semibold">{keys}</dt>
            <dd>{meaning}</dd>
          </div>
        ))}
      </dl>
    </Dialog>
  )
}
