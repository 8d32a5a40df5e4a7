import type { BlankPlace, Block, TreePart } from '#core/document/tree.ts'
import type { RestOfTemplate } from '#server/compose/docx/properties.ts'

const keyOf = ({ kind, role, label }: BlankPlace['attrs']): string =>
  `${kind} ${role} ${label.replaceAll('"', '”')}`

/**
 * The text with what its blanks and references were besides what markers say of them. A blank is known by kind, role and
 * label, several alike in their order, however the text was changed on the way; references only where none came or went.
 */
export function restored(
  blocks: readonly Block[],
  { blanks = [], references = [] }: Partial<RestOfTemplate>,
): readonly Block[] {
  const left = new Map<string, BlankPlace['attrs'][]>()
  for (const blank of blanks) left.set(keyOf(blank), [...(left.get(keyOf(blank)) ?? []), blank])
  const counted = { references: 0 }
  const visit = <P extends TreePart>(part: P): P => {
    if (part.type === 'blank') {
      const kept = left.get(keyOf(part.attrs))?.shift()
      return kept ? { ...part, attrs: { ...kept, id: part.attrs.id } } : part
    }
    if (part.type === 'reference') {
      const kept = references[counted.references++]
      return kept ? { ...part, attrs: { ...part.attrs, ...kept } } : part
    }
    return 'content' in part && part.content ? { ...part, content: part.content.map(visit) } : part
  }
  const found = blocks.map(visit)
  return references.length === 0 || counted.references === references.length
    ? found
    : restored(blocks, { blanks })
}
