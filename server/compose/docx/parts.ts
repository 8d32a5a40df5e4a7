import {
  AlignmentType,
  Bookmark,
  Document,
  Footer,
  Header,
  HeadingLevel,
  ImageRun,
  type IParagraphOptions,
  LevelFormat,
  NumberedItemReference,
  Packer,
  PageNumber,
  Paragraph,
  type ParagraphChild,
  ShadingType,
  Tab,
  Table,
  TableCell,
  TableLayoutType,
  TableRow,
  TextRun,
  WidthType,
  XmlAttributeComponent,
  XmlComponent,
} from 'docx'
import type { StretchStyle } from '#core/merge/finished.ts'
import { readPicture } from '#server/convert/read-picture.ts'

// What WordprocessingML documents of ours are made of, whether a template or a finished agreement. Lengths in twips
// (1/20 point).

/** Names of numbering definitions: clauses in three levels, lettered items, bullets. */
export const CLAUSES = 'clauses'
/** The numbering of lettered items, by its reference. */
export const LETTERS = 'letters'
/** The same of bullets. */
export const BULLETS = 'bullets'

const TEXT_WIDTH = 9360

const level = (
  n: number,
  format: (typeof LevelFormat)[keyof typeof LevelFormat],
  text: string,
  left: number,
  hanging: number,
) => ({
  level: n,
  format,
  text,
  alignment: AlignmentType.LEFT,
  style: { paragraph: { indent: { left, hanging } } },
})

/** How far in the words of clauses stand, by their level, in twips; what is inside a clause stands as far in. */
export const CLAUSE_INDENTS = [480, 1080, 1680] as const
/** How much further in each level of a list stands. */
export const LIST_INDENT = 480

const numbering = {
  config: [
    {
      reference: CLAUSES,
      levels: [
        level(0, LevelFormat.DECIMAL, '%1', CLAUSE_INDENTS[0], 480),
        level(1, LevelFormat.DECIMAL, '%1.%2', CLAUSE_INDENTS[1], 600),
        level(2, LevelFormat.LOWER_LETTER, '(%3)', CLAUSE_INDENTS[2], 600),
      ],
    },
    {
      reference: LETTERS,
      levels: [0, 1, 2, 3].map((n) => level(n, LevelFormat.LOWER_LETTER, `(%${n + 1})`, 480 * (n + 2), 400)),
    },
    {
      reference: BULLETS,
      levels: [0, 1, 2, 3].map((n) => level(n, LevelFormat.BULLET, '•', 480 * (n + 2), 300)),
    },
  ],
}

/** What a cell or the body may have. */
export type Content = Paragraph | Table

/** Levels of titles, the largest first. */
export const HEADINGS = [HeadingLevel.HEADING_1, HeadingLevel.HEADING_2, HeadingLevel.HEADING_3] as const

/** A name for a bookmark: letters, digits and underscores, 40 at most (ECMA-376 part 1, 17.13.6.2). */
export const bookmarkName = (id: string): string => `c_${id.replace(/\W/g, '_')}`.slice(0, 40)

/** A text as runs of one style; line breaks stay. */
export const words = (text: string, style: Partial<StretchStyle> = {}): ParagraphChild[] =>
  text.split('\n').map(
    (line, i) =>
      new TextRun({
        text: line,
        ...(i > 0 ? { break: 1 } : {}),
        ...(style.bold ? { bold: true } : {}),
        ...(style.italic ? { italics: true } : {}),
        ...(style.underline ? { underline: {} } : {}),
      }),
  )

/** The line ends, the paragraph goes on. */
export const lineBreak = (): ParagraphChild => new TextRun({ break: 1 })

/** A reference that a word processor keeps up to date: the number of the paragraph with the bookmark. */
export const numberReference = (id: string, shown: string): ParagraphChild =>
  new NumberedItemReference(bookmarkName(id), shown)

class Instruction extends XmlAttributeComponent<{ readonly instruction: string }> {
  override readonly xmlKeys = { instruction: 'w:instr' }
}

/** A simple field (ECMA-376 part 1, 17.16.19) whose shown words have a style; the library's own has none. */
class StyledField extends XmlComponent {
  constructor(instruction: string, shown: ParagraphChild[]) {
    super('w:fldSimple')
    this.root.push(new Instruction({ instruction }), ...(shown as XmlComponent[]))
  }
}

/** A field of the word processor, with what it shows until it is brought up to date. */
export const field = (instruction: string, shown: string, style: Partial<StretchStyle>): ParagraphChild =>
  new StyledField(instruction, words(shown, style)) as unknown as ParagraphChild

/** A paragraph; with `bookmark` it can be referred to. */
export const paragraph = (
  children: ParagraphChild[],
  options: IParagraphOptions = {},
  bookmark: string | null = null,
): Paragraph =>
  new Paragraph({
    ...options,
    children: bookmark === null ? children : [new Bookmark({ id: bookmarkName(bookmark), children })],
  })

/** Ways of setting a paragraph. */
export const ALIGN = {
  left: AlignmentType.LEFT,
  center: AlignmentType.CENTER,
  right: AlignmentType.RIGHT,
} as const

