import { execFile } from 'node:child_process'
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { expect } from 'chai'
import fc from 'fast-check'
import { PDFArray, PDFDict, PDFDocument, PDFHexString, PDFName } from 'pdf-lib'
import { plainLook } from '#core/document/look.ts'
import { evenRows } from '#core/merge/even-table.ts'
import type { FinishedText } from '#core/merge/finished.ts'
import { merge } from '#core/merge/merge.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import { finishedText } from '#core/merge/text.ts'
import type { RecordData } from '#core/outline/field.ts'
import { colonySale } from '#demo/colony-sale.ts'
import { seasonAgreement } from '#demo/season-agreement.ts'
import { openSealing, saidEvidence, type Sealing, someEvidence } from '#test/support/sealing.ts'
import { PagePool } from '#server/worker-pools/pool.ts'
import type { Composed } from '#server/compose/engine.ts'
import type { SealRequest } from '#server/seal/seal.ts'
import { pixel } from '#test/support/picture.ts'
import { anyRecord, anyTemplate } from '#test/support/templates.ts'

const run = promisify(execFile)
const AT = new Date('2026-11-23T12:00:00Z')

const record: RecordData = {
  season: '2027',
  'grower.name': 'Brightwater #Orchard $x$ *bold* @here',
  'grower.legal_form': 'LLC',
  'grower.contact': 'Maud Ellery',
  'grower.email': 'maud.ellery@brightwater.example',
  'grower.address': '14 Weir Road \\ [Tansy] `Falls`',
  'orchard.county': 'Hollin',
  'orchard.state': 'Idaho',
  crop: 'cherry',
  acres: '120',
  'bloom.start': '2027-03-28',
  'bloom.end': '2027-04-16',
  organic: true,
  'land.leased': true,
  landowner: 'Amos Pell',
  first_season: true,
  colonies: '180',
  frames: '8',
  price_per_colony: '195',
  payment_days: '30',
}

const saleRecord: RecordData = {
  'buyer.name': 'Sedge Harbor Honey',
  'buyer.contact': 'Ottilie Crane',
  'buyer.email': 'ottilie.crane@sedge.example',
  'buyer.address': '3 Quay Street, Sedge Harbor',
  handover: '2027-04-20',
  payment: 'in advance',
  lots: [{ item: 'Colony', grade: 'A', quantity: '12', price: '195' }],
}

/** A document of these blocks alone. */
const documentOf = (blocks: readonly object[]): FinishedText => ({
  body: 'text',
  title: 'Blocks',
  language: 'en-US',
  paper: 'us-letter',
  head: [[], [], []],
  foot: [[], [], []],
  blocks: blocks as FinishedText['blocks'],
  initials: [],
})
const common = { keep: false, source: '' }
const words = (text: string) => ({
  kind: 'paragraph',
  runs: [{ kind: 'text', text, origin: null, gap: false, bold: false, italic: false, underline: false }],
  ...common,
})
const image = (file: string) => ({ kind: 'image', file, alt: 'A hive', width: 20, align: 'left', ...common })

