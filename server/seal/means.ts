import { createHmac, X509Certificate } from 'node:crypto'
import { mkdir, readFile, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import type { Settings } from '#server/ground/settings.ts'
import { emptyList, openKey, type OwnKeys, type SealKey, signerOf } from './certificates.ts'
import { fingerprintOf, type Signer } from './cms.ts'
import type { TokenKey } from './token.ts'

/** What sealing takes: the key, where the time is asked, and what a reader needs years later to check both. */
export interface SealMeans {
  readonly key: SealKey | TokenKey
  readonly time: {
    readonly url: string
    /** Whether it is the stand-in, whose answers are written as ours are, byte by byte. */
    readonly own: boolean
    /** What the stand-in answers to: this installation alone knows it. */
    readonly token?: string
  }
  /** Certificates and revocation lists, DER. */
  readonly certificates: readonly Uint8Array[]
  readonly lists: readonly Uint8Array[]
}

/** What a seal of this key is known by: the top of its chain where that is carried, else the certificate itself. */
export const anchorOf = ({ certificate, chain }: Pick<Signer, 'certificate' | 'chain'>): Uint8Array =>
  chain.at(-1) ?? certificate

/** Where the certificates lie that `brevan verify` knows this installation's seals by, without a database. */
export const anchorsFile = (dataFolder: string): string => join(dataFolder, 'seal', 'anchors.pem')

/** Adds to the anchors; those of former keys stay, for what they sealed is this installation's still. */
async function keepAnchors({ dataFolder }: Settings, certificates: readonly Uint8Array[]): Promise<void> {
  const path = anchorsFile(dataFolder)
  const there = await readFile(path, 'utf8').catch(() => '')
  const known = new Set(anchorsIn(there))
  const fresh = certificates.filter((each) => !known.has(fingerprintOf(each)))
  if (fresh.length === 0) return
  await mkdir(dirname(path), { recursive: true })
  await writeFile(path, there + fresh.map((each) => new X509Certificate(each).toString()).join(''))
}

/** SHA-256 of the certificates in a text, PEM (RFC 7468), or of one in DER. */
export function anchorsIn(text: string | Uint8Array): readonly string[] {
  const pem = typeof text === 'string' ? text : Buffer.from(text).toString('latin1')
  const blocks = pem.match(/-----BEGIN CERTIFICATE-----[^-]+-----END CERTIFICATE-----/g) ?? []
  if (blocks.length === 0 && typeof text !== 'string') return [fingerprintOf(new X509Certificate(text).raw)]
  return blocks.map((block) => fingerprintOf(new X509Certificate(block).raw))
}

/** What sealing takes where an installation has these keys of its own; a key and an authority of its settings come first. */
export async function meansOf(own: OwnKeys, settings: Settings, now: Date): Promise<SealMeans> {
  const { seal, time } = settings
  const key: SealKey | TokenKey = !seal
    ? own.seal
    : 'uri' in seal
      ? { uri: seal.uri, module: seal.module, certificates: await readFile(seal.certificates, 'utf8') }
      : { p12: await readFile(seal.p12), passphrase: seal.passphrase }
  const { certificate, chain } = signerOf(key)
  await keepAnchors(settings, [anchorOf({ certificate, chain })])
  const clock = openKey(own.time)
  const certificates = [certificate, ...chain, ...(time.own ? [clock.certificate, ...clock.chain] : [])]
  const distinct = new Map(certificates.map((each) => [Buffer.from(each).toString('base64'), each]))
  return {
    key,
    time: time.own ? { ...time, token: timeToken(own.time) } : time,
    certificates: [...distinct.values()],
    lists: [await emptyList(own.root, now)],
  }
}

/** What shows the stand-in that it is asked by this installation: made of what only its processes can open. */
export const timeToken = ({ passphrase }: SealKey): string =>
  createHmac('sha256', passphrase).update('time-stamp').digest('base64url')
