import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'

/** A sheet with its columns, and its rows as they are asked for. */
export type Sheet = Answer<Api['sheet']>
export type Rows = Answer<Api['sheetRows']>
export type GridRow = Rows['rows'][number]

/** Pixels: height of a row and of the head, width of the column of row numbers. */
export const ROW = 28
export const HEAD = 46
