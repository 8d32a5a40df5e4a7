import type { Editor } from '@tiptap/react'
import { useMemo, useState } from 'react'
import type { Block } from '#core/document/tree.ts'
import { clauseTitle, inlineText, inlines, textBlocks } from '#core/document/walk.ts'
import { fullNumber } from '#core/merge/numbering.ts'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { dropClause } from '#web/areas/templates/text/clause-commands.ts'
import { positionOf } from '#web/areas/templates/text/passages.ts'

interface Entry {
  readonly id: string
  readonly number: string
  readonly title: string
  readonly depth: number
  readonly conditional: boolean
}

function* entries(blocks: readonly Block[], above: readonly number[]): Generator<Entry> {
  let count = 0
  for (const block of blocks) {
    const conditional = block.attrs.condition !== null || block.attrs.alternative === true
    if (block.type === 'heading')
      yield { id: block.attrs.id, number: '', title: inlineText(inlines(block)), depth: 0, conditional }
    if (block.type !== 'clause') continue
    const place = [...above, ++count]
    // Clauses without a title of their own are found under the one around them.
    if (place.length === 1 || block.content.some((inner) => inner.type === 'clause'))
      yield {
        id: block.attrs.id,
        number: fullNumber(place),
        title: clauseTitle(block),
        depth: place.length,
        conditional,
      }
    yield* entries(block.content, place)
  }
}

/** The clauses of the document, to jump by and to move. */
export function ClauseOutline({
  editor,
  refuse,
}: {
  readonly editor: Editor
  readonly refuse: (why: string) => void
}) {
  const { content, goTo, editable } = useStudio()
  const [dragged, setDragged] = useState<string | null>(null)
  const [over, setOver] = useState<{ readonly id: string; readonly side: 'before' | 'behind' } | null>(null)
  const drop = () => {
    if (dragged && over && dragged !== over.id) {
      const [from, to] = [positionOf(editor.state.doc, dragged), positionOf(editor.state.doc, over.id)]
      if (from !== null && to !== null)
        dropClause(from, to, over.side)(editor.state, editor.view.dispatch, refuse)
    }
    setDragged(null)
    setOver(null)
  }
  const found = useMemo(() => [...entries(textBlocks(content.document), [])], [content.document])
  return (
    <nav
      aria-label="Clauses"
      title={editable ? 'Drag a clause to its place, or move it by Alt Shift ↑ and ↓ in the text' : undefined}
      className="w-44 shrink-0 overflow-auto border-r border-hair py-3 text-xs"
      tabIndex={0}
    >
      {found.map(({ id, number, title, depth, conditional }) => (
        <button
          key={id}
          draggable={editable && depth > 0}
          onDragStart={(event) => {
            event.dataTransfer.effectAllowed = 'move'
            event.dataTransfer.setData('text/plain', title)
            setDragged(id)
          }}
          onDragOver={(event) => {
            if (dragged === null) return
            event.preventDefault()
            const { top, height } = event.currentTarget.getBoundingClientRect()
            setOver({ id, side: event.clientY < top + height / 2 ? 'before' : 'behind' })
          }}
          onDrop={drop}
          onDragEnd={drop}
          className={`flex w-full gap-1.5 border-y py-0.5 pr-2 text-left hover:bg-wash ${over?.id !== id ? 'border-transparent' : over.side === 'before' ? 'border-t-petrol border-b-transparent' : 'border-t-transparent border-b-petrol'} ${depth === 0 ? 'mt-2 font-semibold' : ''}`}
          style={{ paddingLeft: 10 + Math.max(0, depth - 1) * 10 }}
          onClick={() => goTo(id)}
        >
          {number && <span className="shrink-0 text-soft tabular-nums">{number}</span>}
          <span className={`truncate ${conditional ? 'italic' : ''}`}>{title}</span>
        </button>
      ))}
    </nav>
  )
}
