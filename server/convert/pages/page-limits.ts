import type { FoundField, PageRead } from '#core/form/page-read.ts'

/** What one file of pages may have: bytes, pages, pixels of a picture and on its longer side. */
export const PAGE_LIMITS = { bytes: 60_000_000, pages: 1000, pixels: 80_000_000, side: 16_000 } as const

/** What did not carry over from a file, as a template's report tells it. */
export interface PageRemark {
  readonly kind: 'carried over' | 'changed' | 'left out'
  readonly what: string
  readonly count: number
}

/** What the program that reads pages tells before the pages' bytes. */
export interface ReadHead {
  readonly pages: readonly PageRead[]
  readonly fields: readonly FoundField[]
  readonly remarks: readonly PageRemark[]
}
/** What the program that reads pages says first: what it found, or what is wrong. */
export type ReadTold = ReadHead | { readonly problem: string }
