/** The template's text as a tree; the editor's JSON has exactly this shape. */
export interface DocumentTree {
  readonly type: 'doc'
  readonly content: readonly Block[]
}

/** `condition` is a FEEL expression; the block stands only where it is true. `id` is unique in a document. */
export interface BlockAttributes {
  readonly id: string
  readonly condition: string | null
}

export type Block = Heading | Paragraph | Clause | BulletList | SignatureBlock | PageBreak

export interface Heading {
  readonly type: 'heading'
  readonly attrs: BlockAttributes & { readonly level: 1 | 2 | 3 }
  readonly content?: readonly Inline[]
}

export interface Paragraph {
  readonly type: 'paragraph'
  readonly attrs: BlockAttributes
  readonly content?: readonly Inline[]
}

/** A numbered unit; clauses inside a clause number one level deeper, to three levels. */
export interface Clause {
  readonly type: 'clause'
  readonly attrs: BlockAttributes
  readonly content: readonly Block[]
}

export interface BulletList {
  readonly type: 'bulletList'
  readonly attrs: BlockAttributes
  readonly content: readonly { readonly type: 'listItem'; readonly content: readonly Block[] }[]
}

/** Where the parties sign: a signature and a date blank for each role, never split over pages. */
export interface SignatureBlock {
  readonly type: 'signatureBlock'
  readonly attrs: BlockAttributes & { readonly roles: readonly string[] }
}

export interface PageBreak {
  readonly type: 'pageBreak'
  readonly attrs: BlockAttributes
}

export type Inline = Text | MergeField | BlankPlace | HardBreak

export interface Text {
  readonly type: 'text'
  readonly text: string
  readonly marks?: readonly { readonly type: 'bold' | 'italic' }[]
}

/** Shows a field's value; `format` is one of the display formats of its type, null the default. */
export interface MergeField {
  readonly type: 'mergeField'
  readonly attrs: { readonly field: string; readonly format: string | null }
  readonly marks?: Text['marks']
}

export const BLANK_KINDS = ['signature', 'initials', 'date', 'text'] as const
export type BlankKind = (typeof BLANK_KINDS)[number]

/** What a signer fills in. A `date` blank takes the day of signing by itself. */
export interface BlankPlace {
  readonly type: 'blank'
  readonly attrs: {
    readonly id: string
    readonly kind: BlankKind
    readonly role: string
    readonly label: string
    readonly required: boolean
  }
}

export interface HardBreak {
  readonly type: 'hardBreak'
}
