import { execFileSync } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createCanvas, loadImage } from '@napi-rs/canvas'
import { expect } from 'chai'
import { Document, Packer, Paragraph, TextRun } from 'docx'
import { PDFDocument, PDFName } from 'pdf-lib'
import PdfKit from 'pdfkit'
import { healthDeclarationPdf } from '#demo/forms/health-declaration.ts'
import { siteAccessPdf } from '#demo/forms/site-access.ts'
import { SheetWriter } from '#demo/forms/sheet-writer.ts'
import { plainLook } from '#core/document/look.ts'
import { plainStyle } from '#core/document/template.ts'
import type { BlankPlace } from '#core/document/tree.ts'
import { blankOfField } from '#core/form/new-form.ts'
import { alike, fingerprintOf, SAME_FORM } from '#core/form/fingerprint.ts'
import type { PageRead } from '#core/form/page-read.ts'
import type { FinishedPages, FinishedPlace } from '#core/merge/finished.ts'
import { bringIn } from '#server/convert/pages/bring-in.ts'
import { drawForm } from '#server/compose/form-pages.ts'
import { PageEngine } from '#server/compose/engine.ts'
import { checkedByQpdf, wordsByPoppler } from '#test/support/forms.ts'

const brought = async (bytes: Uint8Array) => {
  const made = await bringIn(bytes)
  if (!made.ok) throw new Error(made.problem)
  return made
}
/** A manual of a Debian package (libtasn1-doc), set by TeX. */
const MANUAL = '/usr/share/doc/libtasn1-doc/libtasn1.pdf'

/** How far two readers' places for the same words lie apart, in points: of words whose text is the same, in order. */
function apart(pages: readonly PageRead[], pdf: Uint8Array) {
  const others = wordsByPoppler(pdf)
  let [same, far] = [0, 0]
  pages.forEach((page, i) => {
    const theirs = others.filter((word) => word.page === i + 1)
    for (const word of page.words) {
      const found = theirs.find(
        (each) => each.text === word.text && Math.abs(each.x - word.x) < 3 && Math.abs(each.y - word.y) < 6,
      )
      if (!found) continue
      same++
      far = Math.max(far, Math.abs(found.x - word.x), Math.abs(found.right - (word.x + word.width)))
    }
  })
  return { same, far, all: others.length }
}

