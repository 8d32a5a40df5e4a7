import type { FinishedBlock, FinishedDocument, Stretch } from './finished.ts'

/** Blocks directly inside a finished block, wherever in it they stand. */
const insideFinished = (block: FinishedBlock): readonly FinishedBlock[] => {
  if (block.kind === 'clause') return block.blocks
  if (block.kind === 'list') return block.items.flat()
  return block.kind === 'table'
    ? block.rows.flatMap(({ cells }) => cells.flatMap(({ blocks }) => blocks))
    : []
}

/** All blocks of a finished document in reading order, outer before inner. */
export function* allFinished(blocks: readonly FinishedBlock[]): Generator<FinishedBlock> {
  for (const block of blocks) {
    yield block
    yield* allFinished(insideFinished(block))
  }
}

/** The words directly in a block. */
export const runsOf = (block: FinishedBlock): readonly Stretch[] =>
  block.kind === 'heading' || block.kind === 'paragraph' ? block.runs : []

/** The blocks of a finished text; pages have none. */
export const blocksOf = (document: FinishedDocument): readonly FinishedBlock[] =>
  document.body === 'text' ? document.blocks : []

/** Everything that words, values and blanks stand in, in order. */
export const stretchesOf = (document: FinishedDocument): readonly Stretch[] =>
  document.body === 'text'
    ? [...allFinished(document.blocks)].flatMap(runsOf)
    : document.pages.flatMap(({ places }) => places.flatMap(({ runs }) => runs))
