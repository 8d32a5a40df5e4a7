import { perObject } from '../per-object.ts'
import type {
  Block,
  Body,
  Clause,
  DocumentTree,
  FormPage,
  Inline,
  Passage,
  PassageAttributes,
  Placement,
  TreePart,
} from './tree.ts'

/** The parts directly inside another. */
export const inside = (
  part: { readonly content?: readonly TreePart[] | undefined } | TreePart,
): readonly TreePart[] => ('content' in part ? ((part.content as readonly TreePart[] | undefined) ?? []) : [])

/** All parts below, in reading order, outer before inner. */
export function* allParts(parts: readonly TreePart[]): Generator<TreePart> {
  for (const part of parts) {
    yield part
    yield* allParts(inside(part))
  }
}

/** The parts for which a test holds, and all those around them: where it does not lead, nobody has to look. */
export function partsLeadingTo(
  parts: readonly TreePart[],
  test: (part: TreePart) => boolean,
): ReadonlySet<TreePart> {
  const found = new Set<TreePart>()
  const visit = (part: TreePart): boolean => {
    let leads = test(part)
    for (const child of inside(part)) if (visit(child)) leads = true
    if (leads) found.add(part)
    return leads
  }
  parts.forEach(visit)
  return found
}

/** Whether a part is a passage that has an id: blocks, table rows, phrases, and list items that were given one. */
export const isPassage = (part: TreePart): part is Passage & { readonly attrs: PassageAttributes } =>
  'attrs' in part && part.attrs !== undefined && 'condition' in part.attrs && part.type !== 'blank'

/** All passages of a document in reading order. */
export const allPassages = (document: Body): readonly (Passage & { readonly attrs: PassageAttributes })[] =>
  [...allParts(document.content)].filter(isPassage)

const BLOCKS = new Set([
  'heading',
  'paragraph',
  'clause',
  'bulletList',
  'orderedList',
  'table',
  'image',
  'signatureBlock',
  'pageBreak',
])
/** Whether a part is a block. */
export const isBlock = (part: TreePart): part is Block => BLOCKS.has(part.type)

const INLINES = new Set(['text', 'mergeField', 'blank', 'hardBreak', 'phrase', 'reference'])
/** Whether a part stands in a line. */
export const isInline = (part: TreePart): part is Inline => INLINES.has(part.type)

/** All blocks in reading order, outer before inner. */
export function* allBlocks(blocks: readonly TreePart[]): Generator<Block> {
  for (const part of allParts(blocks)) if (isBlock(part)) yield part
}

/** The inline content directly in a block. */
export const inlines = (block: Block): readonly Inline[] =>
  block.type === 'heading' || block.type === 'paragraph' ? (block.content ?? []) : []

/** Every inline of a document, those inside phrases included. */
export const allInlines = (document: Body): readonly Inline[] =>
  [...allParts(document.content)].filter(isInline)

/** The words of a line; a merge field by its name in double braces, whatever else as a space. */
export const inlineText = (content: readonly Inline[]): string =>
  content
    .map((part) => {
      if (part.type === 'text') return part.text
      if (part.type === 'mergeField') return `{{${part.attrs.field}}}`
      return part.type === 'phrase' ? inlineText(part.content ?? []) : ' '
    })
    .join('')

/** The plain text of any part. */
export const partText = (part: TreePart): string =>
  isInline(part)
    ? inlineText([part])
    : inside(part)
        .map(partText)
        .join(inside(part).some(isInline) ? '' : ' ')

const shortened = (text: string): string => {
  const plain = text.replace(/\s+/g, ' ').trim()
  return plain.length > 60 ? `${plain.slice(0, 57).trimEnd()}…` : plain
}

/** The words a clause is known by: its bold opening where it has one, else its first words. */
export const clauseTitle = perObject((clause: Clause): string => {
  const first = clause.content.map(inlines).find((content) => content.length > 0) ?? []
  const bold = first.filter(
    (part, i) => part.type === 'text' && part.marks?.some((mark) => mark.type === 'bold') && i < 2,
  )
  const text = inlineText(bold.length ? bold : first)
    .trim()
    .replace(/[.:]$/, '')
  return shortened(text) || 'Empty clause'
})

/** The words the clause of an id is known by; empty where there is none. */
export function titleOfClause(document: Body, id: string): string {
  for (const part of allParts(document.content))
    if (part.type === 'clause' && part.attrs.id === id) return clauseTitle(part)
  return ''
}

const kinds: Partial<Record<TreePart['type'], string>> = {
  tableRow: 'Table row',
  listItem: 'List item',
  phrase: 'Phrase',
  image: 'Picture',
  signatureBlock: 'Signatures',
  pageBreak: 'Page break',
  table: 'Table',
  page: 'Page',
}

/** Whether a body is text that is laid out; else it is pages that are there already. */
export const isText = (body: Body): body is DocumentTree => body.type === 'doc'

/** The blocks of a text; pages have none. */
export const textBlocks = (body: Body): readonly Block[] => (isText(body) ? body.content : [])

/** Everything placed on the pages of a body, in order; text has nothing placed. */
export const allPlacements = (
  body: Body,
): readonly { readonly page: FormPage; readonly placement: Placement }[] =>
  isText(body) ? [] : body.content.flatMap((page) => page.content.map((placement) => ({ page, placement })))

/** What a placement is known by: its blank's label, else the fields or words it shows. */
const placementTitle = ({ content }: Placement): string => {
  const [first] = content
  if (first?.type === 'blank') return shortened(first.attrs.label) || first.attrs.kind
  return shortened(inlineText(content)) || 'Empty place'
}

/** How a passage is called in lists of conditions, wordings and checks. */
export const passageTitle = (passage: Passage): string =>
  passage.type === 'clause'
    ? clauseTitle(passage)
    : passage.type === 'placement'
      ? placementTitle(passage)
      : passage.type === 'page'
        ? `Page ${passage.attrs.page} of its file`
        : shortened(partText(passage)) || (kinds[passage.type] ?? passage.type)

/** The list of the outline whose items a part repeats with, from the innermost repeat around it. */
export function* partsWithRepeat(
  parts: readonly TreePart[],
  repeat: string | null = null,
): Generator<{ readonly part: TreePart; readonly repeat: string | null }> {
  for (const part of parts) {
    const own = (isPassage(part) && part.attrs.repeat) || repeat
    yield { part, repeat: own }
    yield* partsWithRepeat(inside(part), own)
  }
}
