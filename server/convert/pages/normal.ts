import {
  concatTransformationMatrix,
  decodePDFRawStream,
  drawObject,
  PDFArray,
  PDFDict,
  PDFDocument,
  PDFName,
  PDFNumber,
  PDFObjectCopier,
  type PDFPage,
  PDFRawStream,
  PDFRef,
  PDFStream,
  popGraphicsState,
  pushGraphicsState,
} from 'pdf-lib'
import { keepDrawing } from './clean.ts'
import { tokens } from './take-out.ts'
import { annotationsOf, frameOf, type Matrix, type PageFrame } from './page-frame.ts'

// What comes in is not kept as it came: each page is drawn into a new document, where every page begins at 0, 0, is neither
// turned nor cropped and has points for units. With that nothing of the old file goes along but what is seen: no scripts, no
// actions, no attached files, no signatures that would be broken, and nothing that another program would read as another format.

const name = (text: string) => PDFName.of(text)

/** A page of the new document: how it lies, what draws it, and whether that could be read. */
export interface NormalPage {
  readonly frame: PageFrame
  /** The old page's operators, unpacked, and where they are kept; null: an empty page. */
  readonly drawn: { readonly content: Uint8Array; readonly ref: PDFRef } | null
  readonly lost: boolean
}

export interface Normal {
  readonly document: PDFDocument
  readonly pages: readonly NormalPage[]
}

/** Draws all pages of a document into a new one. `source` is used up by it. */
export async function normalPages(source: PDFDocument, at: Date): Promise<Normal> {
  const target = await PDFDocument.create({ updateMetadata: false })
  const copier = PDFObjectCopier.for(source.context, target.context)
  const pages = source.getPages().map((page): NormalPage => {
    const frame = frameOf(page)
    const marks = marksOf(page)
    const made = target.addPage([frame.width, frame.height])
    const content = contentOf(page)
    const drawn = content && {
      content,
      ref: target.context.register(
        target.context.flateStream(content, {
          Type: 'XObject',
          Subtype: 'Form',
          FormType: 1,
          BBox: [frame.crop.left, frame.crop.bottom, frame.crop.right, frame.crop.top],
          Matrix: [...frame.matrix],
          Resources: copier.copy(resourcesOf(page)),
        }),
      ),
    }
    const show = (ref: PDFRef, matrices: readonly Matrix[]) =>
      made.pushOperators(
        pushGraphicsState(),
        ...matrices.map((matrix) =>
          concatTransformationMatrix(...(matrix as [number, number, number, number, number, number])),
        ),
        drawObject(made.node.newXObject('Part', ref)),
        popGraphicsState(),
      )
    if (drawn) show(drawn.ref, [])
    for (const mark of marks) {
      const look = copier.copy(mark.look)
      show(look instanceof PDFRef ? look : target.context.register(look), [frame.matrix, mark.matrix])
    }
    return { frame, drawn, lost: content === null }
  })
  target.setCreationDate(at)
  target.setModificationDate(at)
  return { document: target, pages }
}

function resourcesOf(page: PDFPage): PDFDict {
  const found = page.node.Resources() ?? page.doc.context.obj({})
  keepDrawing(page.doc.context, found)
  return found
}

/** States that may be kept inside each other (ISO 32000-1, annex C asks for 28), and bytes of one page's operators. */
const DEEPEST = 256
const LONGEST = 40_000_000

/** Whether a page's operators can be followed in any time worth waiting for. */
function isFollowed(content: Uint8Array): boolean {
  if (content.length > LONGEST) return false
  let depth = 0
  for (const token of tokens(content)) {
    if (token.kind !== 'operator') continue
    if (token.text === 'q') depth++
    else if (token.text === 'Q') depth = Math.max(0, depth - 1)
    if (depth > DEEPEST) return false
  }
  return true
}

/** The operators of a page, of several streams in one; null: they cannot be unpacked, or not be followed. */
function contentOf(page: PDFPage): Uint8Array | null {
  const { context } = page.doc
  const found = page.node.get(name('Contents'))
  const whole = found && context.lookup(found)
  const streams =
    whole instanceof PDFArray ? whole.asArray().map((each) => context.lookup(each)) : whole ? [whole] : []
  try {
    const parts = streams.flatMap((stream) =>
      stream instanceof PDFRawStream
        ? [Buffer.from(decodePDFRawStream(stream).decode()), Buffer.from('\n')]
        : stream instanceof PDFStream
          ? [Buffer.from(stream.getContents()), Buffer.from('\n')]
          : [],
    )
    const content = Uint8Array.from(Buffer.concat(parts))
    return isFollowed(content) ? content : null
  } catch {
    return null
  }
}

