import {
  createHash,
  createPrivateKey,
  generateKeyPair,
  randomBytes,
  sign,
  webcrypto,
  X509Certificate,
} from 'node:crypto'
import { promisify } from 'node:util'
import * as asn1js from 'asn1js'
import forge from 'node-forge'
import * as pkijs from 'pkijs'
import { cut } from '#core/text/cut.ts'
import type { Signer } from './cms.ts'
import { type TokenKey, tokenSigner } from './token.ts'

/** A key with its certificate and those above it: PKCS #12. */
export interface SealKey {
  readonly p12: Uint8Array
  readonly passphrase: string
}

const YEARS = 10

/** Characters of a name in a certificate (RFC 5280, appendix A: ub-common-name, ub-organization-name). */
const LONGEST_NAME = 64

/**
 * A name in any script (RFC 5280, 4.1.2.4). What is not ASCII goes as BMPString: the package reads a UTF8String's bytes back
 * as if they were its characters, and a signature would then name another issuer than its certificate.
 */
function nameOf(name: string, text: string): forge.pki.CertificateField {
  const value = cut(text, LONGEST_NAME)
  const plain = /^[\x20-\x7e]*$/.test(value)
  const { UTF8, BMPSTRING } = forge.asn1.Type
  return {
    name,
    value: plain ? value : Buffer.from(value, 'utf16le').swap16().toString('latin1'),
    // The package's types take this for a class of tags.
    valueTagClass: (plain ? UTF8 : BMPSTRING) as unknown as forge.asn1.Class,
  }
}

const newKeys = async () => {
  const pair = await promisify(generateKeyPair)('rsa', {
    modulusLength: 3072,
    publicKeyEncoding: { type: 'spki', format: 'pem' },
    privateKeyEncoding: { type: 'pkcs8', format: 'pem' },
  })
  return {
    publicKey: forge.pki.publicKeyFromPem(pair.publicKey),
    privateKey: forge.pki.privateKeyFromPem(pair.privateKey),
  }
}

type Pair = Awaited<ReturnType<typeof newKeys>>
interface Issued {
  readonly certificate: forge.pki.Certificate
  readonly privateKey: Pair['privateKey']
}

const PURPOSES = {
  root: [
    { name: 'basicConstraints', cA: true, critical: true },
    { name: 'keyUsage', keyCertSign: true, cRLSign: true, critical: true },
  ],
  seal: [
    { name: 'basicConstraints', cA: false, critical: true },
    { name: 'keyUsage', digitalSignature: true, nonRepudiation: true, critical: true },
  ],
  time: [
    { name: 'basicConstraints', cA: false, critical: true },
    { name: 'keyUsage', digitalSignature: true, critical: true },
    // Nothing else, and critical (RFC 3161, 2.3).
    { name: 'extKeyUsage', timeStamping: true, critical: true },
  ],
} as const

/** A certificate for a new key (X.509 v3, RSA 3072, SHA-256), issued by another or, where none is given, by itself. */
async function issue(
  purpose: keyof typeof PURPOSES,
  name: string,
  organisation: string,
  now: Date,
  by: Issued | null,
): Promise<Issued> {
  const { publicKey, privateKey } = await newKeys()
  const certificate = forge.pki.createCertificate()
  certificate.publicKey = publicKey
  certificate.serialNumber = `01${randomBytes(15).toString('hex')}`
  certificate.validity.notBefore = now
  certificate.validity.notAfter = new Date(Date.UTC(now.getUTCFullYear() + YEARS, now.getUTCMonth(), 1))
  const subject = [nameOf('commonName', name), nameOf('organizationName', organisation)]
  certificate.setSubject(subject)
  certificate.setIssuer(by ? by.certificate.subject.attributes : subject)
  certificate.setExtensions([...PURPOSES[purpose], { name: 'subjectKeyIdentifier' }])
  certificate.sign(by?.privateKey ?? privateKey, forge.md.sha256.create())
  return { certificate, privateKey }
}

function packed({ certificate, privateKey }: Issued, ...above: readonly Issued[]): SealKey {
  const passphrase = randomBytes(24).toString('base64url')
  const chain = [certificate, ...above.map((each) => each.certificate)]
  const p12 = forge.asn1
    .toDer(forge.pkcs12.toPkcs12Asn1(privateKey, chain, passphrase, { algorithm: '3des' }))
    .getBytes()
  return { p12: Buffer.from(p12, 'binary'), passphrase }
}