/** A cell, with the columns and rows that it spans. */
export interface CellContent {
  readonly content: Content[]
  readonly colspan: number
  readonly rowspan: number
  readonly head: boolean
}

/** A table; `widths` are proportions of the text’s width. */
export function table(
  widths: readonly number[],
  rows: readonly { readonly head: boolean; readonly cells: readonly CellContent[] }[],
  indent = 0,
): Table {
  const whole = widths.reduce((sum, width) => sum + width, 0)
  const twips = widths.map((width) => Math.round((width / whole) * (TEXT_WIDTH - indent)))
  return new Table({
    width: { size: TEXT_WIDTH - indent, type: WidthType.DXA },
    ...(indent ? { indent: { size: indent, type: WidthType.DXA } } : {}),
    layout: TableLayoutType.FIXED,
    columnWidths: twips,
    rows: rows.map(
      ({ head, cells }) =>
        new TableRow({
          tableHeader: head,
          cantSplit: true,
          children: cells.map(
            (cell) =>
              new TableCell({
                children: cell.content.length ? cell.content : [new Paragraph({})],
                columnSpan: cell.colspan,
                rowSpan: cell.rowspan,
                ...(cell.head ? { shading: { type: ShadingType.CLEAR, fill: 'F1EDE4' } } : {}),
              }),
          ),
        }),
    ),
  })
}

/** A picture by its bytes. */
export interface Picture {
  readonly bytes: Uint8Array
}

/** A picture `percent` of the text wide; one that a word processor cannot show is told by its words. */
export function picture(
  found: Picture | undefined,
  percent: number,
  alt: string,
  align: keyof typeof ALIGN,
  indent = 0,
): Paragraph {
  const place = { alignment: ALIGN[align], ...(indent ? { indent: { left: indent } } : {}) }
  const read = found && readPicture(found.bytes)
  const type =
    read?.ok && read.mediaType === 'image/png'
      ? 'png'
      : read?.ok && read.mediaType === 'image/jpeg'
        ? 'jpg'
        : null
  if (!found || !read?.ok || !type) return paragraph(words(`[${alt || 'picture'}]`), place)
  // 9360 twips are 624 pixels of 1/96 inch.
  const width = (624 * percent) / 100
  return paragraph(
    [
      new ImageRun({
        type,
        data: Buffer.from(found.bytes),
        transformation: { width, height: (width * read.height) / read.width },
        altText: { name: alt || 'picture', description: alt, title: alt },
      }),
    ],
    place,
  )
}

/** A piece of head or foot. */
export type Piece = { readonly text: string } | { readonly count: 'page' | 'pages' }

const running = (slots: readonly (readonly Piece[])[]): Paragraph =>
  new Paragraph({
    tabStops: [
      { type: 'center', position: TEXT_WIDTH / 2 },
      { type: 'right', position: TEXT_WIDTH },
    ],
    children: slots.flatMap((pieces, i) => [
      ...(i > 0 ? [new TextRun({ children: [new Tab()] })] : []),
      ...pieces.map(
        (piece) =>
          new TextRun({
            size: 16,
            children: [
              'text' in piece
                ? piece.text
                : piece.count === 'page'
                  ? PageNumber.CURRENT
                  : PageNumber.TOTAL_PAGES,
            ],
          }),
      ),
    ]),
  })

/** Everything that a document is put together from. */
export interface Assembly {
  readonly title: string
  readonly language: string
  readonly paper: 'us-letter' | 'a4'
  readonly head: readonly (readonly Piece[])[]
  readonly foot: readonly (readonly Piece[])[]
  readonly content: Content[]
  readonly properties?: readonly { readonly name: string; readonly value: string }[]
}

const PAPERS = {
  'us-letter': { width: 12_240, height: 15_840 },
  a4: { width: 11_906, height: 16_838 },
} as const

/** The document as bytes of a DOCX file (ECMA-376). */
export async function assemble({
  title,
  language,
  paper,
  head,
  foot,
  content,
  properties,
}: Assembly): Promise<Uint8Array> {
  const document = new Document({
    title,
    creator: 'Brevan',
    ...(properties ? { customProperties: properties } : {}),
    styles: {
      default: {
        document: {
          run: { font: 'Georgia', size: 22, language: { value: language } },
          paragraph: { spacing: { after: 120, line: 276 } },
        },
        heading1: { run: { size: 38, bold: true, font: 'Georgia' }, paragraph: { spacing: { after: 240 } } },
        heading2: {
          run: { size: 25, bold: true, font: 'Georgia' },
          paragraph: { spacing: { before: 320, after: 120 } },
        },
        heading3: {
          run: { size: 22, bold: true, font: 'Georgia' },
          paragraph: { spacing: { before: 240, after: 100 } },
        },
      },
    },
    numbering,
    sections: [
      {
        properties: {
          page: { size: PAPERS[paper], margin: { top: 1440, bottom: 1440, left: 1440, right: 1440 } },
        },
        headers: { default: new Header({ children: [running(head)] }) },
        footers: { default: new Footer({ children: [running(foot)] }) },
        children: content,
      },
    ],
  })
  return Packer.toBuffer(document)
}
