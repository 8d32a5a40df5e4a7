import {
  PDFArray,
  PDFCheckBox,
  PDFDict,
  PDFDocument,
  PDFDropdown,
  type PDFField,
  PDFName,
  PDFNumber,
  type PDFObject,
  PDFOptionList,
  type PDFPage,
  PDFRadioGroup,
  type PDFRef,
  PDFSignature,
  PDFTextField,
  type PDFWidgetAnnotation,
} from 'pdf-lib'
import type { FoundField } from '#core/form/page-read.ts'
import { cut } from '#core/text/cut.ts'
import { rounded } from './ink.ts'
import { annotationsOf, frameOf, type PageFrame, shownBox } from './page-frame.ts'

/** The fields of a form as places on its pages, in the order of the file; what stood in them is taken off the page. */
export function foundFields(document: PDFDocument): readonly FoundField[] {
  const pages = document.getPages()
  adoptLoose(document, pages)
  if (!document.catalog.lookupMaybe(PDFName.of('AcroForm'), PDFDict)) return []
  const frames = pages.map(frameOf)
  const pageOf = new Map<PDFDict, number>()
  pages.forEach((page, i) => annotationsOf(page).forEach((dict) => pageOf.set(dict, i)))
  return document
    .getForm()
    .getFields()
    .flatMap((field) => {
      try {
        return fieldPlaces(field, pageOf, frames)
      } catch {
        // One field whose parts are broken never costs the others.
        return []
      }
    })
}

/** Puts fields that hang on pages alone into the form's list: programs leave it out, and readers show them all the same. */
function adoptLoose(document: PDFDocument, pages: readonly PDFPage[]): void {
  const { context, catalog } = document
  const known = new Set<PDFObject>()
  const form = catalog.lookupMaybe(PDFName.of('AcroForm'), PDFDict)
  const listed = form?.lookupMaybe(PDFName.of('Fields'), PDFArray)
  for (const each of listed?.asArray() ?? []) known.add(context.lookup(each) ?? each)
  const loose: PDFRef[] = []
  for (const page of pages)
    for (const dict of annotationsOf(page)) {
      if (dict.get(PDFName.of('Subtype')) !== PDFName.of('Widget')) continue
      const root = rootOf(dict)
      if (!root.has(PDFName.of('FT')) || known.has(root)) continue
      known.add(root)
      const ref = context.getObjectRef(root)
      // Written into the page itself, it gets a place of its own.
      loose.push(ref ?? context.register(root))
    }
  if (loose.length === 0) return
  const fields = listed ?? context.obj([])
  for (const ref of loose) fields.push(ref)
  if (form) form.set(PDFName.of('Fields'), fields)
  else catalog.set(PDFName.of('AcroForm'), context.obj({ Fields: fields }))
}

const MOST_PARENTS = 20

/** The uppermost field that a widget belongs to. */
function rootOf(widget: PDFDict): PDFDict {
  let at = widget
  for (let i = 0; i < MOST_PARENTS; i++) {
    const parent = at.lookupMaybe(PDFName.of('Parent'), PDFDict)
    if (!parent) break
    at = parent
  }
  return at
}