/** All that an installation of its own needs: a root, a key for seals and one for the stand-in that tells the time. */
export interface OwnKeys {
  readonly root: SealKey
  readonly seal: SealKey
  readonly time: SealKey
}

/** Keys of an installation’s own: a root, and what it certifies for sealing and for the time. */
export async function makeOwnKeys(organisation: string, now: Date): Promise<OwnKeys> {
  const root = await issue('root', `Root of ${organisation}`, organisation, now, null)
  const seal = await issue('seal', `Seal of ${organisation}`, organisation, now, root)
  const time = await issue('time', `Time of ${organisation}`, organisation, now, root)
  return { root: packed(root), seal: packed(seal, root), time: packed(time, root) }
}

type OpenKey = Signer & { readonly privateKeyPem: string }

const opened = new Map<string, OpenKey>()

/** Whatever seals: a key in a file of ours, or one on a token. */
export const signerOf = (key: SealKey | TokenKey): Signer => ('uri' in key ? tokenSigner(key) : openKey(key))

/** Opens a key, once: what its passphrase is made into takes long on purpose. */
export function openKey(key: SealKey): OpenKey {
  const name = createHash('sha256').update(key.p12).update(key.passphrase).digest('hex')
  const known = opened.get(name) ?? unpacked(key)
  if (opened.size > 20) opened.clear()
  opened.set(name, known)
  return known
}

/** Its certificates come in the order of their issuing, the key’s own first. */
function unpacked({ p12, passphrase }: SealKey): OpenKey {
  const store = forge.pkcs12.pkcs12FromAsn1(
    forge.asn1.fromDer(forge.util.createBuffer(Buffer.from(p12).toString('binary'))),
    passphrase,
  )
  const bags = (type: string) => store.getBags({ bagType: type })[type] ?? []
  const [keyBag] = [...bags(forge.pki.oids['pkcs8ShroudedKeyBag']!), ...bags(forge.pki.oids['keyBag']!)]
  if (!keyBag?.key) throw new Error('The file of the seal’s key holds no key.')
  const privateKeyPem = forge.pki.privateKeyToPem(keyBag.key)
  const key = createPrivateKey(privateKeyPem)
  const all = bags(forge.pki.oids['certBag']!).flatMap(({ cert }) =>
    cert ? [Buffer.from(forge.asn1.toDer(forge.pki.certificateToAsn1(cert)).getBytes(), 'binary')] : [],
  )
  const own = all.find((each) => new X509Certificate(each).checkPrivateKey(key))
  if (!own) throw new Error('The file of the seal’s key holds no certificate of it.')
  return {
    certificate: own,
    chain: all.filter((each) => each !== own),
    sign: (bytes) => Promise.resolve(sign('sha256', bytes, key)),
    privateKeyPem,
  }
}

/** Days that a revocation list counts. */
const LIST_DAYS = 30

/** A revocation list of one’s own root, in DER: nothing on it is revoked (RFC 5280, 5). */
export async function emptyList(root: SealKey, now: Date): Promise<Buffer> {
  const { certificate, privateKeyPem } = openKey(root)
  const der = createPrivateKey(privateKeyPem).export({ type: 'pkcs8', format: 'der' })
  const key = await webcrypto.subtle.importKey(
    'pkcs8',
    der,
    { name: 'RSASSA-PKCS1-v1_5', hash: 'SHA-256' },
    false,
    ['sign'],
  )
  const list = new pkijs.CertificateRevocationList()
  list.version = 1
  list.issuer = pkijs.Certificate.fromBER(new Uint8Array(certificate)).subject
  list.thisUpdate = new pkijs.Time({ type: 0, value: now })
  list.nextUpdate = new pkijs.Time({ type: 0, value: new Date(now.getTime() + LIST_DAYS * 86_400_000) })
  list.crlExtensions = new pkijs.Extensions({
    extensions: [
      new pkijs.Extension({
        extnID: '2.5.29.20',
        extnValue: new asn1js.Integer({ value: Math.floor(now.getTime() / 1000) }).toBER(false),
      }),
    ],
  })
  await list.sign(key as never, 'SHA-256')
  return Buffer.from(list.toSchema(true).toBER(false))
}
