import { createHash } from 'node:crypto'
import type { Element } from '@xmldom/xmldom'
import * as v from 'valibot'
import { templateContentSchema } from '#contract/template.ts'
import type { ImportRemark } from '#contract/template.ts'
import { emptyTemplate } from '#core/document/empty.ts'
import { plainPage } from '#core/document/template.ts'
import type { PageSetup, TemplateContent } from '#core/document/template.ts'
import type {
  Block,
  Inline,
  ListItem,
  MarkName,
  PassageAttributes,
  Table,
  TableCell,
  TableRow,
} from '#core/document/tree.ts'
import { inlineText } from '#core/document/walk.ts'
import type { FieldType } from '#core/outline/field.ts'
import { readPicture } from '#server/convert/read-picture.ts'
import { meaningOf } from './fields.ts'
import type { Field, Instruction } from './fields.ts'
import { joinMarkers, markersOnly, readInlineMarkers, rowMarkers, under } from './markers.ts'
import type { Open } from './markers.ts'
import { keptProperties } from './kept.ts'
import { guessedOutline } from './names.ts'
import { numberingOf, stylesOf } from './numbering.ts'
import type { Numbering, Styles } from './numbering.ts'
import { anywhere, attribute, DocxFault, DocxPackage, element, elements } from './package.ts'
import type { Relationship } from './package.ts'

export type ReadDocx =
  | {
      readonly ok: true
      readonly content: TemplateContent
      readonly report: readonly ImportRemark[]
      readonly pictures: readonly { readonly bytes: Uint8Array; readonly mediaType: string }[]
    }
  | { readonly ok: false; readonly problem: string }

/** Reads a DOCX document as a template, and tells what became of everything that a template has no place for. */
export async function readDocx(name: string, bytes: Uint8Array): Promise<ReadDocx> {
  try {
    return await new Reading(await DocxPackage.open(bytes), name).run()
  } catch (error) {
    if (error instanceof DocxFault) return { ok: false, problem: error.message }
    throw error
  }
}

/** A paragraph with what its numbering says of it. */
type Piece =
  | { readonly kind: 'block' | 'continued'; readonly block: Block }
  | {
      readonly kind: 'clause' | 'bullet' | 'letter'
      readonly level: number
      readonly content: readonly Inline[]
      readonly bookmarks: readonly string[]
    }

const PARTS_BEYOND = {
  'word/vbaProject.bin': 'A program (macro); it was not run and is not kept',
  'word/comments.xml': 'Comments',
} as const

const POINTS_OF_LETTER = 12_240

class Reading {
  private readonly report = new Map<string, ImportRemark>()
  private readonly hints = new Map<string, Set<FieldType>>()
  private readonly labels = new Map<string, string>()
  private readonly pictures = new Map<string, { bytes: Uint8Array; mediaType: string }>()
  private readonly bookmarks = new Map<string, string>()
  private relationships: ReadonlyMap<string, Relationship> = new Map()
  private styles: Styles = new Map()
  private numbering: Numbering = () => null
  private place = ''
  private ids = 0
  private textWidth = 9360

  constructor(
    private readonly pack: DocxPackage,
    private readonly name: string,
  ) {}

  async run(): Promise<ReadDocx> {
    const root = await this.pack.xml('word/document.xml')
    const body = element(root, 'body')
    if (!body) throw new DocxFault('The document has no text: its body is missing.')
    this.relationships = await this.pack.relationships('word/document.xml')
    this.styles = stylesOf(await this.pack.xml('word/styles.xml'))
    this.numbering = numberingOf(await this.pack.xml('word/numbering.xml'))
    this.tellParts()
    const section = element(body, 'sectPr')
    const page = await this.page(section)
    await this.loadPictures()
    const blocks = this.withIds(this.structure(this.pieces(body)))
    const content = await this.content(blocks, page)
    return { ok: true, content, report: [...this.report.values()], pictures: [...this.pictures.values()] }
  }

