import type { FinishedBlock, FinishedDocument, Stretch } from './finished.ts'

const runText = (run: Stretch): string => {
  switch (run.kind) {
    case 'break':
      return '\n'
    case 'blank':
      return `[${run.blank.label}]`
    default:
      return run.text
  }
}

function* paragraphs(blocks: readonly FinishedBlock[], lead = ''): Generator<string> {
  for (const block of blocks) {
    switch (block.kind) {
      case 'heading':
      case 'paragraph': {
        const text = block.runs.map(runText).join('').trim()
        if (text || lead) yield `${lead}${text}`
        lead = ''
        break
      }
      case 'clause':
        yield* paragraphs(block.blocks, `${block.number} `)
        break
      case 'list':
        for (const [i, item] of block.items.entries())
          yield* paragraphs(item, block.ordered ? `(${String.fromCharCode(97 + (i % 26))}) ` : '• ')
        break
      case 'table':
        for (const row of block.rows)
          yield row.cells.map(({ blocks: inner }) => [...paragraphs(inner)].join(' ')).join(' | ')
        break
      case 'image':
        yield `[${block.alt}]`
        break
      case 'signatures':
        for (const party of block.parties) yield `[signature: ${party.label}, ${party.name}]`
        break
    }
  }
}

/**
 * The wording of a finished document, paragraph by paragraph, numbers included: what saved cases compare. Of pages: what
 * stands on each.
 */
export const finishedText = (document: FinishedDocument): readonly string[] =>
  document.body === 'text'
    ? [...paragraphs(document.blocks)]
    : document.pages.flatMap(({ page, places }, i) => [
        `Page ${i + 1} (page ${page} of its file)`,
        ...places.map(({ runs }) => runs.map(runText).join('')),
      ])