/** Annotations that are no part of what is printed on the page. */
const NOT_PRINTED = new Set([
  'Link',
  'Popup',
  'Text',
  'FileAttachment',
  'Sound',
  'Movie',
  'Screen',
  '3D',
  'RichMedia',
])
/** Flags of annotations that are hidden or not shown (ISO 32000-1, table 165). */
const HIDDEN = 0b100010

interface Mark {
  readonly look: PDFRef | PDFStream
  readonly matrix: Matrix
}

/** What stands over a page: looks of fields, stamps and drawn notes, each with the way into its rectangle (12.5.5). */
function marksOf(page: PDFPage): readonly Mark[] {
  const { context } = page.doc
  return annotationsOf(page).flatMap((annotation): Mark[] => {
    const kind = annotation.get(name('Subtype'))
    const flags = annotation.get(name('F'))
    if (kind instanceof PDFName && NOT_PRINTED.has(kind.decodeText())) return []
    if (flags instanceof PDFNumber && (flags.asNumber() & HIDDEN) !== 0) return []
    const look = lookOf(annotation)
    const rect = box(context.lookup(annotation.get(name('Rect'))))
    const stream = look instanceof PDFRef ? context.lookup(look) : look
    if (!look || !rect || !(stream instanceof PDFStream)) return []
    const bounds = box(context.lookup(stream.dict.get(name('BBox'))))
    if (!bounds) return []
    keepDrawing(context, stream)
    const own = matrixOf(context.lookup(stream.dict.get(name('Matrix'))))
    const corners = [
      [bounds[0], bounds[1]],
      [bounds[2], bounds[1]],
      [bounds[0], bounds[3]],
      [bounds[2], bounds[3]],
    ].map(([x, y]) => [own[0] * x! + own[2] * y! + own[4], own[1] * x! + own[3] * y! + own[5]] as const)
    const [xs, ys] = [corners.map(([x]) => x), corners.map(([, y]) => y)]
    const [left, bottom, wide, high] = [
      Math.min(...xs),
      Math.min(...ys),
      Math.max(...xs) - Math.min(...xs),
      Math.max(...ys) - Math.min(...ys),
    ]
    if (!(wide > 0 && high > 0)) return []
    const [sx, sy] = [(rect[2] - rect[0]) / wide, (rect[3] - rect[1]) / high]
    return [{ look, matrix: [sx, 0, 0, sy, rect[0] - left * sx, rect[1] - bottom * sy] }]
  })
}

/** The look of an annotation as it stands: of several that of its state. */
function lookOf(annotation: PDFDict): PDFRef | PDFStream | null {
  const { context } = annotation
  const looks = context.lookup(annotation.get(name('AP')))
  const found = looks instanceof PDFDict ? looks.get(name('N')) : undefined
  const normal = found && context.lookup(found)
  if (normal instanceof PDFStream) return found instanceof PDFRef ? found : normal
  const state = annotation.get(name('AS'))
  if (!(normal instanceof PDFDict) || !(state instanceof PDFName)) return null
  const one = normal.get(state)
  const stream = one && context.lookup(one)
  return stream instanceof PDFStream ? (one instanceof PDFRef ? one : stream) : null
}

const values = (found: unknown, size: number): readonly number[] | null => {
  if (!(found instanceof PDFArray) || found.size() !== size) return null
  const all = found.asArray().map((_, i) => {
    const value = found.lookup(i)
    return value instanceof PDFNumber ? value.asNumber() : Number.NaN
  })
  return all.every(Number.isFinite) ? all : null
}

/** A rectangle whose first corner is the lower left one. */
export const box = (found: unknown): readonly [number, number, number, number] | null => {
  const all = values(found, 4)
  return (
    all && [
      Math.min(all[0]!, all[2]!),
      Math.min(all[1]!, all[3]!),
      Math.max(all[0]!, all[2]!),
      Math.max(all[1]!, all[3]!),
    ]
  )
}
const matrixOf = (found: unknown): Matrix =>
  (values(found, 6) as Matrix | null) ?? ([1, 0, 0, 1, 0, 0] as const)
