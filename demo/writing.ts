import type { FieldType } from '#core/outline/field-kinds.ts'
import type {
  BlankPlace,
  Block,
  BulletList,
  Clause,
  Inline,
  Paragraph,
  Phrase,
  Reference,
  Table,
  TableRow,
  Text,
} from '#core/document/tree.ts'
import type { Field } from '#core/outline/field.ts'

type Words = string | Inline

/** A field of a data outline: required unless it is computed. */
export const field = (name: string, label: string, type: FieldType, more: Partial<Field> = {}): Field => ({
  name,
  label,
  type,
  required: more.computed === undefined,
  ...more,
})

/** Words with **bold**, _italic_ and {{field | format}} in them. */
function inlines(text: string, marks: Text['marks'] = []): Inline[] {
  return text.split(/(\*\*.+?\*\*|_[^_{}]+_(?!\w)|\{\{[^{}]+\}\})/).flatMap((part): Inline[] => {
    if (part === '') return []
    if (/^\*\*.+\*\*$/.test(part)) return inlines(part.slice(2, -2), [...(marks ?? []), { type: 'bold' }])
    if (/^\{\{[^{}]+\}\}$/.test(part)) {
      const [field = '', format] = part
        .slice(2, -2)
        .split('|')
        .map((piece) => piece.trim())
      return [
        { type: 'mergeField', attrs: { field, format: format ?? null }, ...(marks?.length ? { marks } : {}) },
      ]
    }
    if (/^_[^_]+_$/.test(part)) return inlines(part.slice(1, -1), [...(marks ?? []), { type: 'italic' }])
    return [{ type: 'text', text: part, ...(marks?.length ? { marks } : {}) }]
  })
}

/**
 * Short-hand for writing templates as data: **bold**, _italic_ and {{field}} or {{field | format}} in plain text.
 * Ids are counted in the order of writing, so the same text always gives the same tree.
 */
export class Writer {
  private count = 0

  constructor(private readonly letter = 'b') {}

  private attrs(condition: string | null = null) {
    return { id: `${this.letter}${++this.count}`, condition }
  }

  /** Text, with other inlines between. */
  private mixed(words: readonly Words[]): Inline[] {
    return words.flatMap((part) => (typeof part === 'string' ? this.inline(part) : [part]))
  }

  inline(text: string): Inline[] {
    return inlines(text)
  }

  heading(level: 1 | 2 | 3, text: string): Block {
    return { type: 'heading', attrs: { ...this.attrs(), level }, content: this.inline(text) }
  }

  paragraph(...words: readonly Words[]): Paragraph {
    return { type: 'paragraph', attrs: this.attrs(), content: this.mixed(words) }
  }

  clause(text: string | Paragraph, ...inside: readonly Block[]): Clause {
    const first = typeof text === 'string' ? this.paragraph(text) : text
    return { type: 'clause', attrs: this.attrs(), content: [first, ...inside] }
  }

  /** Words that stand only where the condition is true; with null, where no phrase before in the chain stands. */
  phrase(condition: string | null, ...words: readonly Words[]): Phrase {
    const attrs = { ...this.attrs(condition), ...(condition === null ? { alternative: true } : {}) }
    return { type: 'phrase', attrs, content: this.mixed(words) }
  }

  reference(clause: Block, fallback: string | null = null): Reference {
    return { type: 'reference', attrs: { clause: clause.attrs.id, form: 'number', fallback } }
  }

  blank(
    kind: BlankPlace['attrs']['kind'],
    role: string,
    label: string,
    more: Partial<BlankPlace['attrs']> = {},
  ): BlankPlace {
    const { id } = this.attrs()
    return { type: 'blank', attrs: { id, kind, role, label, required: true, ...more } }
  }

  /** The block once for each item of a list. */
  each<B extends Block | TableRow>(list: string, block: B): B {
    return { ...block, attrs: { ...block.attrs, repeat: list } }
  }

  /** The block as an alternative to the one before it; without a condition, the last resort. */
  otherwise(condition: string | null, block: Clause): Clause {
    return { ...block, attrs: { ...block.attrs, condition, alternative: true } }
  }

  row(
    cells: readonly string[],
    head = false,
    align: readonly ('left' | 'center' | 'right')[] = [],
  ): TableRow {
    return {
      type: 'tableRow',
      attrs: this.attrs(),
      content: cells.map((text, i) => ({
        type: head ? 'tableHeader' : 'tableCell',
        attrs: { colspan: 1, rowspan: 1, colwidth: null, align: align[i] ?? 'left' },
        content: [this.paragraph(text)],
      })),
    }
  }

  table(widths: readonly number[], ...rows: readonly TableRow[]): Table {
    return {
      type: 'table',
      attrs: this.attrs(),
      content: rows.map((row) => ({
        ...row,
        content: row.content.map((cell, i) => ({
          ...cell,
          attrs: { ...cell.attrs, colwidth: [widths[i] ?? 100] },
        })),
      })),
    }
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
    return { type: 'signatureBlock', attrs: { ...this.attrs(), roles, keep: true } }
  }
}
