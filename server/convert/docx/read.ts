import type { Element } from '@xmldom/xmldom'
import * as v from 'valibot'
import { type ImportRemark, templateContentSchema } from '#contract/template.ts'
import { emptyTemplate } from '#core/document/empty.ts'
import type { PageSetup, TemplateContent } from '#core/document/template.ts'
import type { Block, Inline, PassageAttributes, Table, TableCell, TableRow } from '#core/document/tree.ts'
import { inlineText } from '#core/document/walk.ts'
import { cut } from '#core/text/cut.ts'
import { CLAUSE_INDENTS, LIST_INDENT } from '#server/compose/docx/parts.ts'
import { type Aside, InlineReader, type OpenField } from './inlines.ts'
import { keptProperties, type KeptProperties } from './kept.ts'
import { joinMarkers, markersOnly, type Meant, meantBy, readInlineMarkers, rowMarkers } from './markers.ts'
import { guessedOutline } from './names.ts'
import { type Numbering, numberingOf, type Styles, stylesOf } from './numbering.ts'
import {
  allBelow,
  attribute,
  DocxFault,
  DocxPackage,
  element,
  elements,
  isOn,
  type Relationship,
  through,
} from './package.ts'
import { Pictures } from './pictures.ts'
import { PageReader } from './read-page.ts'
import { Remarks } from './remarks.ts'
import { restored } from './restored.ts'
import { blank, type Piece, structure } from './structure.ts'
import { alignment, tidy } from './tidy.ts'

/** The template that a document becomes, or why it becomes none. */
export type ReadDocx =
  | {
      readonly ok: true
      readonly content: TemplateContent
      readonly report: readonly ImportRemark[]
      readonly pictures: readonly { readonly bytes: Uint8Array; readonly mediaType: string }[]
    }
  | { readonly ok: false; readonly problem: string }

/** Reads a DOCX document as a template, and tells what became of everything that a template has no place for. */
export async function readDocx(
  name: string,
  bytes: Uint8Array,
  draws: (picture: Uint8Array) => boolean,
): Promise<ReadDocx> {
  try {
    return await new Reading(await DocxPackage.open(bytes), name, draws).run()
  } catch (error) {
    if (error instanceof DocxFault) return { ok: false, problem: error.message }
    throw error
  }
}

const PARTS_BEYOND = {
  'word/vbaProject.bin': 'A program (macro); it was not run and is not kept',
  'word/comments.xml': 'Comments',
} as const

class Reading {
  private readonly remarks = new Remarks()
  private readonly inlines = new InlineReader(this.remarks)
  private readonly pictures: Pictures
  private readonly bookmarks = new Map<string, string>()
  private relationships: ReadonlyMap<string, Relationship> = new Map()
  private styles: Styles = new Map()
  private numbering: Numbering = () => null
  private isOurs = false
  /** Fields that began in a paragraph before. */
  private readonly openFields: OpenField[] = []
  private inTable = 0
  /** The numbering that clauses have so far. */
  private series: string | null = null
  private meant: Meant = (written) => written
  private ids = 0
  private textWidth = 9360

  constructor(
    private readonly pack: DocxPackage,
    private readonly name: string,
    draws: (picture: Uint8Array) => boolean,
  ) {
    this.pictures = new Pictures(this.remarks, draws)
  }

  async run(): Promise<ReadDocx> {
    const root = await this.pack.xml(this.pack.main)
    const body = element(root, 'body')
    if (!body) throw new DocxFault('The document has no text: its body is missing.')
    this.relationships = await this.pack.relationships(this.pack.main)
    this.styles = stylesOf(await this.pack.beside(this.relationships, 'styles'))
    this.inlines.styles = this.styles
    this.numbering = numberingOf(await this.pack.beside(this.relationships, 'numbering'))
    this.tellParts()
    const kept = await keptProperties(this.pack)
    this.meant = meantBy(kept.rest.conditions ?? [])
    this.isOurs = kept.rest.conditions !== undefined
    const { setup: page, textWidth } = await new PageReader(
      this.pack,
      this.relationships,
      this.remarks,
      this.inlines,
    ).page(allBelow(body, 'sectPr'))
    this.textWidth = textWidth
    await this.pictures.load(this.pack, this.relationships)
    const pieces = [...this.pieces(body), ...this.leftOpen()]
    const blocks = restored(this.withIds(this.structured(pieces)), kept.rest)
    const content = this.content(blocks, page, kept)
    return { ok: true, content, report: this.remarks.all(), pictures: [...this.pictures.found.values()] }
  }