/** Of the first page as Poppler draws it: how light its corners and its right side are, and where its first and last rules lie. */
async function dotsBySide(pdf: Uint8Array) {
  const folder = mkdtempSync(join(tmpdir(), 'brevan-photo-'))
  try {
    writeFileSync(join(folder, 'a.pdf'), pdf)
    execFileSync('pdftoppm', ['-png', '-r', '72', '-singlefile', 'a.pdf', 'a'], { cwd: folder })
    const image = await loadImage(readFileSync(join(folder, 'a.png')))
    const { width, height } = image
    const canvas = createCanvas(width, height)
    const pen = canvas.getContext('2d')
    pen.drawImage(image, 0, 0)
    const { data } = pen.getImageData(0, 0, width, height)
    const light = (x: number, y: number) => data[(Math.round(y) * width + Math.round(x)) * 4 + 1]!
    const inset = 0.02
    const corners = [inset, 1 - inset].flatMap((x) =>
      [inset, 1 - inset].map((y) => light(x * width, y * height)),
    )
    const dark = (x: number, from: number, to: number, step: number) => {
      for (let y = from; step > 0 ? y < to : y > to; y += step) if (light(x, y) < 140) return y
      return NaN
    }
    const rule = (from: number, to: number, step: number) => {
      const [left, right] = [0.15 * width, 0.42 * width]
      const [one, other] = [dark(left, from, to, step), dark(right, from, to, step)]
      return { y: (one + other) / 2 / height, slope: (other - one) / (right - left) }
    }
    return {
      corner: Math.min(...corners),
      right: light(0.95 * width, 0.5 * height),
      rules: [rule(0.02 * height, height, 1), rule(0.98 * height, 0, -1)],
    }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

describe('pages of others', () => {
  let engine: PageEngine
  before(() => (engine = new PageEngine()))

  const draw = async (pdf: Uint8Array, places: readonly FinishedPlace[]) => {
    const document: FinishedPages = {
      body: 'pages',
      title: 'Placed',
      language: 'en-US',
      initials: [],
      pages: [{ file: 'a', page: 1, turn: 0, places }],
    }
    const name = `a${Math.random()}`
    const named = { ...document, pages: document.pages.map((page) => ({ ...page, file: name })) }
    return drawForm(engine, named, {
      proof: false,
      at: new Date(0),
      look: plainLook,
      pictures: [],
      files: [{ name, bytes: pdf }],
    })
  }
  const words = (text: string, x: number, y: number, underline = false): FinishedPlace => ({
    source: 'p',
    x,
    y,
    width: 200,
    height: 15,
    style: plainStyle,
    ticks: undefined,
    runs: [{ kind: 'text', text, bold: false, italic: false, underline, origin: null, gap: false }],
  })

  it('are read word by word where poppler’s pdftotext -bbox reads them, to half a point', async function () {
    const files = [await siteAccessPdf(2), await healthDeclarationPdf()]
    if (existsSync(MANUAL)) files.push(readFileSync(MANUAL))
    for (const file of files) {
      const { pages, pdf } = await brought(file)
      const { same, far, all } = apart(pages, pdf)
      expect(same / all, 'words found by both').to.be.greaterThan(0.95)
      expect(far, 'farthest apart').to.be.lessThan(0.5)
    }
  })

  it('are placed on and written out as qpdf finds them whole, the words where they were placed', async () => {
    const { pdf } = await brought(existsSync(MANUAL) ? readFileSync(MANUAL) : await siteAccessPdf())
    const made = await draw(pdf, [words('Placed', 123.4, 222.2)])
    checkedByQpdf(made.pdf)
    const found = wordsByPoppler(made.pdf).find(({ text }) => text === 'Placed')!
    expect(found.x).to.be.closeTo(123.4, 0.5)
  })

  it('go out in any order, twice, and turned, as qpdf finds them whole', async () => {
    const { pdf } = await brought(await healthDeclarationPdf())
    const page = (number: number, turn: 0 | 90) => ({
      file: 'health',
      page: number,
      turn,
      places: [words(`Stands${number}${turn}`, 300, 500)],
    })
    const made = await drawForm(
      engine,
      {
        body: 'pages',
        title: 'In another order',
        language: 'en-US',
        initials: [],
        pages: [page(2, 0), page(1, 0), page(1, 90), page(1, 0)],
      },
      {
        proof: false,
        at: new Date(0),
        look: plainLook,
        pictures: [],
        files: [{ name: 'health', bytes: pdf }],
      },
    )
    checkedByQpdf(made.pdf)
    const found = wordsByPoppler(made.pdf)
    expect(
      found.filter(({ text }) => text.startsWith('Stands')).map(({ text, page: at }) => [text, at]),
    ).to.deep.equal([
      ['Stands20', 1],
      ['Stands10', 2],
      ['Stands190', 3],
      ['Stands10', 4],
    ])
    const titled = found.filter(({ text }) => text === 'declaration').map(({ page: at }) => at)
    expect(titled).to.deep.equal([2, 3, 4])
    const sizes = (await PDFDocument.load(made.pdf)).getPages().map((each) => each.getWidth())
    expect(sizes).to.deep.equal([612, 612, 792, 612])
  })

  it('show ink where it was placed, to half a point (pixels of pdftoppm at 288 dots to the inch)', async () => {
    const blank = await PDFDocument.create().then(
      (document) => (document.addPage([612, 792]), document.save()),
    )
    const { pdf } = await draw(blank, [words('underlined', 200.5, 300.25, true)])
    const { left, bottom } = inkBounds(pdf)
    expect(left).to.be.closeTo(200.5, 0.5)
    // The line stands two points below a baseline that is 2.5 above the lower edge.
    expect(bottom).to.be.closeTo(300.25 + 15 - 2.5 + 2, 1.5)
  })

  it('with fields that another library made (pdfkit) are recognised by name, type, options and length', async () => {
    const { fields } = await brought(await formByPdfKit())
    expect(
      fields.map(({ name, kind, options, maxLength, lines }) => ({
        name,
        kind,
        ...(options ? { options } : {}),
        ...(maxLength ? { maxLength } : {}),
        ...(lines ? { lines: lines > 1 } : {}),
      })),
    ).to.deep.equal([
      { name: 'keeper', kind: 'text', maxLength: 30 },
      { name: 'remarks', kind: 'text', lines: true },
      { name: 'healthy', kind: 'tick' },
      { name: 'strength', kind: 'text', options: ['strong', 'medium', 'weak'] },
    ])
    expect(fields[0]!.box.x).to.be.closeTo(100, 0.5)
    expect(fields[0]!.box.y).to.be.closeTo(120, 0.5)
    expect(fields[0]!.box.width).to.be.closeTo(200, 0.5)
  })

  it('with fields that are lists, choices or on no list are taken for what they are (ISO 32000-1, 12.7)', async () => {
    const document = await PDFDocument.create()
    const page = document.addPage([612, 792])
    const form = document.getForm()
    const crops = form.createDropdown('crop')
    crops.addOptions(['almond', 'cherry', 'pear'])
    crops.addToPage(page, { x: 72, y: 700, width: 120, height: 16 })
    const counties = form.createDropdown('county')
    counties.addOptions(Array.from({ length: 60 }, (_, i) => `County ${i + 1}`))
    counties.addToPage(page, { x: 72, y: 670, width: 120, height: 16 })
    const contact = form.createDropdown('contact')
    contact.addOptions(['by mail', 'by telephone'])
    contact.enableEditing()
    contact.addToPage(page, { x: 72, y: 640, width: 120, height: 16 })
    const hives = form.createRadioGroup('hives')
    for (const [i, option] of ['own', 'rented', 'none'].entries())
      hives.addOptionToPage(option, page, { x: 72 + i * 60, y: 610, width: 12, height: 12 })
    const keeper = form.createTextField('keeper')
    keeper.addToPage(page, { x: 72, y: 580, width: 120, height: 16 })
    // As some programs leave a file: the fields hang on the page, and no list names them.
    document.catalog.delete(PDFName.of('AcroForm'))
    const { fields } = await brought(await document.save())
    expect(
      fields.map(({ name, kind, options, ticks }) => [name, kind, options ?? null, ticks?.at.length ?? 0]),
    ).to.deep.equal([
      ['crop', 'text', ['almond', 'cherry', 'pear'], 0],
      // More than can be checked, and one in which anything may be typed: free text, which refuses nothing.
      ['county', 'text', null, 0],
      ['contact', 'text', null, 0],
      ['hives', 'choice', ['own', 'rented', 'none'], 3],
      ['keeper', 'text', null, 0],
    ])
    for (const found of fields.filter(({ kind }) => kind === 'text')) {
      const [blank] = blankOfField('b', found, 'keeper').content
      const { check } = (blank as BlankPlace).attrs
      expect(check === undefined, found.name).to.equal(found.name !== 'crop')
    }
  })

  it('that are protected are opened where that is allowed, and say why where it is not (ISO 32000-1, table 22)', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'brevan-locked-'))
    const locked = (...args: readonly string[]) => {
      execFileSync('qpdf', ['--encrypt', ...args, '--', join(folder, 'open.pdf'), join(folder, 'locked.pdf')])
      return Uint8Array.from(readFileSync(join(folder, 'locked.pdf')))
    }
    try {
      const open = await siteAccessPdf()
      writeFileSync(join(folder, 'open.pdf'), open)
      const pages = (await brought(open)).pages.map(({ words }) => words.map(({ text }) => text).join(' '))
      const allowed = await brought(locked('', 'owner', '256', '--modify=form'))
      expect(allowed.pages.map(({ words }) => words.map(({ text }) => text).join(' '))).to.deep.equal(pages)
      expect(allowed.remarks.map(({ what }) => what).join()).to.contain('Protection that allows')
      expect(checkedByQpdf(allowed.pdf)).to.contain('No syntax or stream encoding errors found')
      const forbidden = await bringIn(
        locked('', 'owner', '128', '--use-aes=y', '--modify=none', '--annotate=n', '--form=n'),
      )
      expect(forbidden.ok ? '' : forbidden.problem).to.contain('its maker allows nobody to change it')
      const closed = await bringIn(locked('user', 'owner', '256'))
      expect(closed.ok ? '' : closed.problem).to.contain('needs a password to be opened')
    } finally {
      rmSync(folder, { recursive: true, force: true })
    }
  })

  it('that were photographed are cut to their paper, set straight and lightened; a scan stays as it is', async () => {
    const sheet = createCanvas(850, 1100)
    const ink = sheet.getContext('2d')
    ink.fillStyle = '#fff'
    ink.fillRect(0, 0, 850, 1100)
    ink.fillStyle = '#111'
    ink.fillRect(85, 110, 680, 12)
    ink.fillRect(85, 980, 340, 12)
    for (let line = 0; line < 18; line++) ink.fillRect(85, 200 + line * 40, 500 + (line % 4) * 40, 5)
    // Lying on a dark table, seen from below its middle and a little turned, the light from one side.
    const photograph = createCanvas(1600, 2000)
    const pen = photograph.getContext('2d')
    pen.fillStyle = '#4a3526'
    pen.fillRect(0, 0, 1600, 2000)
    pen.rotate(0.04)
    for (let y = 0; y < 1500; y++) {
      const narrow = 150 * (1 - y / 1500)
      pen.drawImage(sheet, 0, (y / 1500) * 1100, 850, 1, 240 + narrow, 180 + y, 1150 - 2 * narrow, 2)
    }
    pen.resetTransform()
    const shade = pen.createLinearGradient(0, 0, 1600, 0)
    shade.addColorStop(0, 'rgba(0,0,0,0)')
    shade.addColorStop(1, 'rgba(0,0,0,0.35)')
    pen.fillStyle = shade
    pen.fillRect(0, 0, 1600, 2000)
    const { pdf, remarks, pages } = await brought(new Uint8Array(await photograph.encode('jpeg', 90)))
    expect(remarks.map(({ what }) => what).join()).to.contain('cut to the paper')
    const [page] = pages
    // The paper was 1,150 wide at its nearer side, 850 at the other, and 1,500 high.
    expect(page!.width / page!.height).to.be.closeTo(1000 / 1500, 0.04)
    const dots = await dotsBySide(pdf)
    expect(dots.corner, 'paper to its corners, no table').to.be.above(235)
    expect(dots.right, 'as light on the side where the light did not fall').to.be.above(240)
    // The two rules lie as straight as they were drawn, at their shares of the height.
    expect(dots.rules.map(({ y }) => y)).to.satisfy(
      ([one, other]: number[]) => Math.abs(one! - 116 / 1100) < 0.03 && Math.abs(other! - 986 / 1100) < 0.03,
    )
    for (const { slope } of dots.rules) expect(Math.abs(slope)).to.be.below(0.012)
    const scanned = await brought(new Uint8Array(await sheet.encode('png')))
    expect(scanned.remarks.map(({ what }) => what).join()).to.not.contain('Photograph')
  })

  it('tell of marks that have no drawing in the file (ISO 32000-1, 12.5.5)', async () => {
    const document = await PDFDocument.create()
    const page = document.addPage([612, 792])
    page.node.addAnnot(
      document.context.register(
        document.context.obj({ Type: 'Annot', Subtype: 'Highlight', Rect: [72, 700, 172, 712] }),
      ),
    )
    const { remarks } = await brought(await document.save())
    expect(remarks.map(({ what }) => what).join()).to.contain('Highlights, lines and notes')
  })

  it('of a DOCX whose text says by its markers what stands where lose their letters and nothing else', async function () {
    const { pages, fields, pdf } = await brought(await markedDocx())
    expect(fields.map(({ name, kind, blank }) => [name, kind, blank?.role ?? null])).to.deep.equal([
      ['grower.name', 'value', null],
      ['Gate code', 'text', 'grower'],
      ['Signature of the grower', 'signature', 'grower'],
    ])
    const after = wordsByPoppler(pdf).map(({ text }) => text)
    expect(after).to.have.members(['Orchard:', 'in', 'bloom', 'Gate', 'code', 'and', 'thanks', 'Signed:'])
    // Not painted over and not in white: a reader of the file's own text finds none of it.
    expect(Buffer.from(pdf).toString('latin1')).not.to.contain('{{')
    const [orchard] = pages[0]!.words
    expect(fields[0]!.box.x).to.be.greaterThan(orchard!.x + orchard!.width)
    checkedByQpdf(pdf)
  })

  it('of spreadsheets and pictures are pages too; a scan is set straight and its words are read', async function () {
    const scan = scanned(await siteAccessPdf(), 1.4)
    const { pages, remarks } = await brought(scan)
    expect(remarks.map(({ what }) => what).join()).to.contain('set straight')
    const text = pages[0]!.words.map((word) => word.text).join(' ')
    expect(text).to.contain('Site access permission').and.to.contain('Signature of the grower')
    expect(pages[0]!.lines.filter(({ x1, x2 }) => x2 - x1 > 60).length).to.be.greaterThan(5)
  })

  it('are known again: every version of a form, and no other form (texts that every Debian carries)', async function () {
    const names = ['Apache-2.0', 'Artistic', 'GPL-2', 'MPL-1.1'].filter((name) =>
      existsSync(join(LICENCES, name)),
    )
    if (names.length < 3) return this.skip()
    const prints: { readonly form: string; readonly print: readonly number[] }[] = []
    for (const name of names)
      for (const longer of [0, 24])
        prints.push({ form: name, print: fingerprintOf((await brought(await someForm(name, longer))).pages) })
    let [right, wrong, missed] = [0, 0, 0]
    for (const [i, a] of prints.entries())
      for (const b of prints.slice(i + 1)) {
        const same = alike(a.print, b.print) >= SAME_FORM
        if (same && a.form === b.form) right++
        else if (same) wrong++
        else if (a.form === b.form) missed++
      }
    expect({ right, wrong, missed }).to.deep.equal({ right: names.length, wrong: 0, missed: 0 })
  })
})

