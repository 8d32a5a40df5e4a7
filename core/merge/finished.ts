import type { RoleShape } from '../document/template.ts'
import type { BlankKind, Box, PlacedStyle, TickPlaces, Turn } from '../document/tree.ts'

/** A piece of a page's head or foot: words, or a number only the page engine knows. */
export type RunningPiece = { readonly text: string } | { readonly count: 'page' | 'pages' }
/** Left, middle and right part of a head or foot. */
export type RunningLine = readonly [readonly RunningPiece[], readonly RunningPiece[], readonly RunningPiece[]]

/** A finished document: plain data that a page engine can draw without knowing templates or records. */
export type FinishedDocument = FinishedText | FinishedPages

/** Initials wanted on every page, in signing order. */
export type PageInitials = readonly {
  readonly role: string
  readonly label: string
  readonly shape: RoleShape
}[]

/** Pages that are there already, with what is laid over them. */
export interface FinishedPages {
  readonly body: 'pages'
  readonly title: string
  readonly language: string
  readonly pages: readonly FinishedPage[]
  readonly initials: PageInitials
}

/** A page of a file in the store, see `FormPage`. */
export interface FinishedPage {
  readonly file: string
  readonly page: number
  readonly turn: Turn
  readonly places: readonly FinishedPlace[]
}

/** What stands in a rectangle of a page: words, or places to be filled, of several people beside each other. */
export interface FinishedPlace extends Box {
  readonly source: string
  readonly style: PlacedStyle
  readonly runs: readonly Stretch[]
  readonly ticks: TickPlaces | undefined
}

/** A document of running text with everything filled in, ready to be laid out. */
export interface FinishedText {
  readonly body: 'text'
  readonly title: string
  readonly language: string
  readonly paper: 'us-letter' | 'a4'
  readonly head: RunningLine
  readonly foot: RunningLine
  readonly blocks: readonly FinishedBlock[]
  readonly initials: PageInitials
}

/** `keep`: stays on one page. `source` is the passage of the template it was made from. */
interface Common {
  readonly keep: boolean
  readonly source: string
}

/** A block of it; `id`s are unique in the document. */
export type FinishedBlock = Common &
  (
    | { readonly kind: 'heading'; readonly level: number; readonly runs: readonly Stretch[] }
    | { readonly kind: 'paragraph'; readonly runs: readonly Stretch[] }
    | {
        readonly kind: 'clause'
        /** Name that references use; unique in the document. */
        readonly id: string
        readonly number: string
        readonly depth: number
        readonly blocks: readonly FinishedBlock[]
      }
    | {
        readonly kind: 'list'
        readonly ordered: boolean
        readonly items: readonly (readonly FinishedBlock[])[]
      }
    | {
        readonly kind: 'table'
        /** Widths of the columns as parts of the whole. */
        readonly widths: readonly number[]
        readonly rows: readonly FinishedRow[]
      }
    | {
        readonly kind: 'image'
        readonly file: string
        readonly alt: string
        /** Percent of the text's width. */
        readonly width: number
        readonly align: 'left' | 'center' | 'right'
      }
    | { readonly kind: 'signatures'; readonly parties: readonly SignaturePlace[] }
    | { readonly kind: 'page break' }
  )

/** `head`: repeated where the table goes on over a page. */
export interface FinishedRow {
  readonly head: boolean
  readonly cells: readonly {
    readonly blocks: readonly FinishedBlock[]
    readonly colspan: number
    readonly rowspan: number
    readonly align: 'left' | 'center' | 'right'
    readonly head: boolean
  }[]
}

/** Where one role signs, with the date beside it. */
export interface SignaturePlace {
  readonly role: string
  readonly label: string
  readonly name: string
  readonly title: string
  readonly signature: FinishedBlank
  readonly date: FinishedBlank
}

/** How a stretch of words is set. */
export interface StretchStyle {
  readonly bold: boolean
  readonly italic: boolean
  readonly underline: boolean
}

/** The style that marks give. */
export const stretchStyle = (marks: readonly { readonly type: string }[] | undefined): StretchStyle => {
  const has = (mark: string) => marks?.some(({ type }) => type === mark) ?? false
  return { bold: has('bold'), italic: has('italic'), underline: has('underline') }
}

/** A stretch of words of one style and one origin. `origin` counts into the merge’s origins; null: the template’s own words. */
export type Stretch =
  | (StretchStyle & {
      readonly kind: 'text'
      readonly text: string
      readonly origin: number | null
      readonly gap: boolean
    })
  /** The number of a clause; `target` is that clause's id, null where the clause fell away and the fallback stands. */
  | (StretchStyle & { readonly kind: 'reference'; readonly text: string; readonly target: string | null })
  | { readonly kind: 'blank'; readonly blank: FinishedBlank }
  | { readonly kind: 'break' }

/** What a signing page has to know of a blank besides its place. */
export interface BlankRules {
  /** What stands here already; `locked` blanks with one are drawn as text and are no blanks any more. */
  readonly preset?: string | undefined
  readonly options?: readonly string[] | undefined
  readonly least?: number | undefined
  readonly most?: number | undefined
  readonly check?: string | undefined
  readonly message?: string | undefined
  readonly group?: { readonly name: string; readonly least: number; readonly most: number | null } | undefined
}

/** A blank of the finished document. */
export interface FinishedBlank {
  readonly id: string
  readonly kind: BlankKind
  readonly role: string
  readonly shape: RoleShape
  readonly letter: string
  readonly label: string
  readonly required: boolean
  readonly rules: BlankRules
}

/** Where a merged part came from; a run names it by its place in the list. */
export interface Origin {
  readonly field: string
  readonly label: string
  readonly format: string
  /** The formula of a computed value, and the same with the values it was worked out from. */
  readonly formula: string | null
  readonly worked: string | null
  /** The clause it stands in, the condition that kept it, and why that holds. */
  readonly clause: string | null
  readonly condition: string | null
  readonly because: string | null
  /** Place in its list, from 1, of a value inside a repeat. */
  readonly item: number | null
  /** Id of the passage of the template it stands in. */
  readonly passage: string
}

/** What a record lacks for this document; null where it is about no field or no block. */
export interface MergeProblem {
  readonly field: string | null
  readonly block: string | null
  /** The condition, by its id, that it follows from where that is not the passage's. */
  readonly condition?: string
  readonly message: string
}

/** Someone who signs. `role` is the role's key, with `.2`, `.3` … behind it for the further people of one role. */
export interface Person {
  readonly role: string
  readonly label: string
  readonly order: number
  readonly name: string
  readonly email: string
  readonly title: string
  readonly company: string
  readonly phone: string
}

/** A record merged: the document, where each value is from, and who signs. */
export interface Merged {
  readonly document: FinishedDocument
  readonly origins: readonly Origin[]
  readonly people: readonly Person[]
  readonly problems: readonly MergeProblem[]
  /** Key of the wording: see `wording/`. */
  readonly wording: string
}
