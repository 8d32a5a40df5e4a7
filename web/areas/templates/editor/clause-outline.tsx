import { useMemo } from 'react'
import type { Block } from '#core/document/tree.ts'
import { clauseTitle, inlineText, inlines } from '#core/document/walk.ts'
import { fullNumber } from '#core/merge/numbering.ts'
import { useStudio } from '../studio-context.ts'

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

/** The clauses of the document, to jump by. */
export function ClauseOutline() {
  const { content, goTo } = useStudio()
  const found = useMemo(() => [...entries(content.document.content, [])], [content.document])
  return (
    <nav
      aria-label="Clauses"
      className="w-44 shrink-0 overflow-auto border-r border-hair py-3 text-xs"
      tabIndex={0}
    >
      {found.map(({ id, number, title, depth, conditional }) => (
        <button
          key={id}
          className={`flex w-full gap-1.5 py-0.5 pr-2 text-left hover:bg-wash ${depth === 0 ? 'mt-2 font-semibold' : ''}`}
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