const LICENCES = '/usr/share/common-licenses'

/** A form of a text's first forty lines; `longer`: so many more of its lines before the last ten. */
async function someForm(name: string, longer: number): Promise<Uint8Array> {
  const lines = readFileSync(join(LICENCES, name), 'latin1')
    .split('\n')

    .map((line) => line.replace(/[^\x20-\x7e]/g, ' ').trim())
    .filter((line) => line.length > 20)
  const [head, more, tail] = [lines.slice(0, 30), lines.slice(40, 40 + longer), lines.slice(30, 40)]
  const sheet = await SheetWriter.open()
  sheet.title(name)
  for (const line of [...head, ...more, ...tail]) sheet.paragraph(line)
  sheet.ruled('Name:')
  return sheet.bytes()
}

const markedDocx = async (): Promise<Uint8Array> => {
  const line = (text: string) => new Paragraph({ children: [new TextRun(text)] })
  return Packer.toBuffer(
    new Document({
      sections: [
        {
          children: [
            line('Orchard: {{grower.name}} in bloom'),
            line('Gate code {{blank text grower "Gate code", optional}} and thanks'),
            line('Signed: {{blank signature grower "Signature of the grower"}}'),
          ],
        },
      ],
    }),
  )
}

const formByPdfKit = (): Promise<Uint8Array> =>
  new Promise((resolve) => {
    const document = new PdfKit({ size: 'LETTER' })
    const parts: Buffer[] = []
    document.on('data', (part: Buffer) => parts.push(part))
    document.on('end', () => resolve(Buffer.concat(parts)))
    document.font('Helvetica').text('Keeper', 40, 120)
    document.initForm()
    const form = document as unknown as Record<string, (...args: readonly unknown[]) => void>
    form['formText']!('keeper', 100, 120, 200, 20, { fieldOptions: {}, MaxLen: 30 })
    form['formText']!('remarks', 100, 160, 200, 60, { multiline: true })
    form['formCheckbox']!('healthy', 100, 240, 14, 14, {})
    form['formCombo']!('strength', 100, 270, 120, 20, { select: ['strong', 'medium', 'weak'] })
    document.end()
  })

