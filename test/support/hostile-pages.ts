import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { deflateSync } from 'node:zlib'
import { PDFDocument, PDFName, PDFString } from 'pdf-lib'

/** A file of pages that nobody should bring in, and what is said of it; null: it is taken, and `told` says what was left out. */
export interface HostilePages {
  readonly name: string
  readonly bytes: Uint8Array
  readonly says: RegExp | null
  readonly told?: RegExp
}

const pdf = async (act: (document: PDFDocument) => void | Promise<void>): Promise<Uint8Array> => {
  const document = await PDFDocument.create()
  document.addPage().drawText('A page like any other', { x: 50, y: 700 })
  await act(document)
  return document.save({ useObjectStreams: false })
}

const action = (document: PDFDocument, kind: string, more: Record<string, PDFString>) =>
  document.context.obj({ Type: 'Action', S: kind, ...more })

/** A PDF of one page whose content is these bytes, packed. */
function packed(content: Uint8Array): Uint8Array {
  const stream = deflateSync(content, { level: 9 })
  const head = Buffer.from(
    `%PDF-1.7\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj\n3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 612 792]/Contents 4 0 R/Resources<<>>>>endobj\n4 0 obj<</Length ${stream.length}/Filter/FlateDecode>>stream\n`,
  )
  return Buffer.concat([head, stream, Buffer.from('\nendstream endobj\ntrailer<</Root 1 0 R>>\n%%EOF')])
}

/** The same file, readable by everybody and to be changed by nobody (qpdf, AES with 256 bits). */
function encrypted(bytes: Uint8Array): Uint8Array {
  const folder = mkdtempSync(join(tmpdir(), 'brevan-encrypted-'))
  try {
    const [from, to] = [join(folder, 'a.pdf'), join(folder, 'b.pdf')]
    writeFileSync(from, bytes)
    execFileSync('qpdf', ['--encrypt', '', 'owner', '256', '--modify=none', '--', from, to])
    return readFileSync(to)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

export const hostilePages = async (): Promise<readonly HostilePages[]> => [
  { name: 'nothing', bytes: new Uint8Array(0), says: /empty/ },
  { name: 'words', bytes: Buffer.from('just words'), says: /no PDF/ },
  { name: 'head alone', bytes: Buffer.from('%PDF-1.7\n'), says: /damaged|no pages/ },
  {
    name: 'no pages',
    bytes: await PDFDocument.create().then((document) => document.save({ addDefaultPage: false })),
    says: /no pages|damaged/,
  },
  {
    name: 'five thousand pages',
    bytes: await pdf((document) => {
      for (let i = 0; i < 5000; i++) document.addPage([100, 100])
    }),
    says: /5001 pages; at most 1000/,
  },
  { name: 'encrypted', bytes: encrypted(await pdf(() => undefined)), says: /protected/ },
  {
    name: 'script at opening',
    bytes: await pdf((document) => {
      document.catalog.set(
        PDFName.of('OpenAction'),
        document.context.register(action(document, 'JavaScript', { JS: PDFString.of('app.alert(1)') })),
      )
    }),
    says: null,
    told: /JavaScript/,
  },
  {
    name: 'launch',
    bytes: await pdf((document) => {
      document.catalog.set(
        PDFName.of('OpenAction'),
        document.context.register(action(document, 'Launch', { F: PDFString.of('/bin/sh') })),
      )
    }),
    says: null,
    told: /start a program/,
  },
  {
    name: 'attachment',
    bytes: await pdf((document) => document.attach(Buffer.from('MZ'), 'run.exe')),
    says: null,
    told: /Attached/,
  },
  {
    name: 'a page and a ZIP at once',
    bytes: Buffer.concat([await pdf(() => undefined), Buffer.from('PK\u0003\u0004word/document.xml')]),
    says: null,
  },
  {
    name: 'unfolds to a gigabyte',
    bytes: packed(Buffer.alloc(1_000_000_000, 32)),
    says: /time or memory|damaged/,
  },
  { name: 'deep states', bytes: packed(Buffer.from('q '.repeat(3_000_000))), says: null },
  { name: 'broken operators', bytes: packed(Buffer.from('BT (never closed Tj ET <zz> [1 2')), says: null },
  {
    name: 'a page that is its own parent',
    bytes: Buffer.from(
      '%PDF-1.7\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n2 0 obj<</Type/Pages/Kids[2 0 R]/Count 1>>endobj\ntrailer<</Root 1 0 R>>\n%%EOF',
    ),
    says: /damaged|no pages|time or memory/,
  },
]
