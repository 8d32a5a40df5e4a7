import { execFile } from 'node:child_process'
import { copyFile, mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { Ajv2020 } from 'ajv/dist/2020.js'
import { expect } from 'chai'
import { PDFDocument } from 'pdf-lib'
import { seeded } from '#demo/random.ts'
import { describeVerdict } from '#core/evidence/verdict.ts'
import { speaks } from '#core/languages/all.ts'
import { PagePool } from '#server/worker-pools/pool.ts'
import { openKey } from '#server/seal/certificates.ts'
import { examine } from '#server/seal/examine.ts'
import { sha256 } from '#server/files/store.ts'
import { answerTime } from '#server/seal/time-stamp.ts'
import { openSealing, saidEvidence, type Sealing, someEvidence } from '#test/support/sealing.ts'

const run = promisify(execFile)
const AT = new Date('2026-11-23T18:30:05Z')
const pem = (label: string, der: Uint8Array) =>
  `-----BEGIN ${label}-----\n${Buffer.from(der)
    .toString('base64')
    .replace(/.{64}/g, '$&\n')}\n-----END ${label}-----\n`

// PAdES baseline LT: ETSI EN 319 142-1; CMS: RFC 5652; time stamps: RFC 3161; certificates and lists: RFC 5280.
describe('a seal, by other people’s programs', () => {
  let pages: PagePool
  let sealing: Sealing
  let sealed: Uint8Array
  let folder: string
  const save = async (name: string, bytes: Uint8Array | string) => {
    await writeFile(join(folder, name), bytes)
    return join(folder, name)
  }
  const anchors = () => new Set([sha256(openKey(sealing.keys.root).certificate)])
  const sealOne = async ({ means } = sealing) => {
    const document = await PDFDocument.create()
    document.addPage([300, 300]).drawText('Brightwater Orchard')
    return pages.seal({
      pdf: await document.save(),
      stamps: [],
      evidence: someEvidence(AT),
      pages: saidEvidence(AT),
      means,
      by: { name: 'Larkmere Pollination', location: 'Larkmere, Oregon', contact: 'desk@larkmere.example' },
      reason: 'Executed',
      at: AT,
    })
  }
  /** The CMS in the file, and the bytes it is over. */
  const taken = () => {
    const text = Buffer.from(sealed).toString('latin1')
    const [a = 0, b = 0, c = 0, d = 0] = /\/ByteRange\s*\[\s*(\d+)\s+(\d+)\s+(\d+)\s+(\d+)/
      .exec(text)!
      .slice(1)
      .map(Number)
    const der = Buffer.from(text.slice(a + b + 1, c - 1), 'hex')
    return {
      cms: der.subarray(0, 4 + der.readUInt16BE(2)),
      content: Buffer.concat([sealed.subarray(a, a + b), sealed.subarray(c, c + d)]),
      gap: [b, c] as const,
    }
  }

  before(async () => {
    pages = new PagePool(1)
    folder = await mkdtemp(join(tmpdir(), 'brevan-seals-'))
    sealing = await openSealing('Larkmere Pollination', AT)
    sealed = await sealOne()
    await save('root.pem', pem('CERTIFICATE', openKey(sealing.keys.root).certificate))
  })
  after(async () => {
    await pages.stop()
    await sealing.close()
    await rm(folder, { recursive: true, force: true })
  })

  it('pdfsig: valid, over the whole file, of the kind that PAdES asks for', async () => {
    const { stdout } = await run('pdfsig', [await save('sealed.pdf', sealed)])
    expect(stdout).to.contain('Signature is Valid').and.to.contain('Total document signed')
    expect(stdout).to.contain('ETSI.CAdES.detached').and.to.contain('Seal of Larkmere Pollination')
    await run('qpdf', ['--check', join(folder, 'sealed.pdf')])
  })

  it('openssl cms: the signature holds, and its certificate follows from the root', async () => {
    const { cms, content } = taken()
    const { stderr } = await run('openssl', [
      'cms',
      '-verify',
      '-binary',
      '-inform',
      'DER',
      '-in',
      await save('cms.der', cms),
      '-content',
      await save('content', content),
      '-CAfile',
      join(folder, 'root.pem'),
      '-attime',
      String(AT.getTime() / 1000 + 60),
      '-purpose',
      'any',
      '-out',
      '/dev/null',
    ])
    expect(stderr).to.match(/CMS Verification successful|Verification successful/)
  })

  it('openssl cms: the signed attributes are those of CAdES, and none is a signing time (EN 319 142-1, 6.3)', async () => {
    const { stdout } = await run('openssl', [
      'cms',
      '-cmsout',
      '-print',
      '-inform',
      'DER',
      '-in',
      await save('cms.der', taken().cms),
    ])
    for (const name of [
      'contentType',
      'messageDigest',
      'id-smime-aa-signingCertificateV2',
      'id-smime-aa-timeStampToken',
    ])
      expect(stdout).to.contain(name)
    expect(stdout).not.to.contain('signingTime')
  })

  it('openssl ts: the stand-in answers queries of another program, and that verifies the answer', async () => {
    const data = await save('data', 'Thirty colonies by night')
    const query = join(folder, 'query.tsq')
    await run('openssl', ['ts', '-query', '-data', data, '-sha256', '-cert', '-out', query])
    const reply = await answerTime(await readFile(query), openKey(sealing.keys.time), AT)
    const { stdout } = await run('openssl', [
      'ts',
      '-verify',
      '-queryfile',
      query,
      '-in',
      await save('reply.tsr', reply!),
      '-CAfile',
      join(folder, 'root.pem'),
      '-attime',
      String(AT.getTime() / 1000 + 60),
    ])
    expect(stdout).to.contain('Verification: OK')
    const printed = await run('openssl', ['ts', '-reply', '-in', join(folder, 'reply.tsr'), '-text'])
    expect(printed.stdout).to.contain('Nov 23 18:30:05 2026 GMT')
    expect(await answerTime(Buffer.from('garbage'), openKey(sealing.keys.time), AT)).to.equal(null)
  })

  it('openssl ts: the time stamp in the seal is over its signature', async () => {
    const asn1 = await import('#server/seal/cms.ts')
    const message = asn1.readMessage(taken().cms)!
    const { stdout } = await run('openssl', [
      'ts',
      '-verify',
      '-token_in',
      '-in',
      await save('token.der', message.token!),
      '-data',
      await save('signature', message.signature),
      '-CAfile',
      join(folder, 'root.pem'),
      '-attime',
      String(AT.getTime() / 1000 + 60),
    ])
    expect(stdout).to.contain('Verification: OK')
  })

  it('openssl crl: the revocation list in the file is the root’s', async () => {
    const [list] = sealing.means.lists
    const { stdout, stderr } = await run('openssl', [
      'crl',
      '-inform',
      'DER',
      '-in',
      await save('list.crl', list!),
      '-noout',
      '-issuer',
      '-nextupdate',
      '-CAfile',
      join(folder, 'root.pem'),
    ])
    expect(stdout + stderr)
      .to.contain('Root of Larkmere Pollination')
      .and.to.contain('verify OK')
  })

  it('poppler finds the evidence in the file, as its schema has it', async () => {
    const path = await save('sealed.pdf', sealed)
    expect((await run('pdfdetach', ['-list', path])).stdout).to.contain('evidence.json')
    await run('pdfdetach', ['-save', '1', '-o', join(folder, 'evidence.json'), path])
    const evidence = JSON.parse(await readFile(join(folder, 'evidence.json'), 'utf8')) as unknown
    expect(evidence).to.deep.equal(someEvidence(AT))
    const schema = JSON.parse(await readFile('docs/evidence.schema.json', 'utf8')) as object
    const check = new Ajv2020({ strict: true, validateFormats: false }).compile(schema)
    expect(check(evidence), JSON.stringify(check.errors)).to.equal(true)
    expect(check({ ...(evidence as object), form: 'another' })).to.equal(false)
  })

  it('is told by ours as theirs do, in plain words', async () => {
    const said = describeVerdict(await examine(sealed), speaks('en'), anchors()).join('\n')
    expect(said).to.contain('UNCHANGED since it was sealed')
    expect(said).to.contain('Signed by Maud Ellery as Grower')
    expect(said).to.contain(
      'a personal link, sent to m…y@brightwater.example; a code for one use, sent by text to …117',
    )
    expect(said).to.contain('present in person, at the device of Ines Hallow')
    expect(said).not.to.contain('maud@')
  })

  it('is nobody’s whom one knows where somebody made it themselves, in whatever name', async () => {
    const forger = await openSealing('Larkmere Pollination', AT)
    try {
      const forged = await examine(await sealOne(forger))
      expect(forged).to.deep.include({ kind: 'sealed', intact: true })
      const [first, ...more] = describeVerdict(forged, speaks('en'), anchors())
      expect(first).to.match(/^BY AN UNKNOWN SEALER/)
      expect(more.join('\n')).to.contain('The seal calls itself Seal of Larkmere Pollination')
      const path = await save('forged.pdf', await sealOne(forger))
      const verify = (...more: string[]) =>
        run('node', ['dist/server/verify.js', ...more], {
          env: { ...process.env, BREVAN_DATA: folder },
        }).then(
          ({ stdout }) => ({ code: 0, stdout }),
          ({ code, stdout }: { code: number; stdout: string }) => ({ code, stdout }),
        )
      const root = join(folder, 'root.pem')
      const own = await save('own.pdf', sealed)
      expect((await verify(own, '--anchor', root)).code).to.equal(0)
      expect(await verify(path, '--anchor', root)).to.deep.include({ code: 2 })
      expect((await verify(own)).stdout).to.match(/^BY AN UNKNOWN SEALER/)
      // Known to whoever has the data folder of the installation.
      await mkdir(join(folder, 'seal'))
      await copyFile(root, join(folder, 'seal', 'anchors.pem'))
      expect([(await verify(own)).code, (await verify(path)).code]).to.deep.equal([0, 2])
      const changed = Uint8Array.from(sealed)
      changed[Math.floor(changed.length / 3)]! ^= 1
      expect((await verify(await save('changed.pdf', changed))).code).to.equal(1)
    } finally {
      await forger.close()
    }
  })

  it('shows every one of 1,000 single bytes that were flipped, wherever they stand', async function () {
    this.timeout(300_000)
    const random = seeded(7).next
    const [from, to] = taken().gap
    const unseen: number[] = []
    for (let i = 0; i < 1000; i++) {
      // A good part of them within the seal itself, where the signed bytes do not reach.
      const at =
        i % 3 === 0 ? from + Math.floor(random() * (to - from)) : Math.floor(random() * sealed.length)
      const changed = sealed.slice()
      changed[at] = changed[at]! ^ (1 << Math.floor(random() * 8))
      const examined = await examine(changed)
      if (examined.kind === 'sealed' && examined.intact) unseen.push(at)
    }
    expect(unseen).to.deep.equal([])
  })

  it('shows every one of 100 updates that were appended', async function () {
    this.timeout(60_000)
    const random = seeded(11).next
    const text = Buffer.from(sealed).toString('latin1')
    const start = /startxref\s+(\d+)\s+%%EOF\s*$/.exec(text)![1]!
    for (let i = 0; i < 100; i++) {
      const object = 900 + Math.floor(random() * 50)
      const body = `${object} 0 obj\n<< /Note (${i}) >>\nendobj\n`
      const update =
        i % 4 === 0
          ? '\n'.repeat(1 + (i % 7))
          : `${body}xref\n${object} 1\n${String(sealed.length).padStart(10, '0')} 00000 n \ntrailer\n<< /Size 1000 /Prev ${start} >>\nstartxref\n${sealed.length + body.length}\n%%EOF\n`
      const examined = await examine(Buffer.concat([sealed, Buffer.from(update)]))
      expect(examined.kind === 'sealed' && examined.intact, `update ${i}`).to.equal(false)
    }
  })

  it('says of files that are none, or that nobody sealed, that they are not sealed', async () => {
    const plain = await PDFDocument.create()
    plain.addPage()
    for (const bytes of [
      await plain.save(),
      Buffer.from('not a PDF'),
      Buffer.from('%PDF-1.7\n%%EOF'),
      Buffer.from(`%PDF-1.7\n1 0 obj << /ByteRange [0 1 2 3] /Contents <00> >> endobj\n${'['.repeat(5000)}`),
      sealed.slice(0, Math.floor(sealed.length / 2)),
    ])
      expect(
        (await examine(bytes)).kind === 'sealed' && ((await examine(bytes)) as { intact: boolean }).intact,
      ).to.equal(false)
  })
})
