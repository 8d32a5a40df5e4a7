// A program of its own: it reads what comes from outside, which may be made to use up time and memory.
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import { buffer } from 'node:stream/consumers'
import { EncryptedPDFError, PDFDocument } from 'pdf-lib'
import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs'
import type { FoundField, PageRead } from '#core/form/page-read.ts'
import { foundFields, isSigned } from './fields.ts'
import { inkOf, readOf } from './ink.ts'
import { normalPages } from './normal.ts'
import { PAGE_LIMITS } from './page-limits.ts'
import type { PageRemark, ReadTold } from './page-limits.ts'
import { takenOut } from './taken-out.ts'

/** The head in JSON, then the pages as a PDF; the head's length before it in 32 bits, the larger end first. */
const tell = (head: ReadTold, pdf?: Uint8Array): void => {
  const text = Buffer.from(JSON.stringify(head))
  const length = Buffer.alloc(4)
  length.writeUInt32BE(text.length)
  process.stdout.write(Buffer.concat([length, text, pdf ?? Buffer.alloc(0)]))
}

const assets = dirname(createRequire(import.meta.url).resolve('pdfjs-dist/package.json'))

async function read(bytes: Uint8Array): Promise<void> {
  const source = await PDFDocument.load(bytes, { updateMetadata: false, throwOnInvalidObject: false })
  const count = source.getPageCount()
  if (count === 0) return tell({ problem: 'The file has no pages.' })
  if (count > PAGE_LIMITS.pages)
    return tell({
      problem: `The file has ${count} pages; at most ${PAGE_LIMITS.pages} can be brought in. Split it first.`,
    })
  const remarks: PageRemark[] = [...takenOut(source)]
  if (isSigned(source))
    remarks.push({
      kind: 'left out',
      what: 'A signature: the pages are taken as paper, and what they say is not signed any more',
      count: 1,
    })
  let fields: readonly FoundField[] = []
  try {
    fields = foundFields(source)
  } catch {
    remarks.push({ kind: 'left out', what: 'Fields that cannot be read', count: 1 })
  }
  const filled = fields.filter(({ value }) => value !== undefined).length
  if (filled)
    remarks.push({
      kind: 'changed',
      what: 'Fields that were filled in: they are empty on the pages now',
      count: filled,
    })
  const { document, pages } = await normalPages(source, new Date(0))
  const lost = pages.filter((page) => page.lost).length
  if (lost)
    remarks.push({
      kind: 'left out',
      what: 'Pages whose content cannot be read: they are empty',
      count: lost,
    })
  const pdf = await document.save({ useObjectStreams: true })
  tell({ pages: await readAll(pdf), fields, remarks }, pdf)
}

async function readAll(pdf: Uint8Array): Promise<readonly PageRead[]> {
  const document = await getDocument({
    data: Uint8Array.from(pdf),
    standardFontDataUrl: join(assets, 'standard_fonts/'),
    cMapUrl: join(assets, 'cmaps/'),
    cMapPacked: true,
    wasmUrl: join(assets, 'wasm/'),
    isEvalSupported: false,
    disableFontFace: true,
    verbosity: 0,
  }).promise
  const reads: PageRead[] = []
  for (let i = 1; i <= document.numPages; i++) {
    const page = await document.getPage(i)
    const { width, height } = page.getViewport({ scale: 1 })
    reads.push(readOf(await inkOf(page), width, height))
    page.cleanup()
  }
  return reads
}

try {
  await read(Uint8Array.from(await buffer(process.stdin)))
} catch (error) {
  tell({
    problem:
      error instanceof EncryptedPDFError
        ? 'The file is protected: its maker allows nobody to change it, or wants a password. Print it into a new PDF, or ask for one without protection.'
        : 'The file is damaged: its pages cannot be read.',
  })
}
