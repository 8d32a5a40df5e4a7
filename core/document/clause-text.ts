import type { Block, Clause, Inline, MarkName, Text } from './tree.ts'

// A clause as plain lines, to write it outside of a page: a line for each paragraph, lines that begin with a hyphen for
// clauses inside it, **bold**, _italic_, {{field | format}}. What lines cannot say is kept from the clause as it was.

function inlineToText(content: readonly Inline[] | undefined): string {
  return (content ?? [])
    .map((part) => {
      if (part.type === 'mergeField')
        return `{{${part.attrs.field}${part.attrs.format ? ` | ${part.attrs.format}` : ''}}}`
      if (part.type !== 'text') return ''
      const has = (mark: MarkName) => part.marks?.some(({ type }) => type === mark)
      const italic = has('italic') ? `_${part.text}_` : part.text
      return has('bold') ? `**${italic}**` : italic
    })
    .join('')
}

/** The lines of a clause. */
export function clauseToText(clause: Clause): string {
  const lines: string[] = []
  for (const block of clause.content) {
    if (block.type === 'paragraph' || block.type === 'heading') lines.push(inlineToText(block.content))
    else if (block.type === 'clause')
      lines.push(
        `- ${block.content.flatMap((inner) => ('content' in inner && inner.type === 'paragraph' ? [inlineToText(inner.content)] : [])).join(' ')}`,
      )
  }
  return lines.join('\n')
}

/** Words with **bold**, _italic_ and {{field | format}} in them, as inlines. */
export function textToInline(text: string, marks: Text['marks'] = []): Inline[] {
  return text.split(/(\*\*.+?\*\*|_[^_{}]+_(?!\w)|\{\{[^{}]+\}\})/).flatMap((part): Inline[] => {
    if (part === '') return []
    if (/^\*\*.+\*\*$/.test(part))
      return textToInline(part.slice(2, -2), [...(marks ?? []), { type: 'bold' }])
    if (/^\{\{[^{}]+\}\}$/.test(part)) {
      const [field = '', format] = part
        .slice(2, -2)
        .split('|')
        .map((piece) => piece.trim())
      return [
        { type: 'mergeField', attrs: { field, format: format ?? null }, ...(marks?.length ? { marks } : {}) },
      ]
    }
    if (/^_[^_]+_$/.test(part)) return textToInline(part.slice(1, -1), [...(marks ?? []), { type: 'italic' }])
    return [{ type: 'text', text: part, ...(marks?.length ? { marks } : {}) }]
  })
}

/** The clause that lines say. Ids are those of `before` where it has them, else new ones counted from 1. */
export function clauseFromText(text: string, before: Clause | null): Clause {
  let count = 0
  const attrs = () => ({ id: `k${++count}`, condition: null })
  const paragraph = (line: string, there: Block | undefined): Block => {
    const content = textToInline(line)
    const own = there?.type === 'paragraph' ? there.attrs : attrs()
    return { type: 'paragraph', attrs: own, ...(content.length ? { content } : {}) }
  }
  const old = before?.content ?? []
  const content = text
    .split(/\r?\n/)
    .filter((line) => line.trim() !== '')
    .map((line, i): Block => {
      const there = old[i]
      if (!/^[-–•]\s/.test(line)) return paragraph(line, there)
      const inner = there?.type === 'clause' ? there : null
      return {
        type: 'clause',
        attrs: inner?.attrs ?? attrs(),
        content: [paragraph(line.replace(/^[-–•]\s+/, ''), inner?.content[0])],
      }
    })
  return {
    type: 'clause',
    attrs: before?.attrs ?? attrs(),
    content: content.length ? content : [paragraph('', undefined)],
  }
}
