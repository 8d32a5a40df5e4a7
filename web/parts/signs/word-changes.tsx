import type { WordChange } from '#core/compare/words.ts'

/** The first and last words of a long stretch that did not change. */
function shortened(text: string, words: number): string {
  const parts = text.split(/(?<=\s)/)
  return parts.length <= words * 2 + 1
    ? text
    : `${parts.slice(0, words).join('')} … ${parts.slice(-words).join('')}`
}

/** A text with what was taken out struck through and what came in underlined; never told by colour alone. */
export function WordChanges({
  words,
  context = null,
}: {
  readonly words: readonly WordChange[]
  /** Words kept around a change; null keeps everything. */
  readonly context?: number | null
}) {
  return words.map(({ kind, text }, i) =>
    kind === 'same' ? (
      <span key={i}>{context === null ? text : shortened(text, context)}</span>
    ) : kind === 'added' ? (
      <ins key={i} className="bg-moss-wash text-moss decoration-1">
        {text}
      </ins>
    ) : (
      <del key={i} className="bg-brick-wash text-brick decoration-1">
        {text}
      </del>
    ),
  )
}
