/** What one upload of scanned pages may have: bytes, pages, and pixels of a picture. */
export const SCAN_LIMITS = { bytes: 40_000_000, pages: 60, pixels: 60_000_000, side: 12_000 } as const

/** A page as the program that draws tells it, before its picture. */
export interface DrawnPage {
  readonly bytes: number
  readonly width: number
  readonly height: number
  readonly codes: readonly string[]
}
/** What it tells last. */
export type DrawnEnd = { readonly end: true } | { readonly problem: string }
