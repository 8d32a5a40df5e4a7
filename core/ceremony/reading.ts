import { blanksOf, type PlacedBlank } from '../agreement/signing.ts'
import { goesOn, type PrintedLine, rightEdge } from '../form/lines.ts'
import type {
  FinishedBlank,
  FinishedBlock,
  FinishedDocument,
  FinishedPages,
  SignaturePlace,
  Stretch,
} from '../merge/finished.ts'

/** A place to be filled as one party sees it: their own by its id, another’s by what stands in it once that one has signed. */
export interface ReadingPlace {
  readonly id: string | null
  readonly label: string
  readonly said: string
}

/** A stretch of words of one style, or one of the reader’s places among them. */
export type ReadingRun =
  | {
      readonly kind: 'text'
      readonly text: string
      readonly bold: boolean
      readonly italic: boolean
      readonly underline: boolean
    }
  | { readonly kind: 'break' }
  | { readonly kind: 'place'; readonly place: ReadingPlace }

/** A part of the document as a narrow screen reads it, without pages. */
export type ReadingBlock =
  | { readonly kind: 'heading'; readonly level: number; readonly runs: readonly ReadingRun[] }
  | { readonly kind: 'paragraph'; readonly runs: readonly ReadingRun[] }
  | {
      readonly kind: 'clause'
      readonly number: string
      readonly depth: number
      readonly blocks: readonly ReadingBlock[]
    }
  | { readonly kind: 'list'; readonly ordered: boolean; readonly items: readonly (readonly ReadingBlock[])[] }
  | { readonly kind: 'table'; readonly rows: readonly ReadingRow[] }
  | { readonly kind: 'image'; readonly file: string; readonly alt: string; readonly width: number }
  | { readonly kind: 'signatures'; readonly parties: readonly ReadingSignature[] }

/** A row of a table; spans count columns and rows. */
export interface ReadingRow {
  readonly head: boolean
  readonly cells: readonly {
    readonly blocks: readonly ReadingBlock[]
    readonly colspan: number
    readonly rowspan: number
    readonly align: 'left' | 'center' | 'right'
    readonly head: boolean
  }[]
}

/** Where one role signs, with the date beside it. */
export interface ReadingSignature {
  readonly label: string
  readonly name: string
  readonly title: string
  readonly signature: ReadingPlace
  readonly date: ReadingPlace
}

/** A document for the reading view; `language` is BCP 47. */
export interface ReadingDocument {
  readonly title: string
  readonly language: string
  readonly blocks: readonly ReadingBlock[]
  /** The reader’s places that stand on the pages and in no passage: initials of each page. */
  readonly onPages: readonly ReadingPlace[]
}

/** What the reading of a document depends on besides its text. */
export interface Reader {
  readonly role: string
  /** Those of this document. */
  readonly blanks: readonly PlacedBlank[]
  /** The id in the whole of a blank of this document: of a packet it carries the document's place. */
  readonly idOf: (id: string) => string
  /** What others put in who have signed, by blank; nothing of those who have not. */
  readonly said: (blankId: string) => string
  /** The lines that a page of a brought in file has itself, from top to bottom. */
  readonly linesOn: (file: string, page: number) => readonly PrintedLine[]
}

const plain = (text: string): ReadingRun => ({
  kind: 'text',
  text,
  bold: false,
  italic: false,
  underline: false,
})

/** Points below its lower edge up to which a line's baseline is the one that something stands on. */
const AFTER_ITS_LINE = 2

/**
 * A finished document as one party reads it, flowing: the same text with its numbers, their own blanks in their places, and of
 * others’ nothing but a label and what they have signed. Where values come from is not told.
 */
export function readingOf(document: FinishedDocument, reader: Reader): ReadingDocument {
  const reading = new Reading(reader)
  const blocks = document.body === 'text' ? reading.blocks(document.blocks) : reading.pages(document)
  return { title: document.title, language: document.language, blocks, onPages: reading.initialsOnPages() }
}

