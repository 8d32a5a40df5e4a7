import { PDFDict, type PDFDocument, PDFName, PDFRawStream } from 'pdf-lib'
import type { PageRemark } from './page-limits.ts'

const name = (text: string) => PDFName.of(text)

/** What a document has that no page shows, and that does not come along; counted for its report. */
export function takenOut(document: PDFDocument): readonly PageRemark[] {
  const counts = new Map<string, number>()
  const count = (what: string) => counts.set(what, (counts.get(what) ?? 0) + 1)
  for (const [, object] of document.context.enumerateIndirectObjects()) {
    const dict = object instanceof PDFRawStream ? object.dict : object
    if (dict instanceof PDFDict) everyDict(dict, count)
  }
  if (document.catalog.has(name('OCProperties')))
    counts.set('Layers that can be switched on and off: all of them are shown now', 1)
  return [...counts].map(([what, times]) => ({ kind: 'left out' as const, what, count: times }))
}

const ACTIONS: Readonly<Record<string, string>> = {
  JavaScript: 'Scripts (JavaScript), which may do anything when the file is opened',
  Launch: 'Actions that start a program',
  SubmitForm: 'Actions that send what was filled in elsewhere',
  ImportData: 'Actions that read other files',
  GoToE: 'Actions that open an attached file',
  Rendition: 'Films and sounds',
  Movie: 'Films and sounds',
  Sound: 'Films and sounds',
}

const MARKS: Readonly<Record<string, string>> = {
  FileAttachment: 'Attached files',
  Text: 'Comments',
  RichMedia: 'Films and sounds',
  Link: 'Links',
}

/** Marks (ISO 32000-1, 12.5.6) that are to be seen; the program that shows the file draws those of which the file has no drawing. */
const DRAWN: ReadonlySet<string> = new Set([
  'Highlight',
  'Underline',
  'Squiggly',
  'StrikeOut',
  'Square',
  'Circle',
  'Line',
  'Polygon',
  'PolyLine',
  'Ink',
  'FreeText',
  'Stamp',
])

/** Dictionaries that stand inside another are looked at with it. */
function everyDict(dict: PDFDict, count: (what: string) => void, depth = 0): void {
  const kind = dict.get(name('S'))
  const told = kind instanceof PDFName ? ACTIONS[kind.decodeText()] : undefined
  if (told) count(told)
  const type = dict.get(name('Type'))
  if (type === name('Filespec') && dict.has(name('EF'))) count('Attached files')
  const subtype = dict.get(name('Subtype'))
  if (
    subtype instanceof PDFName &&
    dict.has(name('Rect')) &&
    !dict.has(name('AP')) &&
    DRAWN.has(subtype.decodeText())
  )
    count(
      'Highlights, lines and notes that each program draws in its own way: they have no drawing in the file',
    )
  const mark = subtype instanceof PDFName && dict.has(name('Rect')) ? MARKS[subtype.decodeText()] : undefined
  if (mark && mark !== 'Attached files') count(mark)
  if (depth < 4)
    for (const value of dict.values()) if (value instanceof PDFDict) everyDict(value, count, depth + 1)
}
