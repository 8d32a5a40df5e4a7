import { cut } from '../text/cut.ts'
import { emptyTemplate } from '../document/empty.ts'
import { plainStyle, type TemplateContent } from '../document/template.ts'
import type { BlankKind, BlankPlace, Box, FormPage, Placement } from '../document/tree.ts'
import type { FoundField } from './page-read.ts'

/** A file in the store that pages are taken from. */
export interface PageFile {
  readonly file: string
  /** Sizes of its pages in points. */
  readonly pages: readonly { readonly width: number; readonly height: number }[]
}

/** All pages of a file, as pages of a form with nothing on them. */
export const pagesOfFile = ({ file, pages }: PageFile, newId: () => string): readonly FormPage[] =>
  pages.map(({ width, height }, i) => ({
    type: 'page',
    attrs: { id: newId(), condition: null, file, page: i + 1, turn: 0, width, height },
    content: [],
  }))

/** A template that is the pages of files. */
export const emptyForm = (
  title: string,
  language: string,
  files: readonly PageFile[],
  newId: () => string,
): TemplateContent => {
  const { page: _page, ...base } = emptyTemplate(title, language)
  return {
    ...base,
    document: { type: 'pages', content: files.flatMap((file) => pagesOfFile(file, newId)) },
  }
}

/** How large a blank of each kind is where nothing says otherwise, in points. */
export const BLANK_SIZES: Readonly<Record<BlankKind, { readonly width: number; readonly height: number }>> = {
  signature: { width: 160, height: 28 },
  initials: { width: 36, height: 16 },
  date: { width: 92, height: 15 },
  name: { width: 150, height: 15 },
  title: { width: 140, height: 15 },
  company: { width: 150, height: 15 },
  text: { width: 140, height: 15 },
  number: { width: 80, height: 15 },
  tick: { width: 10, height: 10 },
  choice: { width: 120, height: 42 },
  file: { width: 140, height: 15 },
}

/** A blank on a page, in a place. */
export function placedBlank(
  id: string,
  box: Box,
  blank: Omit<BlankPlace['attrs'], 'id'>,
  more: Pick<Placement['attrs'], 'style' | 'ticks'> = {},
): Placement {
  return {
    type: 'placement',
    attrs: { id, condition: null, ...box, ...more },
    content: [{ type: 'blank', attrs: { ...blank, id: `${id}_b` } }],
  }
}

/** A field's value on a page, in a place, its letters as high as there is room. */
export const placedField = (
  id: string,
  box: Box,
  field: string,
  format: string | null = null,
): Placement => ({
  type: 'placement',
  attrs: { id, condition: null, ...box, style: styleFor(box) },
  content: [{ type: 'mergeField', attrs: { field, format } }],
})

/** How words are set in a place of this height: never larger than 10 points by themselves. */
export const styleFor = ({ height }: Pick<Box, 'height'>): NonNullable<Placement['attrs']['style']> => {
  const lines = Math.max(1, Math.floor(height / 13))
  return { ...plainStyle, size: Math.max(6, Math.min(10, Math.round(height * 0.72))), lines }
}

/** A field that a file has itself, as a blank of a role. What is chosen from a list is written, and checked against it. */
export function blankOfField(id: string, found: FoundField, role: string): Placement {
  const { label, kind, required, box, options, ticks, comb, maxLength, lines = 1 } = found
  const blank = { role, label, required }
  if (kind === 'choice')
    return placedBlank(
      id,
      box,
      { ...blank, kind: 'choice', options: options ?? [], most: 1 },
      ticks ? { ticks } : {},
    )
  if (kind === 'value') return placedField(id, box, found.name, found.format ?? null)
  if (kind !== 'text') return placedBlank(id, box, { ...blank, kind })
  const style = { ...styleFor(box), lines, comb: comb && maxLength ? maxLength : null }
  const check = options?.length
    ? {
        check: `list contains(${JSON.stringify(options)}, value)`,
        message: cut(`One of ${options.join(', ')}`, 200),
      }
    : maxLength
      ? { check: `string length(value) <= ${maxLength}`, message: `At most ${maxLength} characters` }
      : {}
  return placedBlank(
    id,
    { ...box, x: box.x + 2, width: Math.max(4, box.width - 4) },
    { ...blank, kind: 'text', ...check },
    { style },
  )
}