function fieldPlaces(
  field: PDFField,
  pageOf: ReadonlyMap<PDFDict, number>,
  frames: readonly PageFrame[],
): readonly FoundField[] {
  const placed = field.acroField.getWidgets().flatMap((widget) => {
    const page = pageOf.get(widget.dict)
    return page === undefined ? [] : [{ widget, page: page + 1, box: boxOf(widget, frames[page]!) }]
  })
  if (placed.length === 0 || field.isReadOnly()) return []
  const name = cut(field.getName(), 200)
  const said = field.acroField.dict.get(PDFName.of('TU'))
  const label = cut(
    said && 'decodeText' in said ? (said as { decodeText(): string }).decodeText() : name,
    200,
  )
  const base = { name, label, required: field.isRequired() }
  if (field instanceof PDFTextField) {
    const value = quietly(() => field.getText())
    const maxLength = quietly(() => field.getMaxLength())
    const comb = quietly(() => field.isCombed()) === true && maxLength !== undefined
    if (value) quietly(() => field.setText(''))
    return placed.map(({ page, box }) => ({
      ...base,
      kind: 'text' as const,
      page,
      box,
      ...(maxLength === undefined ? {} : { maxLength }),
      ...(comb ? { comb } : {}),
      ...(field.isMultiline() ? { lines: Math.max(1, Math.floor(box.height / 12)) } : {}),
      ...(value ? { value: value.slice(0, 1000) } : {}),
    }))
  }
  if (field instanceof PDFCheckBox) {
    const ticked = quietly(() => field.isChecked()) === true
    if (ticked) quietly(() => field.uncheck())
    // Boxes of one field with values of their own are one choice, however they are drawn.
    const one = choiceOf(base, placed)
    if (one) return [one]
    return placed.map(({ page, box }) => ({
      ...base,
      kind: 'tick' as const,
      page,
      box,
      ...(ticked ? { value: 'yes' } : {}),
    }))
  }
  if (field instanceof PDFRadioGroup) {
    const said = quietly(() => field.getOptions()) ?? []
    quietly(() => field.clear())
    const one = choiceOf(base, placed, said)
    return one ? [one] : placed.map(({ page, box }) => ({ ...base, kind: 'tick' as const, page, box }))
  }
  if (field instanceof PDFDropdown || field instanceof PDFOptionList) {
    const options = quietly(() => field.getOptions()) ?? []
    const [value] = quietly(() => field.getSelected()) ?? []
    quietly(() => field.clear())
    // Where anything may be typed besides, or there are more than a check can name, none is asked for.
    const isFree = (field instanceof PDFDropdown && field.isEditable()) || options.length > MOST_OPTIONS
    // What is chosen from a list is written into its line: on paper it is a text.
    return placed.map(({ page, box }) => ({
      ...base,
      kind: 'text' as const,
      page,
      box,
      ...(isFree ? {} : { options: options.map((option) => option.slice(0, 200)) }),
      ...(value ? { value } : {}),
    }))
  }
  if (field instanceof PDFSignature)
    return placed.map(({ page, box }) => ({ ...base, kind: 'signature' as const, page, box }))
  return []
}

/** Options of a list that are checked by their words. */
const MOST_OPTIONS = 40

type Placed = readonly {
  readonly widget: PDFWidgetAnnotation
  readonly page: number
  readonly box: FoundField['box']
}[]

/**
 * A choice of boxes of which one is ticked, each by the value that it has when it is on; of several with one value the first. Null
 * where they are no choice: on several pages, or of one value. `said`: what the file calls its options, where it names all.
 */
function choiceOf(
  base: Pick<FoundField, 'name' | 'label' | 'required'>,
  placed: Placed,
  said: readonly string[] = [],
): FoundField | null {
  const [first] = placed
  const byValue = new Map<string, Placed[number]>()
  for (const each of placed) {
    const value = each.widget.getOnValue()?.decodeText() ?? ''
    if (!byValue.has(value)) byValue.set(value, each)
  }
  if (byValue.size < 2 || placed.some(({ page }) => page !== first!.page)) return null
  const boxes = [...byValue.values()].map(({ box }) => box)
  const options = said.length === byValue.size ? said : [...byValue.keys()]
  return {
    ...base,
    kind: 'choice',
    page: first!.page,
    box: around(boxes),
    options: options.map((option) => option.slice(0, 200)),
    ticks: {
      size: Math.min(...boxes.map((box) => Math.min(box.width, box.height))),
      at: boxes.map(({ x, y }) => ({ x, y })),
    },
  }
}

const boxOf = (widget: PDFWidgetAnnotation, frame: PageFrame) => {
  const { x, y, width, height } = widget.getRectangle()
  return rounded(shownBox(frame, [x, y, x + width, y + height]))
}

const around = (boxes: readonly FoundField['box'][]): FoundField['box'] => {
  const [x, y] = [Math.min(...boxes.map((each) => each.x)), Math.min(...boxes.map((each) => each.y))]
  return {
    x,
    y,
    width: Math.max(...boxes.map((each) => each.x + each.width)) - x,
    height: Math.max(...boxes.map((each) => each.y + each.height)) - y,
  }
}

const quietly = <T>(act: () => T): T | undefined => {
  try {
    return act()
  } catch {
    return undefined
  }
}

/** Whether a signature stands in a field of the document. */
export const isSigned = (document: PDFDocument): boolean =>
  document.context.enumerateIndirectObjects().some(([, object]) => {
    if (!(object instanceof PDFDict) || !object.has(PDFName.of('ByteRange'))) return false
    const range = object.lookup(PDFName.of('ByteRange'))
    return (
      range instanceof PDFArray &&
      range.size() === 4 &&
      range.asArray().every((each) => each instanceof PDFNumber)
    )
  })