/** A page as a scanner with a crooked hand gives it: a JPEG picture, askew by degrees. */
function scanned(pdf: Uint8Array, degrees: number): Uint8Array {
  return inFolder((folder) => {
    writeFileSync(join(folder, 'a.pdf'), pdf)
    execFileSync('pdftoppm', ['-r', '150', '-png', join(folder, 'a.pdf'), join(folder, 'a')])
    return readFileSync(turnedPicture(folder, degrees))
  })
}

function turnedPicture(folder: string, degrees: number): string {
  const script = `
    import { createCanvas, loadImage } from '@napi-rs/canvas'
    import { writeFileSync } from 'node:fs'
    const image = await loadImage(process.argv[1])
    const canvas = createCanvas(image.width, image.height)
    const context = canvas.getContext('2d')
    context.fillStyle = '#fff'
    context.fillRect(0, 0, image.width, image.height)
    context.translate(image.width / 2, image.height / 2)
    context.rotate(${degrees} * Math.PI / 180)
    context.drawImage(image, -image.width / 2, -image.height / 2)
    writeFileSync(process.argv[2], await canvas.encode('jpeg', 85))`
  const out = join(folder, 'b.jpg')
  execFileSync(process.execPath, ['--input-type=module', '-e', script, join(folder, 'a-1.png'), out])
  return out
}

