import { execFile } from 'node:child_process'
import { mkdtemp, readFile, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { randomUUID } from 'node:crypto'
import { createCanvas, loadImage } from '@napi-rs/canvas'
import { expect } from 'chai'
import type { Agreement } from '#contract/agreement.ts'
import { PDFDocument } from 'pdf-lib'
import type { Evidence } from '#core/evidence/evidence.ts'
import { Client, eventually } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'
import { SCAN_DENSITY as DENSITY, scrawled } from '#test/support/scrawl.ts'
import { clearedOnes, linkIn, partyOf } from '#test/support/signing.ts'
import { signAs } from '#test/support/story.ts'

const run = promisify(execFile)

describe('a signature on paper, and a word before the text', function () {
  this.timeout(240_000)
  let running: Running
  let ines: Client
  let make: () => Promise<Agreement>
  let folder = ''

  before(async () => {
    running = await startApp('paper', { sheet: false })
    ines = await Client.signedIn(running.url, 'ines.hallow')
    make = await clearedOnes(ines)
    folder = await mkdtemp(join(tmpdir(), 'paper-'))
  })
  after(() => running?.stop())

  const agreement = (id: string) => ines.call('agreement', { params: { id } })
  async function out() {
    const { id } = await make()
    await ines.call('sendAgreements', { body: { agreements: [id] } })
    const made = await agreement(id)
    return { made, grower: partyOf(made, 'Grower'), params: { id, party: partyOf(made, 'Grower').id } }
  }

  /** The printed pages as a scanner gives them: pictures, by another program than the one that reads them. */
  async function scanned(printed: Blob): Promise<readonly Buffer[]> {
    const file = join(folder, `${randomUUID()}.pdf`)
    await writeFile(file, Buffer.from(await printed.arrayBuffer()))
    await run('pdftoppm', ['-r', String(DENSITY), '-png', file, file])
    const count = (await PDFDocument.load(await readFile(file))).getPageCount()
    return Promise.all(
      Array.from({ length: count }, (_, i) =>
        readFile(`${file}-${String(i + 1).padStart(String(count).length, '0')}.png`),
      ),
    )
  }

  /** The same with a scrawl wherever one of the parties has something to sign. */
  async function signed(
    pages: readonly Buffer[],
    { id }: Agreement,
    role: string,
  ): Promise<readonly Buffer[]> {
    return Promise.all(pages.map((page, i) => scrawled(running.app, id, role, i + 1, page)))
  }

  /** As a telephone takes it: askew, on a table, with grey light. */
  async function photographed(page: Buffer): Promise<Uint8Array> {
    const image = await loadImage(page)
    const canvas = createCanvas(image.width + 300, image.height + 300)
    const context = canvas.getContext('2d')
    context.fillStyle = '#6b5a48'
    context.fillRect(0, 0, canvas.width, canvas.height)
    context.translate(200, 90)
    context.rotate(0.07)
    context.drawImage(image, 0, 0)
    context.fillStyle = 'rgba(40, 40, 60, 0.25)'
    context.fillRect(0, 0, image.width, image.height)
    return canvas.toBuffer('image/jpeg', 70)
  }

  async function asPdf(pages: readonly Buffer[]): Promise<Uint8Array> {
    const document = await PDFDocument.create()
    for (const page of pages) {
      const image = await document.embedPng(page)
      document.addPage([image.width / 2, image.height / 2]).drawImage(image, {
        x: 0,
        y: 0,
        width: image.width / 2,
        height: image.height / 2,
      })
    }
    return document.save()
  }

  it('is printed with codes, known again in any order, scanned or photographed, and sealed with the rest', async () => {
    const { made, grower, params } = await out()
    const print = await scanned(await ines.call('printPaper', { params }))
    const pages = await signed(print, made, 'grower')
    expect(pages).to.have.length(made.pages)
    const before = await ines.call('paperOf', { params })
    expect([before.pages, before.have.length, before.refusal]).to.deep.equal([made.pages, 0, null])
    expect(before.missing).not.to.deep.equal([])
    expect((await ines.refused('signOnPaper', { params })).message).to.contain('not come back yet')
    // Backwards, one page photographed, the others scanned as one file.
    const photo = await ines.call('takeScan', { params, body: await photographed(pages.at(-1)!) })
    expect(photo.taken).to.deep.equal([made.pages])
    const scan = await ines.call('takeScan', { params, body: await asPdf(pages.slice(0, -1).toReversed()) })
    expect(scan.taken).to.deep.equal(pages.slice(0, -1).map((_, i) => i + 1))
    expect(scan.sheet.missing).to.deep.equal([])
    await ines.call('signOnPaper', { params })
    const other = (await agreement(made.id)).parties.find(({ id }) => id !== grower.id)!
    await signAs(new Client(running.url), await linkIn(ines, other.email))
    const done = await eventually(async () => {
      const now = await agreement(made.id)
      return now.state === 'executed' && now
    }, 'the seal')
    expect(done.parties.find(({ id }) => id === grower.id)!.paperBy).to.equal('Ines Hallow')
    const file = new Uint8Array(
      await (await ines.call('agreementDocument', { params: { id: made.id } })).arrayBuffer(),
    )
    const whole = await PDFDocument.load(file)
    expect(whole.getPageCount()).to.be.greaterThan(2 * made.pages)
    const evidence = JSON.parse(
      await (await ines.call('agreementEvidence', { params: { id: made.id } })).text(),
    ) as Evidence
    const told = evidence.parties.find(({ name }) => name === grower.name)!
    expect(told.proofs).to.deep.equal(['paper'])
    expect([told.consentedAt, told.signature, told.paper?.by]).to.deep.equal([null, 'paper', 'Ines Hallow'])
    const verdict = await ines.call('examineFile', { body: file })
    expect(verdict.kind === 'sealed' && verdict.intact).to.equal(true)
    const { entries, verified } = await ines.call('trail', { params: { id: made.id } })
    expect(verified).to.equal(true)
    expect(entries.map(({ act }) => act)).to.include.members(['paper printed', 'signed on paper'])
  })

  it('is printed by whoever signs, too, and their link then says that they have signed', async () => {
    const { made, grower, params } = await out()
    const token = await linkIn(ines, grower.email)
    const someone = new Client(running.url)
    const print = await scanned(await someone.call('signingPaper', { params: { token } }))
    const pages = await signed(print, made, 'grower')
    const scan = await ines.call('takeScan', { params, body: await asPdf(pages) })
    expect(scan.taken).to.have.length(pages.length)
    await ines.call('signOnPaper', { params })
    expect((await someone.call('signing', { params: { token } })).status).to.equal('signed')
    expect((await ines.refused('signOnPaper', { params })).message).to.contain('has signed already')
    expect((await someone.refused('signingPaper', { params: { token } })).status).to.equal(409)
  })

  it('is no print that comes back as it was, scanned or photographed, and no page left unsigned', async () => {
    const { made, params } = await out()
    const printed = await ines.call('printPaper', { params })
    const blank = await scanned(printed)
    const { missing } = await ines.call('paperOf', { params })
    for (const body of [
      new Uint8Array(await printed.arrayBuffer()),
      await asPdf(blank),
      await photographed(blank[missing.at(-1)! - 1]!),
    ]) {
      const back = await ines.call('takeScan', { params, body })
      expect(back.unsigned).to.include(missing.at(-1))
      expect(back.sheet.missing).to.deep.equal(missing)
    }
    expect((await ines.refused('signOnPaper', { params })).message).to.contain('not come back yet')
    // One page of several left out.
    const pages = await signed(blank, made, 'grower')
    const left = missing[0]!
    const most = await ines.call('takeScan', {
      params,
      body: await asPdf(pages.map((page, i) => (i + 1 === left ? blank[i]! : page))),
    })
    expect(most.unsigned).to.deep.equal([left])
    await ines.refused('signOnPaper', { params })
    expect(
      (await ines.call('takeScan', { params, body: await photographed(pages[left - 1]!) })).unsigned,
    ).to.deep.equal([])
    await ines.call('signOnPaper', { params })
  })

  it('does not outlive its revision: taken back, nothing of it is in page, evidence or seal', async () => {
    const { made, params } = await out()
    const pages = await signed(await scanned(await ines.call('printPaper', { params })), made, 'grower')
    await ines.call('takeScan', { params, body: await asPdf(pages) })
    await ines.call('signOnPaper', { params })
    await ines.call('takeCourse', {
      params: { id: made.id },
      body: { course: 'take back', reason: 'Another window' },
    })
    await ines.call('routeAgain', { params: { id: made.id } }).catch(() => undefined)
    const again = await agreement(made.id)
    expect(again.parties.map(({ signedAt, paperBy }) => [signedAt, paperBy])).to.deep.equal(
      again.parties.map(() => [null, null]),
    )
    // Of every column of a party: set for them, or as at the beginning.
    const { rows } = await running.app.pool.query<Record<string, unknown>>(
      'select * from party where agreement_id = $1 and revision = 2',
      [made.id],
    )
    for (const row of rows)
      for (const column of ['paper', 'at_device_of', 'consented_at', 'opened_at', 'address', 'reason'])
        expect(row[column], column).to.equal(null)
  })

  it('takes no page of another agreement, none without a code, and nothing that is no scan', async () => {
    const [one, other] = [await out(), await out()]
    const pages = await scanned(await ines.call('printPaper', { params: other.params }))
    const foreign = await ines.call('takeScan', { params: one.params, body: await asPdf(pages) })
    expect([foreign.taken, foreign.others]).to.deep.equal([[], other.made.pages])
    const plain = await createCanvas(600, 800).encode('png')
    expect(await ines.call('takeScan', { params: one.params, body: plain })).to.include({
      others: 0,
      unknown: 1,
    })
    for (const [body, why] of [
      ['%PDF-1.7 and nothing more', 'damaged'],
      ['no picture at all', 'no PDF, PNG or JPEG'],
      [Buffer.concat([plain.subarray(0, 40), Buffer.alloc(50)]), 'cut off'],
    ] as const)
      expect(
        (await ines.refused('takeScan', { params: one.params, body: Buffer.from(body) })).message,
      ).to.contain(why)
    // A head that claims 20,000 pixels on a side is refused before anything is drawn.
    const bomb = Buffer.from(plain)
    bomb.writeUInt32BE(20_000, 16)
    bomb.writeUInt32BE(20_000, 20)
    expect((await ines.refused('takeScan', { params: one.params, body: bomb })).message).to.contain(
      'larger than what is in it',
    )
    // Of a revision that is void, nothing counts.
    const own = await scanned(await ines.call('printPaper', { params: one.params }))
    await ines.call('takeCourse', {
      params: { id: one.made.id },
      body: { course: 'take back', reason: 'New date' },
    })
    const late = await ines.refused('takeScan', { params: one.params, body: own[0]! })
    expect(late.status).to.equal(404)
  })

  describe('a recorded word', () => {
    /** The head of a WebM file with sound in it (RFC 9559): enough to be told by. */
    const webm = (codec: string, bytes = 2000) => {
      const file = Buffer.alloc(bytes)
      Buffer.from([0x1a, 0x45, 0xdf, 0xa3]).copy(file)
      Buffer.from(codec).copy(file, 200)
      return file
    }

    it('stands before the text with what is said in it, goes to whoever may read, and in parts', async () => {
      const made = await make()
      const params = { id: made.id }
      await ines.call('keepRecording', { params, body: webm('A_OPUS') })
      const refused = await ines.call('sendAgreements', { body: { agreements: [made.id] } })
      expect(refused.refused[0]!.problem).to.contain('type what is said')
      await ines.call('keepTranscript', { params, body: { transcript: 'Good morning, <b>Maud</b>.' } })
      await ines.call('sendAgreements', { body: { agreements: [made.id] } })
      const token = await linkIn(ines, partyOf(made, 'Grower').email)
      const shown = await new Client(running.url).call('signing', { params: { token } })
      expect(shown.introduction).to.deep.equal({ kind: 'sound', transcript: 'Good morning, <b>Maud</b>.' })
      const url = `${running.url}/api/signing/${token}/introduction`
      const part = await fetch(url, { headers: { range: 'bytes=0-99' } })
      expect([
        part.status,
        part.headers.get('content-range'),
        part.headers.get('content-type'),
      ]).to.deep.equal([206, 'bytes 0-99/2000', 'audio/webm'])
      expect((await part.arrayBuffer()).byteLength).to.equal(100)
      expect((await fetch(url, { headers: { range: 'bytes=5000-' } })).status).to.equal(416)
      expect((await fetch(url)).headers.get('accept-ranges')).to.equal('bytes')
      const late = await ines.refused('dropRecording', { params })
      expect(late.message).to.contain('settled')
      const { verified } = await ines.call('trail', { params })
      expect(verified).to.equal(true)
    })

    it('is no longer than it may be, and nothing but a recording', async () => {
      const { id } = await make()
      const set = (body: Uint8Array) => ines.refused('keepRecording', { params: { id }, body })
      // An hour of speech at 32 kbit/s.
      expect((await set(webm('A_OPUS', 14_400_000))).message).to.contain('Keep it under 3 minutes')
      expect((await set(Buffer.from('<script>alert(1)</script>'))).message).to.contain('no recording')
      expect((await set(webm('V_VP9', 30_500_000))).message).to.contain('larger than 30 MB')
    })
  })
})
