import type { BlankKind, Box, TickPlaces } from '../document/tree.ts'

// What is found on a page by reading it. All places in points from the page's top left corner, as it is shown.

/** A word as it is printed. `base` is its baseline, `size` the size of its letters. */
export interface PageWord extends Box {
  readonly text: string
  readonly base: number
  readonly size: number
}

/** A straight line, across or down; `x1 <= x2`, `y1 <= y2`. */
export interface PageLine {
  readonly x1: number
  readonly y1: number
  readonly x2: number
  readonly y2: number
}

/** A page as it was read: its words in the order of the file, its lines, its frames. */
export interface PageRead {
  readonly width: number
  readonly height: number
  readonly words: readonly PageWord[]
  readonly lines: readonly PageLine[]
  /** Rectangles that are drawn as frames. */
  readonly boxes: readonly Box[]
}

/** Kinds of fields that a file may have. */
export const FOUND_KINDS = ['text', 'tick', 'choice', 'signature', 'value'] as const

/**
 * A field that a form's file has itself (ISO 32000-1, 12.7), or a marker in its text, with where it stands. Of a marker `blank` says
 * whose it is, or its kind is `value`; its letters were taken out of the page.
 */
export interface FoundField {
  readonly name: string
  /** What it says to its reader, else its name. */
  readonly label: string
  readonly kind: (typeof FOUND_KINDS)[number]
  /** Page of the file, from 1. */
  readonly page: number
  readonly box: Box
  readonly required: boolean
  /** Of a choice. */
  readonly options?: readonly string[] | undefined
  /** Of a choice that is ticked. */
  readonly ticks?: TickPlaces | undefined
  readonly maxLength?: number | undefined
  /** One character to a cell. */
  readonly comb?: boolean | undefined
  readonly lines?: number | undefined
  readonly blank?: { readonly kind: BlankKind; readonly role: string; readonly prefill?: string } | undefined
  /** Of a value. */
  readonly format?: string | undefined
  /** What stood in it. */
  readonly value?: string | undefined
}