describe('what the page engine is given', () => {
  let pages: PagePool
  before(() => (pages = new PagePool(1)))
  after(() => pages.stop())
  const draw = (blocks: readonly object[], pictures: readonly { name: string; bytes: Uint8Array }[] = []) =>
    pages.document(documentOf(blocks), { proof: true, at: AT, look: plainLook, pictures })

  it('keeps its pictures however often it is asked, through every new compiler', async function () {
    this.timeout(120_000)
    for (let i = 0; i < 160; i++)
      expect(
        (await draw([words(`Row ${i}`), image('hive')], [{ name: 'hive', bytes: pixel }])).pages,
      ).to.equal(1)
  })

  // Common practice: signatures never stand on a page that has no words of what is signed.
  it('tells signatures that stand on a page alone, and draws none alone that are kept with the words above', async function () {
    this.timeout(120_000)
    const blank = (id: string, kind: string) => ({
      id,
      kind,
      role: 'grower',
      label: id,
      shape: 'circle',
      letter: 'G',
    })
    const party = { role: 'grower', label: 'Grower', name: 'Maud Ellery', title: '' }
    const signatures = (keep: boolean) => ({
      kind: 'signatures',
      parties: [{ ...party, signature: blank('s', 'signature'), date: blank('d', 'date') }],
      ...common,
      keep,
      source: 'signatures',
    })
    const lengths = Array.from({ length: 36 }, (_, i) => i + 1)
    const told = new Set<boolean>()
    for (const length of lengths) {
      const text = lengths.slice(0, length).map((i) => words(`Word${i} of the agreement.`))
      for (const keep of [false, true]) {
        const drawn = await draw([...text, signatures(keep)])
        const folder = await mkdtemp(join(tmpdir(), 'brevan-alone-'))
        await writeFile(join(folder, 'a.pdf'), drawn.pdf)
        const { page } = drawn.blanks.find(({ id }) => id === 's')!
        const args = ['-f', String(page), '-l', String(page), join(folder, 'a.pdf'), '-']
        const alone = !/Word\d/.test((await run('pdftotext', args)).stdout)
        await rm(folder, { recursive: true })
        expect(drawn.alone, `${length} paragraphs${keep ? ', kept' : ''}`).to.deep.equal(
          alone ? ['signatures'] : [],
        )
        if (keep) expect(alone, `${length} paragraphs, kept`).to.equal(false)
        else told.add(alone)
      }
    }
    expect([...told].sort()).to.deep.equal([false, true])
  })

  it('loses one picture that cannot be drawn, and never the document', async () => {
    const damaged = Uint8Array.from(pixel)
    damaged.fill(0x55, 41, 60)
    const drawn = await draw(
      [words('Before'), image('hive'), image('damaged'), words('After')],
      [
        { name: 'hive', bytes: pixel },
        { name: 'damaged', bytes: damaged },
      ],
    )
    expect(drawn.pages).to.equal(1)
    expect((await pages.readPicture(damaged)).ok).to.equal(false)
    expect((await pages.readPicture(pixel)).ok).to.equal(true)
  })

  it('takes tables of any spans, once they are made even', async function () {
    this.timeout(120_000)
    const cell = fc.record({
      colspan: fc.integer({ min: 1, max: 5 }),
      rowspan: fc.integer({ min: 1, max: 4 }),
      head: fc.boolean(),
    })
    const rows = fc.array(fc.record({ head: fc.boolean(), cells: fc.array(cell, { maxLength: 5 }) }), {
      minLength: 1,
      maxLength: 6,
    })
    await fc.assert(
      fc.asyncProperty(rows, async (made) => {
        const even = evenRows(
          made.map(({ head, cells }) => ({
            head,
            cells: cells.map((each) => ({ ...each, align: 'left', blocks: [words('x')] })),
          })) as never,
        )
        const table = { kind: 'table', widths: Array(even.columns).fill(1), rows: even.rows, ...common }
        expect((await draw([table])).pages).to.be.greaterThan(0)
      }),
      { numRuns: 60 },
    )
  })
})

