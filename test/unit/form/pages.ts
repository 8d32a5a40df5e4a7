import fc from 'fast-check'
import type { FormPage, PagesTree, Placement } from '#core/document/tree.ts'
import { placedBlank } from '#core/form/new-form.ts'
import type { PageRead } from '#core/form/page-read.ts'

// Pages that the tests of forms are made of.

const LETTER = 6

/** A page of lines of words: each line 14 points below the one before, letters 6 points wide. */
export function readOf(lines: readonly string[], more: Partial<PageRead> = {}): PageRead {
  return {
    width: 612,
    height: 792,
    words: lines.flatMap((line, i) => {
      let x = 72
      return line
        .split(' ')
        .filter((text) => text !== '')
        .map((text) => {
          const word = {
            text,
            x,
            y: 64 + i * 14,
            width: text.length * LETTER,
            height: 12,
            base: 72 + i * 14,
            size: 10,
          }
          x += (text.length + 1) * LETTER
          return word
        })
    }),
    lines: [],
    boxes: [],
    ...more,
  }
}

export const blankAt = (id: string, x: number, y: number, label = id): Placement =>
  placedBlank(id, { x, y, width: 120, height: 14 }, { kind: 'text', role: 'grower', label, required: true })

export const pageOf = (id: string, page: number, ...content: readonly Placement[]): FormPage => ({
  type: 'page',
  attrs: { id, condition: null, file: 'f'.repeat(64), page, turn: 0, width: 612, height: 792 },
  content,
})

export const pagesOf = (...content: readonly FormPage[]): PagesTree => ({ type: 'pages', content })

/** Boxes somewhere on a page. */
export const anyBox = fc.record({
  x: fc.integer({ min: 0, max: 400 }),
  y: fc.integer({ min: 0, max: 600 }),
  width: fc.integer({ min: 4, max: 200 }),
  height: fc.integer({ min: 4, max: 100 }),
})
