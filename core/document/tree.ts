/** What a template consists of: text that is laid out on pages, or pages that people already have with places on them. */
export type Body = DocumentTree | PagesTree

/** The template's text as a tree; the editor's JSON has exactly this shape. */
export interface DocumentTree {
  readonly type: 'doc'
  readonly content: readonly Block[]
}

/**
 * What decides whether, and how often, a passage stands. Passages are blocks, list items, table rows and phrases.
 * `id` is unique in a document.
 */
export interface PassageAttributes {
  readonly id: string
  /** FEEL expression; the passage stands only where it is true. */
  readonly condition: string | null
  /**
   * The passage is an alternative to the one directly before it: it stands only where none of its chain before it does,
   * and its own condition (none: otherwise) holds.
   */
  readonly alternative?: boolean | undefined
  /** Name of a list of the outline: the passage stands once for each of its items, which conditions inside call `item`. */
  readonly repeat?: string | null | undefined
}

/** What every block has. */
export interface BlockAttributes extends PassageAttributes {
  /** Stays on one page; of signatures, which do anyway: with the passage above them. */
  readonly keep?: boolean | undefined
}

/** What stands below one another in a document. */
export type Block =
  Heading | Paragraph | Clause | BulletList | OrderedList | Table | Image | SignatureBlock | PageBreak

/** A title without a number; `level` 1 is the largest. */
export interface Heading {
  readonly type: 'heading'
  readonly attrs: BlockAttributes & { readonly level: 1 | 2 | 3 }
  readonly content?: readonly Inline[] | undefined
}

/** A paragraph without a number of its own. */
export interface Paragraph {
  readonly type: 'paragraph'
  readonly attrs: BlockAttributes
  readonly content?: readonly Inline[] | undefined
}

/** A clause of the library that a clause was taken from. `linked`: it follows the library when asked; else a copy. */
export interface LibrarySource {
  readonly clause: string
  readonly edition: number
  readonly linked: boolean
}

/** A numbered unit; clauses inside a clause number one level deeper, to three levels. */
export interface Clause {
  readonly type: 'clause'
  readonly attrs: BlockAttributes & { readonly source?: LibrarySource | null | undefined }
  readonly content: readonly Block[]
}

/** An item of a list; it may have several blocks. */
export interface ListItem {
  readonly type: 'listItem'
  readonly attrs?: PassageAttributes | undefined
  readonly content: readonly Block[]
}

/** Items without an order. */
export interface BulletList {
  readonly type: 'bulletList'
  readonly attrs: BlockAttributes
  readonly content: readonly ListItem[]
}

/** Lettered items: (a), (b), … */
export interface OrderedList {
  readonly type: 'orderedList'
  readonly attrs: BlockAttributes
  readonly content: readonly ListItem[]
}

/** A table, row by row. */
export interface Table {
  readonly type: 'table'
  readonly attrs: BlockAttributes
  readonly content: readonly TableRow[]
}

/** A row; repeated, it stands once for each item of a list. */
export interface TableRow {
  readonly type: 'tableRow'
  readonly attrs: PassageAttributes
  readonly content: readonly TableCell[]
}

/** `colwidth` in CSS pixels of the editor, one per column spanned; only their proportion counts on the page. */
export interface TableCell {
  readonly type: 'tableCell' | 'tableHeader'
  readonly attrs: {
    readonly colspan: number
    readonly rowspan: number
    readonly colwidth: readonly number[] | null
    readonly align?: 'left' | 'center' | 'right' | null | undefined
  }
  readonly content: readonly Block[]
}

/** A picture from the file store; `width` in percent of the text's width. */
export interface Image {
  readonly type: 'image'
  readonly attrs: BlockAttributes & {
    readonly file: string
    readonly alt: string
    readonly width: number
    readonly align?: 'left' | 'center' | 'right' | undefined
  }
}

/** Where the parties sign: a signature and a date blank for each role, never split over pages. */
export interface SignatureBlock {
  readonly type: 'signatureBlock'
  readonly attrs: BlockAttributes & { readonly roles: readonly string[] }
}

/** What follows begins on the next page. */
export interface PageBreak {
  readonly type: 'pageBreak'
  readonly attrs: BlockAttributes
}

/** What stands beside one another in a line. */
export type Inline = Text | MergeField | BlankPlace | HardBreak | Phrase | Reference

/** Styles of a stretch of words. */
export const MARKS = ['bold', 'italic', 'underline'] as const
export type MarkName = (typeof MARKS)[number]

/** Words of one style. */
export interface Text {
  readonly type: 'text'
  readonly text: string
  readonly marks?: readonly { readonly type: MarkName }[] | undefined
}

/** Shows a field's value; `format` is one of the display formats of its type, null the default. */
export interface MergeField {
  readonly type: 'mergeField'
  readonly attrs: { readonly field: string; readonly format: string | null }
  readonly marks?: Text['marks']
}

