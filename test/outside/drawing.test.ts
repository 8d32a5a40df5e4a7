import { execFile } from 'node:child_process'
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { expect } from 'chai'
import {
  PDFArray,
  PDFDict,
  PDFDocument,
  PDFName,
  type PDFObject,
  PDFRef,
  PDFStream,
  PDFString,
} from 'pdf-lib'
import { siteAccessPdf } from '#demo/forms/site-access.ts'
import { DRAWING_KEYS } from '#server/convert/pages/clean.ts'
import { normalPages } from '#server/convert/pages/normal.ts'

const run = promisify(execFile)

// ISO 32000-1: what is left of pages that come from elsewhere is what draws them.

/** What a document of ours has besides what draws (7.5.5, 7.7.2, 7.7.3). */
const OURS = new Set(
  'Type Pages Annots Kids Count Parent MediaBox Contents Resources XObject Creator Producer CreationDate ModDate Title'.split(
    ' ',
  ),
)
/** Keys of the standard's that lead out of a page, or do something (8.9.5.4, 8.10.4, 12.6, 7.9.5, 14.3, 14.5, 14.11.7). */
const NEVER = [
  'JS',
  'JavaScript',
  'A',
  'AA',
  'OpenAction',
  'Alternates',
  'Ref',
  'OPI',
  'F',
  'FFilter',
  'FDecodeParms',
  'EF',
  'AF',
  'PS',
  'Metadata',
  'PieceInfo',
  'OC',
  'URI',
  'Names',
]

/** Names in a document, but for those that a file gives to its own things. */
function keysIn(document: PDFDocument): ReadonlySet<string> {
  const keys = new Set<string>()
  const seen = new Set<PDFObject>()
  const walk = (found: PDFObject | undefined, named: boolean): void => {
    const object = found instanceof PDFRef ? document.context.lookup(found) : found
    if (!object || seen.has(object)) return
    seen.add(object)
    if (object instanceof PDFArray) for (const each of object.asArray()) walk(each, false)
    const dict = object instanceof PDFStream ? object.dict : object instanceof PDFDict ? object : null
    for (const [key, value] of dict?.entries() ?? []) {
      const name = key.decodeText()
      if (!named) keys.add(name)
      const inside = value instanceof PDFRef ? document.context.lookup(value) : value
      // 7.8.3: names of resources; 9.6.5: of glyphs.
      const gives = [
        'ExtGState',
        'ColorSpace',
        'Pattern',
        'Shading',
        'XObject',
        'Font',
        'CharProcs',
        'Colorants',
      ].includes(name)
      walk(value, !named && gives && inside instanceof PDFDict && !(inside instanceof PDFStream))
    }
  }
  walk(document.catalog, false)
  walk(document.context.trailerInfo.Info, false)
  return keys
}

const normal = async (bytes: Uint8Array): Promise<Uint8Array> =>
  (await normalPages(await PDFDocument.load(bytes, { updateMetadata: false }), new Date(0))).document.save({
    useObjectStreams: false,
  })

/** A page whose resources carry what has nothing to do with drawing it. */
async function loaded(): Promise<Uint8Array> {
  const document = await PDFDocument.create()
  const { context } = document
  const page = document.addPage([300, 300])
  page.drawText('Seen', { x: 40, y: 200 })
  const script = context.register(context.obj({ S: 'JavaScript', JS: PDFString.of('app.alert(1)') }))
  const other = context.register(
    context.stream('q Q', { Type: 'XObject', Subtype: 'Image', Width: 1, Height: 1 }),
  )
  const external = context.obj({ F: PDFString.of('http://growers.example/x'), EF: {} })
  const picture = context.register(
    context.stream(new Uint8Array([200]), {
      Type: 'XObject',
      Subtype: 'Image',
      Width: 1,
      Height: 1,
      ColorSpace: 'DeviceGray',
      BitsPerComponent: 8,
      Alternates: [{ Image: other, DefaultForPrinting: true }],
      OPI: { '2.0': { F: PDFString.of('print.tif') } },
      Metadata: script,
    }),
  )
  const form = context.register(
    context.stream('q Q', {
      Type: 'XObject',
      Subtype: 'Form',
      BBox: [0, 0, 1, 1],
      Ref: { F: external, Page: 0 },
      PieceInfo: { Any: { Private: script } },
      AA: script,
      Resources: { XObject: { Inner: picture }, Properties: { Any: script } },
    }),
  )
  const program = context.register(context.stream('showpage', { Type: 'XObject', Subtype: 'PS' }))
  const away = context.register(
    context.stream('', {
      Type: 'XObject',
      Subtype: 'Form',
      BBox: [0, 0, 1, 1],
      F: external,
      FFilter: 'FlateDecode',
    }),
  )
  const resources = page.node.Resources()!
  const objects =
    resources.lookup(PDFName.of('XObject')) instanceof PDFDict
      ? (resources.lookup(PDFName.of('XObject')) as PDFDict)
      : context.obj({})
  for (const [name, ref] of [
    ['P', picture],
    ['F', form],
    ['S', program],
    ['E', away],
  ] as const)
    objects.set(PDFName.of(name), ref)
  resources.set(PDFName.of('XObject'), objects)
  resources.set(PDFName.of('A'), script)
  resources.set(PDFName.of('Properties'), context.obj({ MC0: script }))
  return document.save({ useObjectStreams: false })
}

