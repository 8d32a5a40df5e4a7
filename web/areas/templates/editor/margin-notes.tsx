import type { Editor } from '@tiptap/react'
import { Popover } from 'radix-ui'
import { type RefObject, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { keepForSuggestions } from '#web/parts/dialog.tsx'
import {
  PASSAGE_NOTES,
  type PassageNote,
  passageNotes,
  type Told,
} from '#web/areas/templates/text/passage-notes.ts'
import { toldBy } from '#web/areas/templates/text/told.ts'
import { NoteForm } from './note-form.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'

interface Placed extends PassageNote {
  readonly top: number
  readonly height: number
}

/** Between two notes, in CSS pixels. */
const GAP = 2

/** Moves notes down as far as the ones above need; their brackets stay along their passages. */
function spread(margin: HTMLElement): void {
  const notes = [...margin.querySelectorAll<HTMLElement>('[data-level]')]
  // All is measured before anything is moved: the browser lays out once.
  const heights = notes.map((note) => note.offsetHeight)
  let free = 0
  notes.forEach((note, i) => {
    const top = Math.max(Number(note.dataset['level']), free)
    note.style.top = `${top}px`
    free = top + heights[i]! + GAP
  })
}

/** Notes level with their passages. */
function place(
  editor: Editor,
  page: HTMLElement,
  checked: ReadonlySet<string>,
  told: Told,
): readonly Placed[] {
  const origin = page.getBoundingClientRect().top
  return passageNotes(editor.state.doc, checked, told).flatMap((note) => {
    const element = editor.view.nodeDOM(note.position)
    if (!(element instanceof HTMLElement)) return []
    const box = element.getBoundingClientRect()
    const top = box.top - origin
    return [{ ...note, top, height: box.height }]
  })
}

/** What the machine does with a passage, in the margin level with it: conditions, repeats, roles, checks. */
export function MarginNotes({
  editor,
  page,
}: {
  readonly editor: Editor
  readonly page: RefObject<HTMLElement | null>
}) {
  const { checks, proof, content, all } = useStudio()
  const { roles, language } = content
  const told = useMemo(() => toldBy(all, roles, language), [all, roles, language])
  const dropped = useMemo(() => new Set(proof?.dropped), [proof])
  const faults = useMemo(() => {
    const found = new Map<string, { message: string; level: string }>()
    for (const { where, id, message, level } of checks)
      if (where === 'block' && !found.has(id)) found.set(id, { message, level })
    return found
  }, [checks])
  const checked = useMemo(() => new Set(faults.keys()), [faults])
  const [notes, setNotes] = useState<readonly Placed[]>([])
  useEffect(() => {
    let frame = 0
    const settle = () => {
      cancelAnimationFrame(frame)
      frame = requestAnimationFrame(
        () => page.current && !editor.isDestroyed && setNotes(place(editor, page.current, checked, told)),
      )
    }
    // Typing moves notes only after a pause: measuring the whole page with every key would be felt.
    let timer: ReturnType<typeof setTimeout> | undefined
    const later = () => {
      clearTimeout(timer)
      timer = setTimeout(settle, 120)
    }
    settle()
    editor.on('update', later)
    const observer = new ResizeObserver(settle)
    if (page.current) observer.observe(page.current)
    return () => {
      cancelAnimationFrame(frame)
      clearTimeout(timer)
      editor.off('update', later)
      observer.disconnect()
    }
  }, [editor, page, checked, told])
  const margin = useRef<HTMLDivElement>(null)
  useLayoutEffect(() => {
    if (margin.current) spread(margin.current)
  }, [notes, faults, dropped])
  return (
    <div ref={margin} className="absolute inset-y-0 left-0 w-40" role="group" aria-label="Margin notes">
      {notes.map((note) => (
        <Note
          key={`${note.kind} ${note.id}`}
          note={note}
          editor={editor}
          dropped={dropped.has(note.id)}
          fault={faults.get(note.id)}
        />
      ))}
    </div>
  )
}

function Note({
  note,
  editor,
  dropped,
  fault,
}: {
  readonly note: Placed
  readonly editor: Editor
  readonly dropped: boolean
  readonly fault: { readonly message: string; readonly level: string } | undefined
}) {
  const [open, setOpen] = useState(false)
  const broken = fault?.level === 'fault'
  const tone = broken ? 'text-brick' : fault ? 'text-ochre' : dropped ? 'text-soft' : 'text-petrol'
  return (
    <>
      <span
        aria-hidden
        className={`absolute right-0 w-1.5 border-y border-l ${broken ? 'border-brick' : fault ? 'border-ochre' : 'border-soft'}`}
        style={{ top: note.top, height: Math.max(12, note.height) }}
      />
      <div className="absolute right-2 left-0 text-right" data-level={note.top}>
        <Popover.Root open={open} onOpenChange={setOpen}>
          <Popover.Trigger asChild>
            <button
              className={`line-clamp-3 w-full text-right font-serif text-xs leading-snug wrap-anywhere italic hover:underline ${tone}`}
              title={[PASSAGE_NOTES[note.kind], note.condition, fault?.message].filter(Boolean).join('\n')}
            >
              {note.text}
              {dropped && <span className="block text-soft not-italic">dropped in this row</span>}
              {fault && <span className="block not-italic">{fault.message}</span>}
            </button>
          </Popover.Trigger>
          <Popover.Portal>
            <Popover.Content
              side="right"
              align="start"
              sideOffset={8}
              collisionPadding={12}
              onEscapeKeyDown={keepForSuggestions}
              className="z-40 border border-hair bg-paper p-4"
            >
              <NoteForm note={note} editor={editor} onDone={() => setOpen(false)} />
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      </div>
    </>
  )
}
