import { readFile } from 'node:fs/promises'
import { PDFDocument, rgb, StandardFonts } from 'pdf-lib'
import { prepareZXingModule, writeBarcode } from 'zxing-wasm/writer'

let ready: Promise<void> | null = null
/** The library's program lies beside it; left alone it would be fetched from elsewhere. */
const prepare = () =>
  (ready ??= (async () => {
    const program = await readFile(new URL(import.meta.resolve('zxing-wasm/writer/zxing_writer.wasm')))
    prepareZXingModule({ overrides: { wasmBinary: Uint8Array.from(program).buffer } })
  })())

/** Side of a code, and how far it stands from the edges of the paper, in points: beyond what printers leave white. */
const SIDE = 42
const EDGE = 17
/** White modules around a code, and the modules of one as long as ours (version 3). */
const [QUIET, MODULES] = [2, 29]
const PAPER = rgb(1, 1, 1)
const INK = rgb(0, 0, 0)

/** Puts a code (ISO/IEC 18004, level M) into the lower right corner of every page, with a line that people can read. */
export async function withPaperCodes(
  pdf: Uint8Array,
  codes: readonly { readonly code: string; readonly line: string }[],
  at: Date,
): Promise<Uint8Array> {
  await prepare()
  const document = await PDFDocument.load(pdf, { updateMetadata: false })
  const font = await document.embedFont(StandardFonts.Helvetica)
  for (const [i, page] of document.getPages().entries()) {
    const each = codes[i]
    if (!each) continue
    const { symbol, error } = await writeBarcode(each.code, { format: 'QRCode' })
    if (!symbol) throw new Error(error)
    const { width, height } = page.getSize()
    const [x, y] = [width - EDGE - SIDE, EDGE]
    const module = SIDE / (symbol.width + 2 * QUIET)
    page.drawRectangle({ x, y, width: SIDE, height: SIDE, color: PAPER })
    const squares: string[] = []
    for (let row = 0; row < symbol.height; row++)
      for (let column = 0; column < symbol.width; column++)
        if (!symbol.data[row * symbol.width + column])
          squares.push(
            `M${(column + QUIET) * module} ${(row + QUIET) * module}h${module}v${module}h${-module}z`,
          )
    page.drawSvgPath(squares.join(''), { x, y: y + SIDE, color: INK, borderWidth: 0 })
    const size = 6
    const line = latin(each.line)
    const length = font.widthOfTextAtSize(line, size)
    if (height > 200) page.drawText(line, { x: x - 6 - length, y: EDGE + 2, size, font, color: INK })
  }
  document.setModificationDate(at)
  return document.save()
}

/** Where the corners of a page's code stand, in points from the page's top left, clockwise from the code's own top left. */
export function codeCorners(width: number, height: number): readonly (readonly [x: number, y: number])[] {
  const module = SIDE / (MODULES + 2 * QUIET)
  const [left, top] = [width - EDGE - SIDE + QUIET * module, height - EDGE - SIDE + QUIET * module]
  const [right, bottom] = [left + MODULES * module, top + MODULES * module]
  return [
    [left, top],
    [right, top],
    [right, bottom],
    [left, bottom],
  ]
}

/** The face has Latin letters only; others stand in the document itself. */
const latin = (text: string): string => text.replace(/[^\u0020-\u007e\u00a0-\u00ff]/g, '?')