describe('pages and seal as outside readers see them', () => {
  let pages: PagePool
  let folder: string
  let composed: Composed
  const save = async (name: string, bytes: Uint8Array) => {
    await writeFile(join(folder, name), bytes)
    return join(folder, name)
  }

  before(async () => {
    pages = new PagePool(1)
    folder = await mkdtemp(join(tmpdir(), 'brevan-pages-'))
    const prepared = prepareTemplate(seasonAgreement)
    if (!prepared.ok) throw new Error(prepared.problems[0]!.message)
    composed = await pages.document(merge(prepared.ready, record, 'LP-2027-0042').document, {
      proof: false,
      at: AT,
      look: plainLook,
      pictures: [],
    })
  })
  after(async () => {
    await pages.stop()
    await rm(folder, { recursive: true, force: true })
  })

  // ISO 14289-1 (PDF/UA-1), 7.1: content has its logical order; poppler's pdftotext is the reader.
  it('have their words in reading order, whatever the template', async function () {
    this.timeout(120_000)
    const wordsOf = (text: string) => text.match(/[\p{L}\p{N}]+/gu) ?? []
    await fc.assert(
      fc.asyncProperty(anyTemplate, anyRecord, async (template, data) => {
        const prepared = prepareTemplate({
          ...template,
          page: { paper: 'a4', header: '', footer: '' },
        })
        if (!prepared.ok) throw new Error(prepared.problems[0]!.message)
        const { document } = merge(prepared.ready, data, null)
        const drawn = await pages.document(document, {
          proof: false,
          at: AT,
          // Words broken at the ends of lines would be two.
          look: { ...plainLook, justified: false },
          pictures: [],
        })
        const { stdout } = await run('pdftotext', ['-raw', await save('any.pdf', drawn.pdf), '-'])
        // Blanks are ruled lines with a small letter, and signatures have words of their own: both are left out of this.
        const plain = finishedText(document)
          .filter((each) => !each.includes('[') && !each.includes('|'))
          .map((each) => wordsOf(each).join(' '))
        const read = wordsOf(stdout).join(' ')
        let at = 0
        for (const paragraph of plain) {
          const found = read.indexOf(paragraph, at)
          expect(found, `“${paragraph}” in its place in “${read}”`).to.be.at.least(at)
          at = found + paragraph.length
        }
      }),
      { numRuns: 25, endOnFailure: true },
    )
  })

  it('qpdf finds no fault in a document, and pdfinfo its title, language tags and page count', async () => {
    const path = await save('plain.pdf', composed.pdf)
    await run('qpdf', ['--check', path])
    const { stdout } = await run('pdfinfo', [path])
    expect(stdout).to.match(/Title:\s+Season pollination agreement/)
    expect(stdout).to.match(/Tagged:\s+yes/)
    expect(stdout).to.match(new RegExp(`Pages:\\s+${composed.pages}`))
  })

  it('pdftotext reads user text as it was given: nothing in it is markup', async () => {
    const { stdout } = await run('pdftotext', [await save('plain.pdf', composed.pdf), '-'])
    const text = stdout.replace(/-?\s+/g, ' ')
    expect(text).to.contain('Brightwater #Orchard $x$ *bold* @here')
    expect(text).to.contain('14 Weir Road \\ [Tansy] `Falls`')
  })

  it('the engine’s positions of blanks are where pdftotext finds what stands beside them', async () => {
    const { stdout } = await run('pdftotext', ['-bbox', await save('plain.pdf', composed.pdf), '-'])
    const words = [
      ...stdout.matchAll(
        /<word xMin="([\d.]+)" yMin="([\d.]+)" xMax="([\d.]+)" yMax="([\d.]+)">Signature<\/word>/g,
      ),
    ]
      .map((match) => ({ x: Number(match[1]), y: Number(match[2]) }))
      .sort((a, b) => a.y - b.y || a.x - b.x)
    const blanks = composed.blanks
      .filter(({ kind }) => kind === 'signature')
      .sort((a, b) => a.y - b.y || a.x - b.x)
    // The grower's, the keeper's and the landowner's, whose land is leased.
    expect(words).to.have.length(3)
    blanks.forEach((blank, i) => {
      expect(words[i]!.y - (blank.y + blank.height)).to.be.within(0, 12)
      expect(blank.x - words[i]!.x).to.be.within(0, 16)
    })
  })

  it('the same document at the same time gives the same bytes', async () => {
    const prepared = prepareTemplate(seasonAgreement)
    const again =
      prepared.ok &&
      (await pages.document(merge(prepared.ready, record, 'LP-2027-0042').document, {
        proof: false,
        at: AT,
        look: plainLook,
        pictures: [],
      }))
    expect(again && Buffer.compare(again.pdf, composed.pdf)).to.equal(0)
  })

  describe('several files made one', () => {
    // ISO 32000-1, 14.7: structure. Poppler reads it as a screen reader would.
    const structure = async (path: string) =>
      (await run('pdfinfo', ['-struct-text', path], { maxBuffer: 1 << 26 })).stdout
        .split('\n')
        // Ids are told apart in the whole, and objects have other numbers there.
        .map((line) => line.replaceAll(/([<(])(?:\d+\.)+(U\d)/g, '$1$2').replace(/Object \d+ 0/, 'Object'))
    let path: string
    let parts: readonly (readonly string[])[]
    before(async function () {
      this.timeout(20_000)
      const prepared = prepareTemplate(colonySale)
      if (!prepared.ok) throw new Error(prepared.problems[0]!.message)
      const sale = await pages.document(merge(prepared.ready, saleRecord, 'LP-2027-0043').document, {
        proof: false,
        at: AT,
        look: plainLook,
        pictures: [],
      })
      const files = [
        { pdf: sale.pdf, title: 'First sale' },
        { pdf: composed.pdf, title: 'Season' },
        { pdf: sale.pdf, title: 'Second sale' },
      ]
      path = await save('whole.pdf', await pages.combine(files, AT))
      parts = await Promise.all(files.map(async ({ pdf }, i) => structure(await save(`part ${i}.pdf`, pdf))))
    })

    it('have no fault for qpdf, are tagged, and as many pages as all of them', async () => {
      await run('qpdf', ['--check', path])
      const { stdout } = await run('pdfinfo', [path])
      expect(stdout).to.match(/Tagged:\s+yes/)
      const one = (await PDFDocument.load(await readFile(join(folder, 'part 0.pdf')))).getPageCount()
      expect(stdout).to.match(new RegExp(`Pages:\\s+${composed.pages + 2 * one}`))
    })

    it('are read with the structure of each, one behind the other', async () => {
      const whole = await structure(path)
      const of = (lines: readonly string[]) => lines.filter((line) => line.trim() !== '')
      const expected = parts.flatMap(of)
      expect(of(whole).slice(0, 400)).to.deep.equal(expected.slice(0, 400))
      expect(of(whole)).to.deep.equal(expected)
    })

    it('have ids that are theirs alone, which the headers of tables name', async () => {
      const { stdout } = await run('qpdf', ['--qdf', '--object-streams=disable', path, '-'], {
        maxBuffer: 1 << 26,
        encoding: 'latin1',
      })
      const ids = [...stdout.matchAll(/\/ID \(([^)]+)\)/g)].map(([, id]) => id!)
      expect(ids.length).to.be.above(4)
      expect(new Set(ids).size).to.equal(ids.length)
      const named = [...stdout.matchAll(/\/Headers \[([^\]]*)\]/g)].flatMap(([, list]) =>
        [...list!.matchAll(/\(([^)]+)\)/g)].map(([, id]) => id!),
      )
      expect(named.length).to.be.above(4)
      expect(named.filter((id) => !ids.includes(id))).to.deep.equal([])
    })

    it('are taken apart again, each with its structure', async () => {
      const whole = await readFile(path)
      let first = 0
      for (const [at, lines] of parts.entries()) {
        const count = (await PDFDocument.load(await readFile(join(folder, `part ${at}.pdf`)))).getPageCount()
        const own = await save(
          `apart ${at}.pdf`,
          await pages.part(whole, { first, pages: count, at }, 'One', AT),
        )
        first += count
        await run('qpdf', ['--check', own])
        expect(await structure(own), `part ${at}`).to.deep.equal(lines)
        expect((await readFile(own)).length).to.be.below(whole.length * 0.8)
      }
    })

    it('keep their links within themselves, and a bookmark leads to each', async () => {
      const whole = await PDFDocument.load(await readFile(path))
      const all = whole.getPages().map(({ ref }) => ref.toString())
      const links = whole.getPages().flatMap((page) =>
        (page.node.Annots()?.asArray() ?? []).flatMap((each) => {
          const annotation = whole.context.lookup(each, PDFDict)
          const target = whole.context.lookupMaybe(annotation.get(PDFName.of('Dest')), PDFArray)
          return target ? [target.get(0).toString()] : []
        }),
      )
      expect(links.length).to.be.above(0)
      expect(links.filter((ref) => !all.includes(ref))).to.deep.equal([])
      // No page stands in the file that is not shown.
      const kept = whole.context
        .enumerateIndirectObjects()
        .filter(
          ([, object]) => object instanceof PDFDict && object.get(PDFName.of('Type'))?.toString() === '/Page',
        )
      expect(kept).to.have.length(all.length)
    })
  })

  it('initials stand on every page, for each role that has them', () => {
    const initials = composed.blanks.filter(({ kind }) => kind === 'initials')
    expect(initials.map(({ page, role }) => `${page} ${role}`).sort()).to.deep.equal(
      Array.from({ length: composed.pages }, (_, i) => [`${i + 1} grower`, `${i + 1} keeper`])
        .flat()
        .sort(),
    )
  })

  describe('once stamped and sealed', () => {
    let sealed: Uint8Array
    let sealing: Sealing
    const request = (changed: Partial<SealRequest>): SealRequest => ({
      pdf: composed.pdf,
      stamps: [],
      evidence: someEvidence(AT),
      pages: saidEvidence(AT),
      means: sealing.means,
      by: { name: 'Larkmere Pollination', location: 'Larkmere, Oregon', contact: 'desk@larkmere.example' },
      reason: 'Executed',
      at: AT,
      ...changed,
    })
    before(async () => {
      const stamps = composed.blanks.map((blank) => ({
        blank,
        value:
          blank.kind === 'date'
            ? { kind: 'text' as const, text: 'November 23, 2026' }
            : blank.kind === 'signature' && blank.role === 'grower'
              ? {
                  kind: 'drawn' as const,
                  strokes: [
                    [
                      [0, 0.2],
                      [0.5, 0],
                      [1, 0.3],
                    ] as const,
                  ],
                  height: 0.3,
                }
              : { kind: 'typed' as const, text: blank.kind === 'initials' ? 'ME' : 'Tobias Renn' },
      }))
      sealing = await openSealing('Larkmere Pollination & Söhne 蜂', AT)
      sealed = await pages.seal(request({ stamps }))
    })

    after(() => sealing.close())

    it('every stamp can be read on its page, whole', async () => {
      const path = await save('sealed.pdf', sealed)
      const last = (
        await run('pdftotext', ['-f', String(composed.pages), '-l', String(composed.pages), path, '-'])
      ).stdout
      expect(last.match(/November 23, 2026/g)).to.have.length(3)
      // Named beneath his place, and typed in his and in the landowner's.
      expect(last.match(/Tobias Renn/g)).to.have.length(3)
      for (let page = 1; page <= composed.pages; page++)
        expect(
          (await run('pdftotext', ['-f', String(page), '-l', String(page), path, '-'])).stdout.match(
            /\bME\b/g,
          ),
          `page ${page}`,
        ).to.have.length(2)
    })

    it('qpdf finds no fault, and the evidence page is there', async () => {
      await run('qpdf', ['--check', await save('sealed.pdf', sealed)])
      expect((await PDFDocument.load(sealed)).getPageCount()).to.equal(composed.pages + 1)
    })

    it('pdfsig calls the seal valid, over the whole file', async () => {
      const { stdout } = await run('pdfsig', [await save('sealed.pdf', sealed)])
      expect(stdout).to.contain('Signature is Valid')
      expect(stdout).to.contain('Total document signed')
      expect(stdout).to.contain('SHA-256')
    })

    it('whatever an agreement is called, the file is whole, the seal valid, and the name reads back', async function () {
      this.timeout(300_000)
      const small = await pages.evidence(saidEvidence(AT), AT)
      const names = [
        'Paren ) Farm',
        'Open ( Farm',
        'Back \\ slash \\) Farm',
        'x) /ByteRange [0 10 20 30] /X (',
        'x /ByteRange [0 /********** /********** /**********] endobj',
        'Ōtsuka 果樹園',
        'Émile & Söhne <b> 🐝 \u202e\u200b',
        'lone \ud800 half',
        '>> endobj trailer %%EOF',
        'a'.repeat(2000),
        '',
        ...fc.sample(fc.string({ unit: 'binary', maxLength: 60 }), { numRuns: 40, seed: 7 }),
      ]
      for (const [i, name] of names.entries()) {
        const reason = `Executed: ${name}`
        const bytes = await pages.seal(request({ pdf: small, reason }))
        const path = await save(`name-${i}.pdf`, bytes)
        await run('qpdf', ['--check', path])
        const { stdout } = await run('pdfsig', [path])
        expect(stdout, JSON.stringify(name))
          .to.contain('Signature is Valid')
          .and.to.contain('Total document signed')
        const signature = (await PDFDocument.load(bytes)).context
          .enumerateIndirectObjects()
          .map(([, object]) => object)
          .find((object) => object instanceof PDFDict && object.get(PDFName.of('Type')) === PDFName.of('Sig'))
        expect((signature as PDFDict).lookup(PDFName.of('Reason'), PDFHexString).decodeText()).to.equal(
          reason.toWellFormed(),
        )
      }
    })

    it('openssl verifies the CMS over the signed bytes (RFC 5652)', async () => {
      const text = Buffer.from(sealed).toString('latin1')
      const [a = 0, b = 0, c = 0, d = 0] = /\/ByteRange\s*\[\s*(\d+)\s+(\d+)\s+(\d+)\s+(\d+)/
        .exec(text)!
        .slice(1)
        .map(Number)
      const hex = text.slice(a + b + 1, c - 1)
      const der = Buffer.from(hex, 'hex')
      const length = 4 + der.readUInt16BE(2)
      await writeFile(join(folder, 'cms.der'), der.subarray(0, length))
      await writeFile(
        join(folder, 'content'),
        Buffer.concat([sealed.subarray(a, a + b), sealed.subarray(c, c + d)]),
      )
      await run('openssl', [
        'cms',
        '-verify',
        '-binary',
        '-inform',
        'DER',
        '-in',
        join(folder, 'cms.der'),
        '-content',
        join(folder, 'content'),
        '-noverify',
        '-out',
        '/dev/null',
      ])
    })

    it('one changed byte anywhere in the signed range makes it invalid', async () => {
      const text = Buffer.from(sealed).toString('latin1')
      const contents = text.indexOf('/Contents <', text.lastIndexOf('/ByteRange') - 200)
      for (const at of [
        Math.floor(sealed.length * 0.1),
        Math.floor(sealed.length * 0.3),
        contents - 60,
        sealed.length - 4,
      ]) {
        const changed = sealed.slice()
        changed[at] = changed[at]! ^ 1
        const verdict = await run('pdfsig', [await save('changed.pdf', changed)]).then(
          ({ stdout }) => stdout,
          (error: { stdout: string }) => error.stdout,
        )
        expect(verdict, `byte ${at}`).not.to.match(
          /Signature is Valid[\s\S]*Total document signed|Total document signed[\s\S]*Signature is Valid/,
        )
      }
    })
  })
})
