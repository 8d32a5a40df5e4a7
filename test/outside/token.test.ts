import { execFile } from 'node:child_process'
import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { expect } from 'chai'
import { PDFDocument } from 'pdf-lib'
import { PagePool } from '#server/worker-pools/pool.ts'
import { openKey } from '#server/seal/certificates.ts'
import { examine } from '#server/seal/examine.ts'
import { readSettings } from '#server/ground/settings.ts'
import { type TokenKey, tokenSigner } from '#server/seal/token.ts'
import { openSealing, saidEvidence, type Sealing, someEvidence } from '#test/support/sealing.ts'

const run = promisify(execFile)
const AT = new Date('2026-11-23T18:30:05Z')
const PIN = '4711-larkmere'
const MODULE = '/usr/lib/softhsm/libsofthsm2.so'
const pem = (der: Uint8Array) =>
  `-----BEGIN CERTIFICATE-----\n${Buffer.from(der).toString('base64')}\n-----END CERTIFICATE-----\n`

// PKCS #11 (OASIS): SoftHSM is the token, of another hand than the engine that uses it; URIs: RFC 7512.
describe('a seal whose key lies on a token', () => {
  let folder: string
  let sealing: Sealing
  let pages: PagePool
  let key: TokenKey

  before(async () => {
    folder = await mkdtemp(join(tmpdir(), 'token-'))
    await mkdir(join(folder, 'tokens'))
    await writeFile(
      join(folder, 'softhsm2.conf'),
      `directories.tokendir = ${folder}/tokens\nlog.level = ERROR\n`,
    )
    await writeFile(join(folder, 'pin'), PIN)
    process.env['SOFTHSM2_CONF'] = join(folder, 'softhsm2.conf')
    sealing = await openSealing('Larkmere Pollination', AT)
    const { certificate, chain, privateKeyPem } = openKey(sealing.keys.seal)
    await writeFile(join(folder, 'key.pem'), privateKeyPem)
    await run('openssl', [
      'pkcs8',
      '-topk8',
      '-nocrypt',
      '-in',
      join(folder, 'key.pem'),
      '-out',
      join(folder, 'key.p8'),
    ])
    await run('softhsm2-util', ['--init-token', '--free', '--label', 'seal', '--pin', PIN, '--so-pin', PIN])
    await run('softhsm2-util', [
      '--import',
      join(folder, 'key.p8'),
      '--token',
      'seal',
      '--label',
      'seal',
      '--id',
      '01',
      '--pin',
      PIN,
    ])
    key = {
      uri: `pkcs11:token=seal;object=seal;type=private?pin-source=file:${folder}/pin`,
      certificates: [certificate, ...chain].map(pem).join(''),
      module: MODULE,
    }
    pages = new PagePool(1)
  })
  after(async () => {
    await pages.stop()
    await sealing.close()
    delete process.env['SOFTHSM2_CONF']
    await rm(folder, { recursive: true })
  })

  it('holds by our own examination and by pdfsig, and the key is never in a file of ours', async () => {
    const document = await PDFDocument.create()
    document.addPage([300, 300]).drawText('Brightwater Orchard')
    const sealed = await pages.seal({
      pdf: await document.save(),
      stamps: [],
      evidence: someEvidence(AT),
      pages: saidEvidence(AT),
      means: { ...sealing.means, key },
      by: { name: 'Larkmere Pollination', location: 'Larkmere, Oregon', contact: 'desk@larkmere.example' },
      reason: 'Executed',
      at: AT,
    })
    const found = await examine(sealed)
    expect(found.kind === 'sealed' && found.intact).to.equal(true)
    const file = join(folder, 'sealed.pdf')
    await writeFile(file, sealed)
    expect((await run('pdfsig', ['-nocert', file])).stdout).to.contain('Signature is Valid')
  })

  it('says why the token did not sign, and says nothing of the PIN', async () => {
    const wrong = tokenSigner({ ...key, uri: `pkcs11:token=seal;object=other;type=private?pin-value=${PIN}` })
    const said = await wrong.sign(Buffer.from('x')).then(
      () => '',
      (error: unknown) => String(error),
    )
    expect(said).to.contain('The token did not sign')
    expect(said).not.to.contain(PIN)
  })

  it('is set by a URI and its certificates, and nothing else is taken for one', () => {
    const base = { DATABASE_URL: 'postgres://127.0.0.1/brevan' }
    expect(readSettings({ ...base, SEAL_TOKEN: key.uri, SEAL_CERTIFICATES: '/seal.pem' }).seal).to.deep.equal(
      {
        uri: key.uri,
        certificates: '/seal.pem',
        module: null,
      },
    )
    expect(() => readSettings({ ...base, SEAL_TOKEN: key.uri })).to.throw('needs SEAL_CERTIFICATES')
    expect(() => readSettings({ ...base, SEAL_TOKEN: '-config /etc/passwd' })).to.throw('SEAL_TOKEN')
    expect(() => readSettings({ ...base, BREVAN_DAYS_AHEAD: '9' })).to.throw('for the demo alone')
  })
})
