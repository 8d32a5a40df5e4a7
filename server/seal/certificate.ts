import { generateKeyPair, randomBytes } from 'node:crypto'
import { link, mkdir, readFile, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { promisify } from 'node:util'
import forge from 'node-forge'
import type { Settings } from '#server/settings.ts'

export interface SealKey {
  readonly p12: Buffer
  readonly passphrase: string
}

const YEARS = 10

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

/** The seal's key: from the settings, or this installation's own, made on first use and kept readable to its owner only. */
export async function sealKey(settings: Settings, now: Date): Promise<SealKey> {
  if (settings.seal) return { p12: await readFile(settings.seal.p12), passphrase: settings.seal.passphrase }
  const folder = join(settings.dataFolder, 'seal')
  const path = join(folder, 'seal.json')
  const kept = await keptKey(path)
  if (kept) return kept
  const made = await selfSigned(now)
  await mkdir(folder, { recursive: true, mode: 0o700 })
  const part = `${path}.${randomBytes(6).toString('hex')}`
  await writeFile(part, JSON.stringify({ p12: made.p12.toString('base64'), passphrase: made.passphrase }), {
    mode: 0o600,
  })
  // Several processes may come here at once: the first one's key is everybody's.
  await link(part, path).catch((error: NodeJS.ErrnoException) => {
    if (error.code !== 'EEXIST') throw error
  })
  await rm(part, { force: true })
  return (await keptKey(path))!
}

async function keptKey(path: string): Promise<SealKey | null> {
  const kept = await readFile(path, 'utf8').catch(() => null)
  if (kept === null) return null
  const { p12, passphrase } = JSON.parse(kept) as { p12: string; passphrase: string }
  return { p12: Buffer.from(p12, 'base64'), passphrase }
}

/** A self-signed certificate for document signing (X.509 v3, RSA 3072, SHA-256). Readers show it as valid but not trusted. */
async function selfSigned(now: Date): Promise<SealKey> {
  const { publicKey, privateKey } = await newKeys()
  const certificate = forge.pki.createCertificate()
  certificate.publicKey = publicKey
  certificate.serialNumber = `01${randomBytes(15).toString('hex')}`
  certificate.validity.notBefore = now
  certificate.validity.notAfter = new Date(Date.UTC(now.getUTCFullYear() + YEARS, now.getUTCMonth(), 1))
  const name = [
    { name: 'commonName', value: 'Brevan seal of Larkmere Pollination' },
    { name: 'organizationName', value: 'Larkmere Pollination' },
  ]
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
