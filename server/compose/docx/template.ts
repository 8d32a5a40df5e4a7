import { type IParagraphOptions, PageBreak, Paragraph, type ParagraphChild } from 'docx'
import { plainPage, type TemplateContent } from '#core/document/template.ts'
import type { BlankPlace, Block, Inline, PassageAttributes, Reference, Table } from '#core/document/tree.ts'
import { allBlocks, clauseTitle, textBlocks } from '#core/document/walk.ts'
import { stretchStyle } from '#core/merge/finished.ts'
import { runningLine } from '#core/merge/running.ts'
import {
  ALIGN,
  assemble,
  BULLETS,
  CLAUSE_INDENTS,
  CLAUSES,
  type Content,
  field,
  HEADINGS,
  LETTERS,
  lineBreak,
  LIST_INDENT,
  numberReference,
  paragraph,
  picture,
  type Picture,
  table,
  words,
} from './parts.ts'
import {
  OUTLINE_PROPERTY,
  PAGE_PROPERTY,
  REST_PROPERTY,
  type RestOfTemplate,
  ROLES_PROPERTY,
  SENDING_PROPERTY,
} from './properties.ts'

// A template as a word processor's document: merge fields are MERGEFIELD fields (ECMA-376 part 1, 17.16.5.35), what the
// format has nothing for is written as markers in braces, which the reader in server/convert/docx understands.

const quoted = (name: string): string => (/^[\w.]+$/.test(name) ? name : `"${name.replaceAll('"', '\\"')}"`)

/** `{{blank kind role "label"}}`; what else a blank has is told after it. */
function blankMarker(part: Inline & { type: 'blank' }): string {
  const { kind, role, label, required, prefill, options } = part.attrs
  const more = [
    required ? '' : 'optional',
    prefill ? `from ${prefill}` : '',
    options?.length ? `of ${options.join(' / ')}` : '',
  ]
  return `{{blank ${kind} ${role} "${label.replaceAll('"', '”')}"${more
    .filter(Boolean)
    .map((text) => `, ${text}`)
    .join('')}}}`
}

interface Depth {
  readonly clauses: number
  readonly lists: number
}
const NO_DEPTH: Depth = { clauses: 0, lists: 0 }

class Writing {
  /** Conditions as they are; markers hold them as well as words in braces can. */
  readonly conditions: string[] = []
  readonly blanks: BlankPlace['attrs'][] = []
  readonly references: Pick<Reference['attrs'], 'form' | 'fallback'>[] = []

  constructor(
    private readonly content: TemplateContent,
    private readonly pictures: ReadonlyMap<string, Picture>,
  ) {}

  /** The words before and after a passage that say when and how often it stands. */
  private markers(attrs: PassageAttributes | undefined): { open: string; close: string } | null {
    if (!attrs) return null
    const { alternative, repeat } = attrs
    const condition = attrs.condition === null ? null : this.written(attrs.condition)
    const open = [
      ...(alternative
        ? [condition === null ? '{{otherwise}}' : `{{else if ${condition}}}`]
        : condition === null
          ? []
          : [`{{if ${condition}}}`]),
      ...(repeat ? [`{{for each ${repeat}}}`] : []),
    ]
    return open.length ? { open: open.join(''), close: '{{end}}'.repeat(open.length) } : null
  }

  /** A condition as a marker has it: one with braces or line breaks of its own by its number. */
  private written(condition: string): string {
    this.conditions.push(condition)
    return /[{}\n]/.test(condition) ? `condition ${this.conditions.length}` : condition
  }

  private inlines(all: readonly Inline[] | undefined): ParagraphChild[] {
    return (all ?? []).flatMap((part): ParagraphChild[] => {
      switch (part.type) {
        case 'text':
          return words(part.text, stretchStyle(part.marks))
        case 'hardBreak':
          return [lineBreak()]
        case 'mergeField': {
          const { field: name, format } = part.attrs
          return [
            field(
              `MERGEFIELD ${quoted(name)}${format ? ` \\* "${format}"` : ''}`,
              `«${name}»`,
              stretchStyle(part.marks),
            ),
          ]
        }
        case 'phrase': {
          const around = this.markers(part.attrs)
          return [...words(around?.open ?? ''), ...this.inlines(part.content), ...words(around?.close ?? '')]
        }
        case 'blank':
          this.blanks.push(part.attrs)
          return words(blankMarker(part))
        case 'reference':
          this.references.push({ form: part.attrs.form, fallback: part.attrs.fallback })
          return [numberReference(part.attrs.clause, this.titleOf(part.attrs.clause))]
      }
    })
  }

  private titleOf(clause: string): string {
    for (const block of allBlocks(this.content.document.content))
      if (block.type === 'clause' && block.attrs.id === clause) return clauseTitle(block)
    return ''
  }

