import type { Block, Clause, DocumentTree, Inline } from './tree.ts'

/** Blocks directly inside a block. */
export function innerBlocks(block: Block): readonly Block[] {
  if (block.type === 'clause') return block.content
  return block.type === 'bulletList' ? block.content.flatMap((item) => item.content) : []
}

/** All blocks in reading order, outer before inner. */
export function* allBlocks(blocks: readonly Block[]): Generator<Block> {
  for (const block of blocks) {
    yield block
    yield* allBlocks(innerBlocks(block))
  }
}

export const inlines = (block: Block): readonly Inline[] =>
  block.type === 'heading' || block.type === 'paragraph' ? (block.content ?? []) : []

export const allInlines = (document: DocumentTree): readonly Inline[] =>
  [...allBlocks(document.content)].flatMap(inlines)

export const inlineText = (content: readonly Inline[]): string =>
  content
    .map((part) =>
      part.type === 'text' ? part.text : part.type === 'mergeField' ? `{{${part.attrs.field}}}` : ' ',
    )
    .join('')

/** The words a clause is known by: its bold opening where it has one, else its first words. */
export function clauseTitle(clause: Clause): string {
  const first = clause.content.map(inlines).find((content) => content.length > 0) ?? []
  const bold = first.filter(
    (part, i) => part.type === 'text' && part.marks?.some((mark) => mark.type === 'bold') && i < 2,
  )
  const text = inlineText(bold.length ? bold : first)
    .trim()
    .replace(/[.:]$/, '')
  return text.length > 60 ? `${text.slice(0, 57).trimEnd()}…` : text || 'Empty clause'
}

/** How a block is called in lists of conditions and wordings. */
export function blockTitle(block: Block): string {
  if (block.type === 'clause') return clauseTitle(block)
  const text = inlineText(
    block.type === 'bulletList' ? [...allBlocks([block])].flatMap(inlines) : inlines(block),
  ).trim()
  return text.length > 60 ? `${text.slice(0, 57).trimEnd()}…` : text || block.type
}
