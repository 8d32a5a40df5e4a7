import {
  PDFArray,
  PDFCheckBox,
  PDFDict,
  PDFDocument,
  PDFDropdown,
  PDFName,
  PDFNumber,
  PDFOptionList,
  PDFRadioGroup,
  PDFSignature,
  PDFTextField,
} from 'pdf-lib'
import type { PDFField, PDFWidgetAnnotation } from 'pdf-lib'
import type { FoundField } from '#core/form/page-read.ts'
import { cut } from '#core/text/cut.ts'
import { rounded } from './ink.ts'
import { annotationsOf, frameOf, shownBox } from './page-frame.ts'
import type { PageFrame } from './page-frame.ts'

/** The fields of a form as places on its pages, in the order of the file; what stood in them is taken off the page. */
export function foundFields(document: PDFDocument): readonly FoundField[] {
  if (!document.catalog.lookupMaybe(PDFName.of('AcroForm'), PDFDict)) return []
  const pages = document.getPages()
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
    return placed.map(({ page, box }) => ({
      ...base,
      kind: 'tick' as const,
      page,
      box,
      ...(ticked ? { value: 'yes' } : {}),
    }))
  }
  if (field instanceof PDFRadioGroup) {
    const options = quietly(() => field.getOptions()) ?? []
    const [first] = placed
    const onePage = placed.every(({ page }) => page === first!.page)
    quietly(() => field.clear())
    if (!onePage || options.length !== placed.length)
      return placed.map(({ page, box }) => ({ ...base, kind: 'tick' as const, page, box }))
    return [
      {
        ...base,
        kind: 'choice',
        page: first!.page,
        box: around(placed.map(({ box }) => box)),
        options: options.map((option) => option.slice(0, 200)),
        ticks: {
          size: Math.min(...placed.map(({ box }) => Math.min(box.width, box.height))),
          at: placed.map(({ box: { x, y } }) => ({ x, y })),
        },
      },
    ]
  }
  if (field instanceof PDFDropdown || field instanceof PDFOptionList) {
    const options = quietly(() => field.getOptions()) ?? []
    const [value] = quietly(() => field.getSelected()) ?? []
    quietly(() => field.clear())
    // What is chosen from a list is written into its line: on paper it is a text.
    return placed.map(({ page, box }) => ({
      ...base,
      kind: 'text' as const,
      page,
      box,
      options: options.slice(0, 40).map((option) => option.slice(0, 200)),
      ...(value ? { value } : {}),
    }))
  }
  if (field instanceof PDFSignature)
    return placed.map(({ page, box }) => ({ ...base, kind: 'signature' as const, page, box }))
  return []
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