class Reading {
  private readonly own: ReadonlySet<string>
  private readonly seen = new Set<string>()

  constructor(private readonly reader: Reader) {
    this.own = new Set(blanksOf(reader.blanks, reader.role).map(({ id }) => id))
  }

  readonly blocks = (blocks: readonly FinishedBlock[]): readonly ReadingBlock[] =>
    blocks.flatMap((block) => this.block(block))

  pages({ pages }: FinishedPages): readonly ReadingBlock[] {
    return pages.flatMap(({ file, page, turn, places }) => {
      // The page's own lines, and what stands on it after the line it stands on.
      const lines = turn === 0 ? this.reader.linesOn(file, page) : []
      const found: readonly { y: number; line?: PrintedLine; runs: readonly ReadingRun[] }[] = [
        ...lines.map((line) => ({ y: line.base, line, runs: [plain(line.text)] })),
        ...places.map(({ y, height, runs }) => ({
          y: y + height + AFTER_ITS_LINE,
          runs: runs.map(this.run),
        })),
      ]
      const right = rightEdge(lines)
      const paragraphs: { last: PrintedLine | undefined; runs: ReadingRun[] }[] = []
      for (const { line, runs } of found.toSorted((a, b) => a.y - b.y)) {
        const before = paragraphs.at(-1)
        if (before?.last && line && goesOn(before.last, line, right)) {
          before.runs.push(plain(' '), ...runs)
          before.last = line
        } else paragraphs.push({ last: line, runs: [...runs] })
      }
      return paragraphs.map(({ runs }): ReadingBlock => ({ kind: 'paragraph', runs }))
    })
  }

  /** Initials that have no place in the text, once that was read: they stand on every page. */
  initialsOnPages(): ReadingDocument['onPages'] {
    return blanksOf(this.reader.blanks, this.reader.role)
      .filter(({ id, kind }) => kind === 'initials' && !this.seen.has(id))
      .map(({ id, label }) => ({ id, label, said: '' }))
  }

  private block(block: FinishedBlock): readonly ReadingBlock[] {
    switch (block.kind) {
      case 'heading':
        return [{ kind: 'heading', level: block.level, runs: block.runs.map(this.run) }]
      case 'paragraph':
        return [{ kind: 'paragraph', runs: block.runs.map(this.run) }]
      case 'clause':
        return [
          { kind: 'clause', number: block.number, depth: block.depth, blocks: this.blocks(block.blocks) },
        ]
      case 'list':
        return [{ kind: 'list', ordered: block.ordered, items: block.items.map(this.blocks) }]
      case 'table':
        return [
          {
            kind: 'table',
            rows: block.rows.map(({ head, cells }) => ({
              head,
              cells: cells.map((cell) => ({ ...cell, blocks: this.blocks(cell.blocks) })),
            })),
          },
        ]
      case 'image':
        return [{ kind: 'image', file: block.file, alt: block.alt, width: block.width }]
      case 'signatures':
        return [{ kind: 'signatures', parties: block.parties.map((party) => this.signature(party)) }]
      case 'page break':
        return []
    }
  }

  private readonly run = (stretch: Stretch): ReadingRun => {
    if (stretch.kind === 'break') return { kind: 'break' }
    if (stretch.kind === 'blank') return { kind: 'place', place: this.place(stretch.blank) }
    const { text, bold, italic, underline } = stretch
    return { kind: 'text', text, bold, italic, underline }
  }

  private signature({ label, name, title, signature: by, date }: SignaturePlace): ReadingSignature {
    return { label, name, title, signature: this.place(by), date: this.place(date) }
  }

  private place({ id: inDocument, label }: Pick<FinishedBlank, 'id' | 'label'>): ReadingPlace {
    const id = this.reader.idOf(inDocument)
    this.seen.add(id)
    return this.own.has(id) ? { id, label, said: '' } : { id: null, label, said: this.reader.said(id) }
  }
}