describe('pages from elsewhere', () => {
  let folder = ''
  before(async () => {
    folder = await mkdtemp(join(tmpdir(), 'brevan-drawing-'))
  })
  after(() => rm(folder, { recursive: true, force: true }))

  const files: Readonly<Record<string, () => Promise<Uint8Array>>> = {
    'a page with all that does not draw': loaded,
    'a form of ours': siteAccessPdf,
    'a manual set by TeX (libtasn1-doc)': () => readFile('/usr/share/doc/libtasn1-doc/libtasn1.pdf'),
    'a page printed by Chromium': async () => {
      await writeFile(
        join(folder, 'a.html'),
        '<h1 style="opacity:.5">Half seen</h1><svg width=90 height=90><defs><linearGradient id=g><stop stop-color=red /><stop offset=1 stop-color=blue /></linearGradient></defs><circle r=40 cx=45 cy=45 fill="url(#g)" /></svg>',
      )
      await run('chromium', [
        '--headless',
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        `--user-data-dir=${join(folder, 'profile')}`,
        '--no-pdf-header-footer',
        `--print-to-pdf=${join(folder, 'c.pdf')}`,
        `file://${join(folder, 'a.html')}`,
      ])
      return readFile(join(folder, 'c.pdf'))
    },
    'a page of an office suite': async () => {
      await writeFile(join(folder, 'b.txt'), 'Words of a text')
      await run('soffice', [
        '--headless',
        `-env:UserInstallation=file://${join(folder, 'office')}`,
        '--convert-to',
        'pdf',
        '--outdir',
        folder,
        join(folder, 'b.txt'),
      ])
      return readFile(join(folder, 'b.pdf'))
    },
  }

  for (const [what, bytes] of Object.entries(files))
    it(`keep of ${what} what draws, key by key, and look as they did`, async () => {
      const before = await bytes()
      const after = await normal(before)
      const keys = keysIn(await PDFDocument.load(after, { updateMetadata: false }))
      expect([...keys].filter((key) => !DRAWING_KEYS.has(key) && !OURS.has(key))).to.deep.equal([])
      expect(NEVER.filter((key) => keys.has(key) || DRAWING_KEYS.has(key))).to.deep.equal([])
      expect(Buffer.from(after).includes('app.alert')).to.equal(false)
      const [one, other] = [join(folder, 'before.pdf'), join(folder, 'after.pdf')]
      await writeFile(one, before)
      await writeFile(other, after)
      const drawn = async (path: string) => {
        await run('pdftoppm', ['-r', '50', '-l', '3', '-gray', path, path])
        return Promise.all(
          (await run('sh', ['-c', `ls ${path}*.pgm`])).stdout
            .trim()
            .split('\n')
            .map((each) => readFile(each)),
        )
      }
      const [first, second] = [await drawn(one), await drawn(other)]
      await run('sh', ['-c', `rm -f ${folder}/*.pgm`])
      expect(second.length).to.equal(first.length)
      for (const [i, page] of first.entries()) {
        const differing = page.reduce(
          (sum, value, at) => sum + (Math.abs(value - second[i]![at]!) > 24 ? 1 : 0),
          0,
        )
        // Edges may be smoothed otherwise.
        expect(differing / page.length, `page ${i + 1}`).to.be.lessThan(0.002)
      }
    }).timeout(120_000)
})
