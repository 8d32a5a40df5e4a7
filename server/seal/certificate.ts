import { generateKeyPair, randomBytes } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import { promisify } from 'node:util'
import forge from 'node-forge'
import type { Settings } from '#server/ground/settings.ts'
import type { Db } from '#server/db/connect.ts'
import { sealKey } from '#server/db/schema.ts'

export interface SealKey {
  readonly p12: Buffer
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
  const value = text.slice(0, LONGEST_NAME)
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

/** The seal's key: from the settings, or this installation's own, made on first use; the same for every process. */
export async function keyOfSeal(
  app: { readonly settings: Settings; readonly db: Db; readonly now: () => Date },
  organisation: string,
): Promise<SealKey> {
  const { seal } = app.settings
  if (seal) return { p12: await readFile(seal.p12), passphrase: seal.passphrase }
  const kept = await keptKey(app.db)
  if (kept) return kept
  // Several processes may come here at once: the first one's key is everybody's.
  await app.db
    .insert(sealKey)
    .values({ ...(await selfSigned(organisation, app.now())), madeAt: app.now() })
    .onConflictDoNothing()
  return (await keptKey(app.db))!
}

async function keptKey(db: Db): Promise<SealKey | null> {
  const [kept] = await db.select({ p12: sealKey.p12, passphrase: sealKey.passphrase }).from(sealKey)
  return kept ?? null
}

/** A self-signed certificate for document signing (X.509 v3, RSA 3072, SHA-256). Readers show it as valid but not trusted. */
export async function selfSigned(organisation: string, now: Date): Promise<SealKey> {
  const { publicKey, privateKey } = await newKeys()
  const certificate = forge.pki.createCertificate()
  certificate.publicKey = publicKey
  certificate.serialNumber = `01${randomBytes(15).toString('hex')}`
  certificate.validity.notBefore = now
  certificate.validity.notAfter = new Date(Date.UTC(now.getUTCFullYear() + YEARS, now.getUTCMonth(), 1))
  const name = [nameOf('commonName', `Seal of ${organisation}`), nameOf('organizationName', organisation)]
  certificate.setSubject(name)
  certificate.setIssuer(name)
  certificate.setExtensions([
    { name: 'basicConstraints', cA: false, critical: true },
    { name: 'keyUsage', digitalSignature: true, nonRepudiation: true, critical: true },
    { name: 'subjectKeyIdentifier' },
  ])
  certificate.sign(privateKey, forge.md.sha256.create())
  const passphrase = randomBytes(24).toString('base64url')
  const p12 = forge.asn1
    .toDer(forge.pkcs12.toPkcs12Asn1(privateKey, [certificate], passphrase, { algorithm: '3des' }))
    .getBytes()
  return { p12: Buffer.from(p12, 'binary'), passphrase }
}