  private tellParts(): void {
    for (const [part, what] of Object.entries(PARTS_BEYOND))
      if (this.pack.has(part)) this.remarks.tell('left out', what, '')
    const external = [...this.relationships.values()].filter((each) => each.external)
    external.forEach(({ target }) =>
      this.remarks.tell(
        'changed',
        'A link to outside; its words are kept, the address is not',
        target.slice(0, 120),
      ),
    )
    if (this.pack.names().some((name) => /^word\/(embeddings|activeX)\//.test(name)))
      this.remarks.tell('left out', 'An embedded object', '')
  }

  // --- paragraphs -------------------------------------------------------------------------------------------------

  private pieces(parent: Element): readonly Piece[] {
    return elements(parent).flatMap((child): readonly Piece[] => {
      switch (child.localName) {
        case 'p':
          return this.paragraph(child)
        case 'tbl':
          return [
            {
              kind: 'continued',
              block: this.table(child),
              depth: this.depthAt(Number(attribute(element(element(child, 'tblPr'), 'tblInd'), 'w') ?? 0)),
            },
          ]
        case 'sdt':
          return this.control(child) ?? this.pieces(element(child, 'sdtContent') ?? child)
        case 'customXml':
        case 'ins':
        case 'smartTag':
          return this.pieces(child)
        case 'del':
        case 'moveFrom':
          this.remarks.tell(
            'changed',
            'Changes that were tracked; the text is taken as if they were accepted',
          )
          return []
        default:
          return []
      }
    })
  }

  /** A content control around a whole paragraph, as a paragraph with its merge field; null where it is none that asks. */
  private control(sdt: Element): readonly Piece[] | null {
    const content = element(sdt, 'sdtContent')
    if (elements(content).length !== 1 || !element(content, 'p')) return null
    const field = this.inlines.controlled(sdt)
    return field && [{ kind: 'block', block: { type: 'paragraph', attrs: blank, content: [field] } }]
  }

  /** Words of fields that the document never ends. */
  private leftOpen(): readonly Piece[] {
    const content = [...this.initial.splice(0), ...this.inlines.unended(this.openFields)]
    return content.length ? [{ kind: 'block', block: { type: 'paragraph', attrs: blank, content } }] : []
  }

  /** How many clauses around what stands so far in; of other programs' documents nobody can say. */
  private depthAt(twips: number): number | undefined {
    return this.isOurs ? CLAUSE_INDENTS.filter((indent) => indent <= twips).length : undefined
  }

  /** A large first letter that waits for its paragraph. */
  private readonly initial: Inline[] = []

  /** What is told of how a paragraph is laid out, as paragraphs here are not. */
  private tellLayout(properties: Element | null, frame: Element | null, inline: readonly Inline[]): void {
    if (frame) this.remarks.tell('changed', 'A frame beside the text; its words stand in the text now')
    if (isOn(element(properties, 'bidi')))
      this.remarks.tell('changed', 'Paragraphs that run from right to left; they stand to the left here')
    if (element(properties, 'tabs') && inlineText(inline).includes('\t'))
      this.remarks.tell('changed', 'Tab stops; words behind a tab stand where the usual stops are')
    const mark = element(properties, 'rPr')
    if (element(mark, 'del') ?? element(mark, 'moveFrom'))
      this.remarks.tell(
        'changed',
        'An end of a paragraph that was deleted under tracking; both stay paragraphs',
      )
  }

  private paragraph(paragraph: Element): readonly Piece[] {
    const properties = element(paragraph, 'pPr')
    const indent = element(properties, 'ind')
    const left = Number(attribute(indent, 'left') ?? attribute(indent, 'start') ?? 0)
    const style = this.styles.get(attribute(element(properties, 'pStyle'), 'val') ?? '')
    const found: Aside = { drawings: [], breaks: 0 }
    const read = this.inlines.paragraph(paragraph, found, this.openFields)
    const inline = [...this.initial.splice(0), ...read]
    this.remarks.place = inlineText(inline).trim().slice(0, 80) || this.remarks.place
    const frame = element(properties, 'framePr')
    if (attribute(frame, 'dropCap') !== null && attribute(frame, 'dropCap') !== 'none') {
      // A large first letter is a paragraph of its own there; it belongs to the words that follow.
      this.remarks.tell('changed', 'A large first letter; it stands in its line now')
      this.initial.push(...inline)
      return []
    }
    this.tellLayout(properties, frame, inline)
    // Markers in a paragraph of their own speak of the paragraphs that follow, not of words.
    const raw = joinMarkers(inline)
    const alone = markersOnly({ type: 'paragraph', attrs: blank, content: raw }) !== null
    const content = tidy(alone ? raw : readInlineMarkers(raw, this.meant))
    const bookmarks = elements(paragraph, 'bookmarkStart').map((each) => attribute(each, 'name') ?? '')
    const after: Piece[] = [
      ...found.drawings.flatMap((drawing): readonly Piece[] => {
        const block = this.pictures.block(drawing, this.textWidth)
        return block ? [{ kind: 'continued', block, depth: this.depthAt(left) }] : []
      }),
      ...Array.from({ length: found.breaks }, (): Piece => ({
        kind: 'block',
        block: { type: 'pageBreak', attrs: blank },
      })),
    ]
    const empty = content.length === 0
    if (empty) return after
    const justified = attribute(element(properties, 'jc'), 'val')
    if (!this.inTable && justified !== null && ['center', 'right', 'end'].includes(justified))
      this.remarks.tell('changed', 'Paragraphs in the middle or to the right; they stand to the left now')
    const outline = Number(attribute(element(properties, 'outlineLvl'), 'val') ?? style?.outline ?? -1)
    const number = this.numbering(
      attribute(element(element(properties, 'numPr'), 'numId'), 'val') ?? style?.numId ?? null,
      Number(attribute(element(element(properties, 'numPr'), 'ilvl'), 'val') ?? style?.level ?? 0),
    )
    if (outline >= 0 && outline < 9 && (!number || number.kind !== 'clause')) {
      if (outline > 2)
        this.remarks.tell(
          'changed',
          'Headings below the third level; they are headings of the third level now',
        )
      return [
        {
          kind: 'block',
          block: {
            type: 'heading',
            attrs: { ...blank, level: (Math.min(outline, 2) + 1) as 1 | 2 | 3 },
            content,
          },
        },
        ...after,
      ]
    }
    if (number) {
      if (number.kind === 'clause' && number.level > 2)
        this.remarks.tell(
          'changed',
          'Clauses below the third level; they are numbered on the third level now',
        )
      if (number.special)
        this.remarks.tell(
          'changed',
          `Numbers in the manner ${number.special}; clauses number 1, 1.1, (a) here`,
        )
      const depth = this.depthAt(left - LIST_INDENT * (number.level + 1))
      const { level, list } = number
      if (number.kind === 'clause' && this.inTable) {
        // Clauses are counted through the text; what a table numbers counts for itself.
        this.remarks.tell('changed', 'Numbered items in a table; they are lettered now')
        return [{ kind: 'letter', level, content, bookmarks, depth, list }, ...after]
      }
      if (number.kind === 'clause' && level === 0 && !this.isOurs) {
        if (this.series !== null && this.series !== list)
          this.remarks.tell(
            'changed',
            'Numbering that begins anew; clauses are counted on here, so look at what refers to them by number',
          )
        this.series = list
      }
      return [
        { kind: number.kind, level, content, bookmarks, depth, list: this.isOurs ? undefined : list },
        ...after,
      ]
    }
    const keep = element(properties, 'keepLines') ? { keep: true } : {}
    const block: Block = { type: 'paragraph', attrs: { ...blank, ...keep }, content }
    const indented = left > 200
    return [{ kind: indented ? 'continued' : 'block', block, depth: this.depthAt(left) }, ...after]
  }

  // --- tables -----------------------------------------------------------------------------------------------------

  private table(table: Element): Table {
    const widths = elements(element(table, 'tblGrid'), 'gridCol').map((column) =>
      Number(attribute(column, 'w') ?? 0),
    )
    const open = new Map<number, { -readonly [K in keyof TableCell['attrs']]: TableCell['attrs'][K] }>()
    this.inTable++
    const rows = through(table, 'tr').map((row): TableRow => {
      const head = isOn(element(element(row, 'trPr'), 'tblHeader'))
      let column = 0
      let markers: Partial<PassageAttributes> = {}
      const cells = through(row, 'tc').flatMap((cell, i): TableCell[] => {
        const properties = element(cell, 'tcPr')
        const colspan = Math.max(1, Number(attribute(element(properties, 'gridSpan'), 'val') ?? 1))
        const merge = element(properties, 'vMerge')
        const at = column
        column += colspan
        if (merge && attribute(merge, 'val') !== 'restart' && open.has(at)) {
          open.get(at)!.rowspan++
          return []
        }
        const pieces = this.pieces(cell)
        const first =
          i === 0 && pieces[0] && 'block' in pieces[0] ? rowMarkers(pieces[0].block, this.meant) : null
        if (first) markers = first
        const blocks = this.structured(first ? pieces.slice(1) : pieces)
        const colwidth = widths.slice(at, at + colspan).map((width) => Math.round(width / 15))
        const attrs = {
          colspan,
          rowspan: 1,
          colwidth: colwidth.some((width) => width > 0) ? colwidth : null,
          align: alignment(cell),
        }
        if (merge) open.set(at, attrs)
        else open.delete(at)
        const content = blocks.length ? blocks : [{ type: 'paragraph', attrs: blank } as const]
        return [{ type: head ? 'tableHeader' : 'tableCell', attrs, content }]
      })
      return { type: 'tableRow', attrs: { ...blank, ...markers }, content: cells }
    })
    this.inTable--
    return { type: 'table', attrs: blank, content: rows.filter((row) => row.content.length > 0) }
  }

  private newId(): string {
    return `d${++this.ids}`
  }

  private structured(pieces: readonly Piece[]): readonly Block[] {
    return structure(pieces, () => this.newId(), this.bookmarks, this.meant)
  }

  /** Ids for everything that needs one, and references by them. */
  private withIds(blocks: readonly Block[]): readonly Block[] {
    const visit = (part: unknown): unknown => {
      if (Array.isArray(part)) return part.map(visit)
      if (typeof part !== 'object' || part === null) return part
      const copy: Record<string, unknown> = { ...part }
      const attrs = copy['attrs'] as Record<string, unknown> | undefined
      if (attrs && 'id' in attrs && attrs['id'] === '') copy['attrs'] = { ...attrs, id: this.newId() }
      if (copy['type'] === 'reference' && attrs) {
        const clause = this.bookmarks.get(String(attrs['clause']).replace(/^bookmark:/, ''))
        if (!clause) {
          this.remarks.tell(
            'changed',
            'A reference to a place that is no clause; its words are kept',
            String(attrs['fallback'] ?? ''),
          )
          return { type: 'text', text: String(attrs['fallback'] ?? '') || '…' }
        }
        copy['attrs'] = { ...attrs, clause, fallback: null }
      }
      if (Array.isArray(copy['content'])) copy['content'] = copy['content'].map(visit)
      return copy
    }
    return visit(blocks) as readonly Block[]
  }

  // --- the whole --------------------------------------------------------------------------------------------------

  private content(blocks: readonly Block[], page: PageSetup, kept: KeptProperties): TemplateContent {
    const title = cut((kept.title ?? this.name.replace(/\.docx?$/i, '')).trim(), 200) || 'Imported template'
    const base = emptyTemplate(title)
    const { conditions: _conditions, blanks: _blanks, references: _references, ...rest } = kept.rest
    const outline = kept.outline ?? guessedOutline(blocks, this.inlines)
    const content: TemplateContent = {
      ...base,
      document: blocks.length ? { type: 'doc', content: blocks } : base.document,
      outline,
      roles: kept.roles ?? [],
      sending: kept.sending ?? base.sending,
      page: kept.page ?? page,
      ...rest,
    }
    if (!kept.outline && outline.length)
      this.remarks.tell(
        'changed',
        `${outline.length} merge fields; their types are guessed from their names, look at them under Data`,
        '',
      )
    if (!kept.roles) this.remarks.tell('changed', 'Who signs is not in the document; say so under Roles', '')
    const checked = v.safeParse(templateContentSchema, content)
    if (!checked.success)
      throw new DocxFault(`The document cannot become a template: ${checked.issues[0].message}`)
    return checked.output
  }
}
