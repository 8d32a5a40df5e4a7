import type { Block, BulletList, Clause, Inline, Paragraph, Text } from '#core/document/tree.ts'

/**
 * Short-hand for writing templates as data: **bold**, _italic_ and {{field}} or {{field | format}} in plain text.
 * Ids are counted in the order of writing, so the same text always gives the same tree.
 */
export class Writer {
  private count = 0

  private attrs(condition: string | null = null) {
    return { id: `b${++this.count}`, condition }
  }

  inline(text: string, marks: Text['marks'] = []): Inline[] {
    return text.split(/(\*\*.+?\*\*|_[^_{}]+_(?![\w])|\{\{[^}]+\}\})/).flatMap((part): Inline[] => {
      if (part === '') return []
      if (part.startsWith('**')) return this.inline(part.slice(2, -2), [...marks, { type: 'bold' }])
      if (part.startsWith('{{')) {
        const [field = '', format] = part
          .slice(2, -2)
          .split('|')
          .map((piece) => piece.trim())
        return [
          {
            type: 'mergeField',
            attrs: { field, format: format ?? null },
            ...(marks.length ? { marks } : {}),
          },
        ]
      }
      if (/^_[^_]+_$/.test(part)) return this.inline(part.slice(1, -1), [...marks, { type: 'italic' }])
      return [{ type: 'text', text: part, ...(marks.length ? { marks } : {}) }]
    })
  }

  heading(level: 1 | 2 | 3, text: string): Block {
    return { type: 'heading', attrs: { ...this.attrs(), level }, content: this.inline(text) }
  }

  paragraph(text: string): Paragraph {
    return { type: 'paragraph', attrs: this.attrs(), content: this.inline(text) }
  }

  clause(text: string, ...inside: readonly Block[]): Clause {
    return { type: 'clause', attrs: this.attrs(), content: [this.paragraph(text), ...inside] }
  }

  /** A clause that stands only where the condition is true. */
  when(condition: string, clause: Clause): Clause {
    return { ...clause, attrs: { ...clause.attrs, condition } }
  }

  bullets(...items: readonly string[]): BulletList {
    return {
      type: 'bulletList',
      attrs: this.attrs(),
      content: items.map((item) => ({ type: 'listItem', content: [this.paragraph(item)] })),
    }
  }

  signatures(...roles: readonly string[]): Block {
    return { type: 'signatureBlock', attrs: { ...this.attrs(), roles } }
  }
}
