/** What one upload of scanned pages may have: bytes, pages, and pixels of a picture. */
export const SCAN_LIMITS = { bytes: 40_000_000, pages: 60, pixels: 60_000_000, side: 12_000 } as const

/** A code on a page: what it says, and its corners as shares of the page's picture, clockwise from the code's own top left. */
export interface ScannedCode {
  readonly text: string
  readonly corners: readonly (readonly [x: number, y: number])[]
}

/** A page as the program that draws tells it, before its picture. */
export interface DrawnPage {
  readonly bytes: number
  readonly width: number
  readonly height: number
  readonly codes: readonly ScannedCode[]
}
/** What it tells last. */
export type DrawnEnd = { readonly end: true } | { readonly problem: string }