  private tell(kind: ImportRemark['kind'], what: string, place = this.place): void {
    const before = this.report.get(what)
    this.report.set(what, before ? { ...before, count: before.count + 1 } : { kind, what, place, count: 1 })
  }

  private tellParts(): void {
    for (const [part, what] of Object.entries(PARTS_BEYOND))
      if (this.pack.has(part)) this.tell('left out', what, '')
    const external = [...this.relationships.values()].filter((each) => each.external)
    external.forEach(({ target }) =>
      this.tell('changed', 'A link to outside; its words are kept, the address is not', target.slice(0, 120)),
    )
    if (this.pack.names().some((name) => /^word\/(embeddings|activeX)\//.test(name)))
      this.tell('left out', 'An embedded object', '')
  }

  // --- page -------------------------------------------------------------------------------------------------------

  private async page(section: Element | null): Promise<PageSetup> {
    const size = element(section, 'pgSz')
    const margins = element(section, 'pgMar')
    const width = Number(attribute(size, 'w') ?? POINTS_OF_LETTER)
    this.textWidth = Math.max(
      1000,
      width - Number(attribute(margins, 'left') ?? 1440) - Number(attribute(margins, 'right') ?? 1440),
    )
    const part = async (kind: 'headerReference' | 'footerReference') => {
      const wanted = elements(section, kind)
      const chosen = wanted.find((each) => attribute(each, 'type') === 'default') ?? wanted[0]
      if (wanted.length > 1)
        this.tell('changed', 'Different heads or feet for first or even pages; the usual one is taken', '')
      const target = this.relationships.get(attribute(chosen ?? null, 'id') ?? '')?.target
      return target ? this.running(await this.pack.xml(target)) : null
    }
    const [header, footer] = [await part('headerReference'), await part('footerReference')]
    return {
      paper: Math.abs(width - 11_906) < 200 ? 'a4' : 'us-letter',
      header: header ?? '',
      footer: footer || plainPage.footer,
    }
  }

  /** A head or foot as a pattern; its pictures belong into a document look. */
  private running(root: Element | null): string {
    if (!root) return ''
    if (anywhere(root, 'drawing') ?? anywhere(root, 'pict'))
      this.tell(
        'left out',
        'A picture in the head or foot; put it into the letterhead of a document look',
        '',
      )
    const text = elements(root, 'p')
      .map((paragraph) => this.paragraphInlines(paragraph).map(runningText).join(''))
      .join(' ')
      .trim()
    return text.replace(/\t+/g, ' || ').slice(0, 500)
  }

  // --- pictures ---------------------------------------------------------------------------------------------------

  private readonly pictureOf = new Map<string, string>()

  private async loadPictures(): Promise<void> {
    for (const [id, { target, external }] of this.relationships) {
      if (external || !/^word\/media\//.test(target)) continue
      const bytes = await this.pack.bytes(target)
      const read = bytes && readPicture(bytes)
      if (!bytes || !read?.ok) continue
      const hash = createHash('sha256').update(bytes).digest('hex')
      this.pictures.set(hash, { bytes, mediaType: read.mediaType })
      this.pictureOf.set(id, hash)
    }
  }

  private picture(drawing: Element): Block | null {
    const blip = anywhere(drawing, 'blip')
    const id = attribute(blip, 'embed')
    if (attribute(blip, 'link')) {
      this.tell('left out', 'A picture that lies outside of the document')
      return null
    }
    const file = id ? this.pictureOf.get(id) : undefined
    if (!file) {
      this.tell(
        'left out',
        anywhere(drawing, 'txbxContent')
          ? 'A text box'
          : 'A picture or drawing of a kind that is not taken (PNG, JPEG and SVG are)',
      )
      return null
    }
    const extent = anywhere(drawing, 'extent')
    // 635 English metric units are one twip.
    const twips = Number(attribute(extent, 'cx') ?? 0) / 635
    const alt = attribute(anywhere(drawing, 'docPr'), 'descr') ?? ''
    if (!alt) this.tell('changed', 'A picture without a description; write one for readers who cannot see it')
    return {
      type: 'image',
      attrs: {
        id: '',
        condition: null,
        file,
        alt: alt.slice(0, 500),
        width: Math.min(100, Math.max(1, Math.round((100 * twips) / this.textWidth) || 40)),
      },
    }
  }

  // --- paragraphs -------------------------------------------------------------------------------------------------

  private pieces(parent: Element): readonly Piece[] {
    return elements(parent).flatMap((child): readonly Piece[] => {
      switch (child.localName) {
        case 'p':
          return this.paragraph(child)
        case 'tbl':
          return [{ kind: 'continued', block: this.table(child) }]
        case 'sdt':
          return this.pieces(element(child, 'sdtContent') ?? child)
        case 'customXml':
        case 'ins':
        case 'smartTag':
          return this.pieces(child)
        case 'del':
        case 'moveFrom':
          this.tell('changed', 'Changes that were tracked; the text is taken as if they were accepted')
          return []
        default:
          return []
      }
    })
  }

  private paragraph(paragraph: Element): readonly Piece[] {
    const properties = element(paragraph, 'pPr')
    const style = this.styles.get(attribute(element(properties, 'pStyle'), 'val') ?? '')
    const found: { content: Inline[]; pictures: Block[]; breaks: number } = {
      content: [],
      pictures: [],
      breaks: 0,
    }
    const inline = this.paragraphInlines(paragraph, found)
    this.place = inlineText(inline).trim().slice(0, 80) || this.place
    // Markers in a paragraph of their own speak of the paragraphs that follow, not of words.
    const raw = joinMarkers(inline)
    const alone = markersOnly({ type: 'paragraph', attrs: blank, content: raw }) !== null
    const content = tidy(alone ? raw : readInlineMarkers(raw))
    const bookmarks = elements(paragraph, 'bookmarkStart').map((each) => attribute(each, 'name') ?? '')
    const after: Piece[] = [
      ...found.pictures.map((block): Piece => ({ kind: 'continued', block })),
      ...Array.from({ length: found.breaks }, (): Piece => ({
        kind: 'block',
        block: { type: 'pageBreak', attrs: blank },
      })),
    ]
    const empty = content.length === 0
    if (empty) return after
    const outline = Number(attribute(element(properties, 'outlineLvl'), 'val') ?? style?.outline ?? -1)
    const number = this.numbering(
      attribute(element(element(properties, 'numPr'), 'numId'), 'val') ?? style?.numId ?? null,
      Number(attribute(element(element(properties, 'numPr'), 'ilvl'), 'val') ?? style?.level ?? 0),
    )
    if (outline >= 0 && outline < 9 && (!number || number.kind !== 'clause')) {
      if (outline > 2)
        this.tell('changed', 'Headings below the third level; they are headings of the third level now')
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
        this.tell('changed', 'Clauses below the third level; they are numbered on the third level now')
      if (number.special)
        this.tell('changed', `Numbers in the manner ${number.special}; clauses number 1, 1.1, (a) here`)
      return [{ kind: number.kind, level: number.level, content, bookmarks }, ...after]
    }
    const keep = element(properties, 'keepLines') ? { keep: true } : {}
    const block: Block = { type: 'paragraph', attrs: { ...blank, ...keep }, content }
    const indented =
      Number(
        attribute(element(properties, 'ind'), 'left') ?? attribute(element(properties, 'ind'), 'start') ?? 0,
      ) > 200
    return [{ kind: indented ? 'continued' : 'block', block }, ...after]
  }

  /** The words of a paragraph, with fields read; pictures and page breaks go to `found`. */
  private paragraphInlines(paragraph: Element, found?: { pictures: Block[]; breaks: number }): Inline[] {
    const top: Inline[] = []
    const fields: { instruction: (string | Field)[]; result: Inline[]; separated: boolean }[] = []
    const put = (part: Inline) => {
      const field = fields.at(-1)
      if (!field) top.push(part)
      else if (field.separated) field.result.push(part)
      // Words in quotes inside an IF field's instruction count as instruction.
      else if (part.type === 'text') field.instruction.push(part.text)
    }
    const endField = (field: Field) => {
      const outer = fields.at(-1)
      if (outer && !outer.separated) outer.instruction.push(field)
      else this.fieldInlines(field).forEach(put)
    }
    const visit = (node: Element): void => {
      for (const child of elements(node)) {
        switch (child.localName) {
          case 'r':
            this.readRun(child, put, fields, endField, found)
            break
          case 'fldSimple':
            endField({ instruction: [attribute(child, 'instr') ?? ''], result: this.paragraphInlines(child) })
            break
          case 'del':
          case 'moveFrom':
            this.tell('changed', 'Changes that were tracked; the text is taken as if they were accepted')
            break
          case 'hyperlink':
          case 'ins':
          case 'moveTo':
          case 'smartTag':
          case 'sdtContent':
          case 'sdt':
          case 'customXml':
            visit(child)
            break
          case 'oMath':
          case 'oMathPara':
            this.tell('left out', 'A formula')
            break
        }
      }
    }
    visit(paragraph)
    return top
  }

  private readRun(
    run: Element,
    put: (part: Inline) => void,
    fields: { instruction: (string | Field)[]; result: Inline[]; separated: boolean }[],
    endField: (field: Field) => void,
    found: { pictures: Block[]; breaks: number } | undefined,
  ): void {
    const properties = element(run, 'rPr')
    const on = (name: string) => isOn(element(properties, name))
    if (on('vanish')) return this.tell('left out', 'Hidden text')
    if (on('strike') || on('dstrike')) this.tell('changed', 'Struck-out text; it is plain now')
    const marks = (
      [
        ['bold', on('b')],
        ['italic', on('i')],
        ['underline', on('u')],
      ] as [MarkName, boolean][]
    )
      .filter(([, has]) => has)
      .map(([type]) => ({ type }))
    const text = (words: string) => put({ type: 'text', text: words, ...(marks.length ? { marks } : {}) })
    for (const child of elements(run)) {
      switch (child.localName) {
        case 't':
          if (child.textContent) text(child.textContent)
          break
        case 'instrText':
          fields.at(-1)?.instruction.push(child.textContent ?? '')
          break
        case 'tab':
          text('\t')
          break
        case 'noBreakHyphen':
          text('‑')
          break
        case 'br':
        case 'cr':
          if (attribute(child, 'type') === 'page' && found) found.breaks++
          else put({ type: 'hardBreak' })
          break
        case 'fldChar': {
          const type = attribute(child, 'fldCharType')
          if (type === 'begin') fields.push({ instruction: [], result: [], separated: false })
          else if (type === 'separate' && fields.length) fields.at(-1)!.separated = true
          else if (type === 'end' && fields.length) endField(fields.pop()!)
          break
        }
        case 'drawing':
        case 'pict':
        case 'object': {
          const block = found ? this.picture(child) : null
          if (block) found!.pictures.push(block)
          break
        }
        case 'AlternateContent':
          this.tell('left out', 'A drawing or text box')
          break
        case 'footnoteReference':
        case 'endnoteReference':
          this.tell('left out', 'A footnote')
          break
        case 'sym':
          this.tell('left out', 'A sign of a symbol font')
          break
      }
    }
  }

  /** What a field stands for in a template's text. */
  private fieldInlines(field: Field): readonly Inline[] {
    const meaning = meaningOf(field)
    const marks = field.result.find((part) => part.type === 'text')
    switch (meaning.kind) {
      case 'merge field':
        this.labels.set(meaning.name, meaning.label)
        return [
          {
            type: 'mergeField',
            attrs: { field: meaning.name, format: null },
            ...(marks?.type === 'text' && marks.marks ? { marks: marks.marks } : {}),
          },
        ]
      case 'phrases': {
        const [name = '', hint] = meaning.field.split(':')
        if (hint === 'number') this.hints.set(name, new Set(['number']))
        const phrase = (content: Instruction, condition: string | null): Inline[] => {
          const inner = content.flatMap((piece): readonly Inline[] =>
            typeof piece === 'string' ? [{ type: 'text', text: piece }] : this.fieldInlines(piece),
          )
          return inner.length
            ? [
                {
                  type: 'phrase',
                  attrs: { id: '', condition, ...(condition === null ? { alternative: true } : {}) },
                  content: inner,
                },
              ]
            : []
        }
        const then = phrase(meaning.then, meaning.condition)
        // Without words for the case that holds, the other words stand on the opposite.
        return then.length
          ? [...then, ...phrase(meaning.otherwise, null)]
          : phrase(meaning.otherwise, `not(${meaning.condition})`)
      }
      case 'page':
        return [{ type: 'text', text: '{{page}}' }]
      case 'pages':
        return [{ type: 'text', text: '{{pages}}' }]
      case 'reference':
        return [
          {
            type: 'reference',
            attrs: {
              clause: `bookmark:${meaning.bookmark}`,
              form: 'number',
              fallback: inlineText(field.result) || null,
            },
          },
        ]
      case 'unknown':
        if (meaning.name !== 'HYPERLINK')
          this.tell('changed', `A field of the kind ${meaning.name}; the words it showed last are kept`)
        return field.result
    }
  }

  // --- tables -----------------------------------------------------------------------------------------------------

  private table(table: Element): Table {
    const widths = elements(element(table, 'tblGrid'), 'gridCol').map((column) =>
      Number(attribute(column, 'w') ?? 0),
    )
    const open = new Map<number, { -readonly [K in keyof TableCell['attrs']]: TableCell['attrs'][K] }>()
    const rows = elements(table, 'tr').map((row): TableRow => {
      const head = isOn(element(element(row, 'trPr'), 'tblHeader'))
      let column = 0
      let markers: Partial<PassageAttributes> = {}
      const cells = elements(row, 'tc').flatMap((cell, i): TableCell[] => {
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
        const first = i === 0 && pieces[0] && 'block' in pieces[0] ? rowMarkers(pieces[0].block) : null
        if (first) markers = first
        const blocks = this.structure(first ? pieces.slice(1) : pieces)
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
    return { type: 'table', attrs: blank, content: rows.filter((row) => row.content.length > 0) }
  }

  // --- structure --------------------------------------------------------------------------------------------------

  /** Numbered paragraphs as clauses inside clauses, lists as lists; what is indented goes on in the clause before it. */
  private structure(pieces: readonly Piece[]): readonly Block[] {
    interface Node {
      readonly level: number
      readonly clause: { type: 'clause'; attrs: typeof blank & { id: string }; content: Block[] }
    }
    const top: Block[] = []
    let stack: Node[] = []
    const here = () => stack.at(-1)?.clause.content ?? top
    // Markers that are open: what stands between takes them over. Where it stands is known with its first block.
    const open: { marker: Open; place: { into: Block[]; start: number } | null }[] = []
    const put = (block: Block) => {
      for (const each of open) each.place ??= { into: here(), start: here().length }
      here().push(block)
    }
    const close = () => {
      const done = open.pop()
      if (!done?.place) return
      const { into, start } = done.place
      into.push(...under(into.splice(start), done.marker))
    }
    for (const piece of pieces) {
      const markers = 'block' in piece ? markersOnly(piece.block) : null
      if (markers) {
        for (const marker of markers) {
          if (marker.kind === 'end') close()
          else if (marker.kind === 'open') open.push({ marker, place: null })
          else if (marker.kind === 'signatures') {
            stack = []
            put({ type: 'signatureBlock', attrs: { ...blank, roles: marker.roles } })
          }
        }
      } else if (piece.kind === 'clause') {
        const level = Math.min(piece.level, 2)
        stack = stack.filter((node) => node.level < level).slice(0, 2)
        const id = this.newId()
        for (const bookmark of piece.bookmarks) this.bookmarks.set(bookmark, id)
        const first: Block = { type: 'paragraph', attrs: blank, content: piece.content }
        const clause: Node['clause'] = { type: 'clause', attrs: { ...blank, id }, content: [first] }
        put(clause)
        stack.push({ level, clause })
      } else if (piece.kind === 'bullet' || piece.kind === 'letter') {
        const type = piece.kind === 'bullet' ? ('bulletList' as const) : ('orderedList' as const)
        const item: ListItem = {
          type: 'listItem',
          content: [{ type: 'paragraph', attrs: blank, content: piece.content }],
        }
        const last = here().at(-1)
        if (last?.type === type) (last.content as ListItem[]).push(item)
        else put({ type, attrs: blank, content: [item] })
      } else {
        const { block } = piece as Piece & { readonly block: Block }
        if (piece.kind === 'block' && block.type !== 'table') stack = []
        put(block)
      }
    }
    while (open.length) close()
    return top
  }

  private newId(): string {
    return `d${++this.ids}`
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
          this.tell(
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

  private async content(blocks: readonly Block[], page: PageSetup): Promise<TemplateContent> {
    const kept = await keptProperties(this.pack)
    const title =
      (kept.title ?? this.name.replace(/\.docx?$/i, '')).trim().slice(0, 200) || 'Imported template'
    const base = emptyTemplate(title)
    const outline = kept.outline ?? guessedOutline(blocks, { labels: this.labels, hints: this.hints })
    const content: TemplateContent = {
      ...base,
      document: { type: 'doc', content: blocks.length ? blocks : base.document.content },
      outline,
      roles: kept.roles ?? [],
      sending: kept.sending ?? base.sending,
      page: kept.page ?? page,
    }
    if (!kept.outline && outline.length)
      this.tell(
        'changed',
        `${outline.length} merge fields; their types are guessed from their names, look at them under Data`,
        '',
      )
    if (!kept.roles) this.tell('changed', 'Who signs is not in the document; say so under Roles', '')
    const checked = v.safeParse(templateContentSchema, content)
    if (!checked.success)
      throw new DocxFault(`The document cannot become a template: ${checked.issues[0].message}`)
    return checked.output
  }
}

const blank = { id: '', condition: null }

/** A property that is there and not switched off (ECMA-376 part 1, 17.17.4). */
const isOn = (flag: Element | null): boolean =>
  flag !== null && !['0', 'false', 'none', 'off'].includes(attribute(flag, 'val') ?? '')

function alignment(cell: Element): 'left' | 'center' | 'right' {
  const value = attribute(element(element(element(cell, 'p'), 'pPr'), 'jc'), 'val')
  return value === 'center' ? 'center' : value === 'right' || value === 'end' ? 'right' : 'left'
}

const runningText = (part: Inline): string =>
  part.type === 'text'
    ? part.text
    : part.type === 'mergeField'
      ? `{{${part.attrs.field}}}`
      : part.type === 'hardBreak'
        ? ' '
        : ''

/** Tabs and white space at the ends of a paragraph say nothing. */
function tidy(content: readonly Inline[]): readonly Inline[] {
  const plain = content
    .map((part): Inline => (part.type === 'text' ? { ...part, text: part.text.replace(/\t+/g, ' ') } : part))
    .filter((part) => part.type !== 'text' || part.text !== '')
  const first = plain.findIndex((part) => part.type !== 'text' || part.text.trim() !== '')
  const last = plain.findLastIndex((part) => part.type !== 'text' || part.text.trim() !== '')
  if (first < 0) return []
  return plain.slice(first, last + 1).map((part, i, all) => {
    if (part.type !== 'text') return part
    const start = i === 0 ? part.text.trimStart() : part.text
    return { ...part, text: i === all.length - 1 ? start.trimEnd() : start }
  })
}
