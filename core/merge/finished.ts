import type { BlankKind } from '../document/tree.ts'
import type { RoleShape } from '../document/template.ts'

/** A finished document: plain data that a page engine can draw without knowing templates or records. */
export interface FinishedDocument {
  readonly title: string
  readonly language: string
  /** Shown in the page foot; null before a number is allotted. */
  readonly number: string | null
  readonly blocks: readonly FinishedBlock[]
  /** Initials wanted on every page, in signing order. */
  readonly initials: readonly { readonly role: string; readonly label: string; readonly shape: RoleShape }[]
}

export type FinishedBlock =
  | { readonly kind: 'heading'; readonly level: number; readonly runs: readonly Run[] }
  | { readonly kind: 'paragraph'; readonly runs: readonly Run[] }
  | {
      readonly kind: 'clause'
      readonly id: string
      readonly number: string
      readonly depth: number
      readonly blocks: readonly FinishedBlock[]
    }
  | { readonly kind: 'list'; readonly items: readonly (readonly FinishedBlock[])[] }
  | { readonly kind: 'signatures'; readonly parties: readonly SignaturePlace[] }
  | { readonly kind: 'page break' }

export interface SignaturePlace {
  readonly role: string
  readonly label: string
  readonly name: string
  readonly title: string
  readonly signature: FinishedBlank
  readonly date: FinishedBlank
}

export type Run =
  | {
      readonly kind: 'text'
      readonly text: string
      readonly bold: boolean
      readonly italic: boolean
      readonly origin: number | null
      readonly gap: boolean
    }
  | { readonly kind: 'blank'; readonly blank: FinishedBlank }
  | { readonly kind: 'break' }

export interface FinishedBlank {
  readonly id: string
  readonly kind: BlankKind
  readonly role: string
  readonly shape: RoleShape
  readonly letter: string
  readonly label: string
  readonly required: boolean
}

/** Where a merged part came from; a run names it by its place in the list. */
export interface Origin {
  readonly field: string
  readonly label: string
  readonly format: string
  /** The formula of a computed value. */
  readonly formula: string | null
  /** The clause it stands in and the condition that kept that clause. */
  readonly clause: string | null
  readonly condition: string | null
}

export interface MergeProblem {
  readonly field: string | null
  readonly block: string | null
  readonly message: string
}

export interface Person {
  readonly role: string
  readonly label: string
  readonly order: number
  readonly name: string
  readonly email: string
  readonly title: string
}

export interface Merged {
  readonly document: FinishedDocument
  readonly origins: readonly Origin[]
  readonly people: readonly Person[]
  readonly problems: readonly MergeProblem[]
  /** Key of the wording: see `wording/`. */
  readonly wording: string
}