/** Words inside a paragraph that stand on a condition. */
export interface Phrase {
  readonly type: 'phrase'
  readonly attrs: PassageAttributes
  readonly content?: readonly Inline[] | undefined
}

/** The number of a clause, kept by the clause and not by the number. `fallback` is said where the clause is dropped. */
export interface Reference {
  readonly type: 'reference'
  readonly attrs: {
    readonly clause: string
    readonly form: 'number' | 'number and title'
    readonly fallback: string | null
  }
  readonly marks?: Text['marks']
}

/**
 * `date` is the day of signing, `name`, `title` and `company` the signer's own; all four fill themselves.
 * A `choice` takes one of its options, or some of them where `most` is over 1.
 */
export const BLANK_KINDS = [
  'signature',
  'initials',
  'date',
  'name',
  'title',
  'company',
  'text',
  'number',
  'tick',
  'choice',
  'file',
] as const
export type BlankKind = (typeof BLANK_KINDS)[number]

/** What a signer fills in. */
export interface BlankPlace {
  readonly type: 'blank'
  readonly attrs: {
    readonly id: string
    readonly kind: BlankKind
    readonly role: string
    readonly label: string
    readonly required: boolean
    /** FEEL over the record: the blank is there only where it is true. */
    readonly condition?: string | null | undefined
    /** A field whose value, where it is known, stands here already: for good (`locked`) or for the signer to change. */
    readonly prefill?: string | null | undefined
    readonly locked?: boolean | undefined
    /** FEEL over `value`, what was filled in; and what is said where it is not true. */
    readonly check?: string | null | undefined
    readonly message?: string | null | undefined
    readonly options?: readonly string[] | undefined
    /** Of a choice: how many options at least and at most. */
    readonly least?: number | undefined
    readonly most?: number | undefined
    /** Ticks of one group are counted together, see `TickGroup`. */
    readonly group?: string | null | undefined
  }
}

/** The line ends here, the paragraph goes on. */
export interface HardBreak {
  readonly type: 'hardBreak'
}

/** Pages brought in from files, in the order they go out, and what is placed on them. */
export interface PagesTree {
  readonly type: 'pages'
  readonly content: readonly FormPage[]
}

/** Quarters of a turn, clockwise, in degrees. */
export const TURNS = [0, 90, 180, 270] as const
export type Turn = (typeof TURNS)[number]

/**
 * A page of a file in the store, which stands where its condition holds. `page` counts from 1; `width` and `height` are what
 * is shown, in points, after its turn.
 */
export interface FormPage {
  readonly type: 'page'
  readonly attrs: PassageAttributes & {
    readonly file: string
    readonly page: number
    readonly turn: Turn
    readonly width: number
    readonly height: number
  }
  readonly content: readonly Placement[]
}

/** A rectangle on a page, in points from its top left corner as it is shown. */
export interface Box {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

/**
 * A phrase of the page that a placement keeps its distance to. `nth` counts from 1 over all pages in order; `every`: it
 * stands beside each occurrence. `dx`, `dy`: from the left end of the phrase's baseline to the placement's top left corner.
 */
export interface TextCue {
  readonly phrase: string
  readonly nth: number | 'every'
  readonly dx: number
  readonly dy: number
}

/** Faces of words that are placed on a page. */
export const PLACED_FONTS = ['sans', 'serif', 'typewriter'] as const
export type PlacedFont = (typeof PLACED_FONTS)[number]

/** How words are set in a placement. Sizes in points. */
export interface PlacedStyle {
  readonly font: PlacedFont
  readonly size: number
  readonly align: 'left' | 'center' | 'right'
  /** Words that do not fit are set smaller, down to this size; null: never. */
  readonly least: number | null
  /** At most so many lines; 1: it never wraps. */
  readonly lines: number
  /** One character in each of so many cells of the same width; null: set as words. */
  readonly comb: number | null
}

/** Squares to tick, in the order of a choice's options: their side in points and their top left corners. */
export interface TickPlaces {
  readonly size: number
  readonly at: readonly { readonly x: number; readonly y: number }[]
}

/** Something laid over a page: words, values, or a blank. */
export interface Placement {
  readonly type: 'placement'
  readonly attrs: PassageAttributes &
    Box & {
      readonly style?: PlacedStyle | undefined
      readonly cue?: TextCue | null | undefined
      /** Made by the cue of another placement, which keeps it; see `core/form/cues.ts`. */
      readonly of?: string | null | undefined
      /** Not surely found again in another version of its file: somebody has to look where it stands. */
      readonly lost?: true | undefined
      /** Of a choice: where the page shows its options to be ticked. */
      readonly ticks?: TickPlaces | undefined
    }
  readonly content: readonly (Text | MergeField | BlankPlace)[]
}

/** Whatever can have a condition, an alternative or a repeat. */
export type Passage = Block | ListItem | TableRow | Phrase | FormPage | Placement
/** Any part of the tree below its top. */
export type TreePart = Passage | TableCell | Inline