  /** Passages with their markers, each marker in a paragraph of its own, so many clauses and lists deep. */
  blocks(all: readonly Block[], first: IParagraphOptions, bookmark: string | null, depth: Depth): Content[] {
    return all.flatMap((block, i) => {
      const around = this.markers(block.attrs)
      const own =
        i === 0
          ? this.block(block, first, bookmark, depth)
          : this.block(block, indented(first, depth), null, depth)
      return around ? [paragraph(words(around.open)), ...own, paragraph(words(around.close))] : own
    })
  }

  private block(block: Block, options: IParagraphOptions, bookmark: string | null, depth: Depth): Content[] {
    switch (block.type) {
      case 'heading':
        return [paragraph(this.inlines(block.content), { heading: HEADINGS[block.attrs.level - 1]! })]
      case 'paragraph':
        return [paragraph(this.inlines(block.content), options, bookmark)]
      case 'clause':
        return this.blocks(
          block.content,
          { numbering: { reference: CLAUSES, level: Math.min(2, depth.clauses) } },
          block.attrs.id,
          { clauses: depth.clauses + 1, lists: 0 },
        )
      case 'bulletList':
      case 'orderedList':
        return block.content.flatMap((item) => {
          const around = this.markers(item.attrs)
          const numbering = {
            reference: block.type === 'orderedList' ? LETTERS : BULLETS,
            level: Math.min(3, depth.lists),
          }
          const indent = { left: indentOf(depth) + LIST_INDENT * (depth.lists + 1), hanging: 400 }
          const own = this.blocks(item.content, { numbering, indent }, null, {
            ...depth,
            lists: depth.lists + 1,
          })
          return around ? [paragraph(words(around.open)), ...own, paragraph(words(around.close))] : own
        })
      case 'table':
        return [this.table(block, indentOf(depth)), new Paragraph({})]
      case 'image':
        return [
          picture(
            this.pictures.get(block.attrs.file),
            block.attrs.width,
            block.attrs.alt,
            block.attrs.align ?? 'left',
            indentOf(depth),
          ),
        ]
      case 'signatureBlock':
        return [paragraph(words(`{{signatures ${block.attrs.roles.join(', ')}}}`), { keepNext: true })]
      case 'pageBreak':
        return [new Paragraph({ children: [new PageBreak()] })]
    }
  }

  private table(block: Table, indent: number): Content {
    const columns = Math.max(
      ...block.content.map((row) => row.content.reduce((sum, { attrs }) => sum + attrs.colspan, 0)),
    )
    const widths = Array.from(
      { length: columns },
      (_, i) => block.content[0]?.content[i]?.attrs.colwidth?.[0] ?? 100,
    )
    return table(
      widths,
      block.content.map((row) => {
        const around = this.markers(row.attrs)
        return {
          head: row.content.every(({ type }) => type === 'tableHeader'),
          cells: row.content.map((cell, i) => ({
            colspan: cell.attrs.colspan,
            rowspan: cell.attrs.rowspan,
            head: cell.type === 'tableHeader',
            content: [
              ...(i === 0 && around ? [paragraph(words(around.open + around.close))] : []),
              ...this.blocks(cell.content, { alignment: ALIGN[cell.attrs.align ?? 'left'] }, null, NO_DEPTH),
            ],
          })),
        }
      }),
      indent,
    )
  }
}

/** How far in what is inside so many clauses stands. */
const indentOf = ({ clauses }: Depth): number =>
  clauses === 0 ? 0 : CLAUSE_INDENTS[Math.min(clauses, 3) - 1]!

/** What follows a clause's first paragraph takes no number, and stands as far in. */
const indented = (first: IParagraphOptions, depth: Depth): IParagraphOptions => {
  const { numbering: _numbering, ...rest } = first
  return first.numbering ? { ...rest, indent: { left: indentOf(depth) } } : rest
}

/** A template as a DOCX file. */
export function templateDocx(
  content: TemplateContent,
  pictures: ReadonlyMap<string, Picture>,
): Promise<Uint8Array> {
  const page = content.page ?? plainPage
  const named = (name: string) => `«${name}»`
  const writing = new Writing(content, pictures)
  const blocks = writing.blocks(textBlocks(content.document), {}, null, NO_DEPTH)
  const rest: RestOfTemplate = {
    language: content.language,
    look: content.look ?? null,
    initialsOnEveryPage: content.initialsOnEveryPage,
    tickGroups: content.tickGroups ?? [],
    conditions: writing.conditions,
    blanks: writing.blanks,
    references: writing.references,
  }
  return assemble({
    title: content.title,
    language: content.language,
    paper: page.paper,
    head: runningLine(page.header, named),
    foot: runningLine(page.footer, named),
    content: blocks,
    properties: [
      { name: OUTLINE_PROPERTY, value: JSON.stringify(content.outline) },
      { name: ROLES_PROPERTY, value: JSON.stringify(content.roles) },
      { name: SENDING_PROPERTY, value: JSON.stringify(content.sending) },
      { name: PAGE_PROPERTY, value: JSON.stringify(page) },
      { name: REST_PROPERTY, value: JSON.stringify(rest) },
    ],
  })
}