/** The first page's ink: its left and lower edge in points from the top left. */
function inkBounds(pdf: Uint8Array): { readonly left: number; readonly bottom: number } {
  const DOTS = 4
  return inFolder((folder) => {
    writeFileSync(join(folder, 'a.pdf'), pdf)
    execFileSync('pdftoppm', [
      '-r',
      String(72 * DOTS),
      '-gray',
      '-singlefile',
      join(folder, 'a.pdf'),
      join(folder, 'a'),
    ])
    const picture = readFileSync(join(folder, 'a.pgm'))
    const [, width, height] = /^P5\s+(\d+)\s+(\d+)\s+255\s/
      .exec(picture.subarray(0, 40).toString('latin1'))!
      .map(Number)
    const data = picture.subarray(picture.length - width! * height!)
    let [left, bottom] = [width!, 0]
    for (let y = 0; y < height!; y++)
      for (let x = 0; x < width!; x++)
        if (data[y * width! + x]! < 128) [left, bottom] = [Math.min(left, x), Math.max(bottom, y)]
    return { left: left / DOTS, bottom: (bottom + 1) / DOTS }
  })
}

function inFolder<T>(act: (folder: string) => T): T {
  const folder = mkdtempSync(join(tmpdir(), 'brevan-forms-'))
  try {
    return act(folder)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
