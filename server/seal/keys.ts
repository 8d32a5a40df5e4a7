import { createHmac, timingSafeEqual, X509Certificate } from 'node:crypto'
import { mkdir, readFile, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { eq, isNull } from 'drizzle-orm'
import type { Db } from '#server/db/connect.ts'
import { sealKey } from '#server/db/schema.ts'
import type { Secrets } from '#server/ground/secrets.ts'
import type { Settings } from '#server/ground/settings.ts'
import { emptyList, makeOwnKeys, openKey, signerOf } from './certificates.ts'
import type { OwnKeys, SealKey } from './certificates.ts'
import { fingerprintOf, sha256 } from './cms.ts'
import type { Signer } from './cms.ts'
import type { TokenKey } from './token.ts'
import { answerTime } from './time-stamp.ts'

type Ground = {
  readonly settings: Settings
  readonly db: Db
  readonly secrets: Secrets
  readonly now: () => Date
}

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
const anchorOf = ({ certificate, chain }: Pick<Signer, 'certificate' | 'chain'>): Uint8Array =>
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

/** Certificates by which this installation's seals are known, as SHA-256: of the key that seals now, and of former ones. */
export async function ownAnchors(ground: Ground, organisation: string): Promise<ReadonlySet<string>> {
  const { key } = await sealMeans(ground, organisation)
  const kept = await readFile(anchorsFile(ground.settings.dataFolder), 'utf8').catch(() => '')
  return new Set([fingerprintOf(anchorOf(signerOf(key))), ...anchorsIn(kept)])
}

/** This installation’s own keys, made on first use; the same for every process. */
export async function ownKeys({ db, now, secrets }: Ground, organisation: string): Promise<OwnKeys> {
  const kept = await keptKeys(db, secrets)
  if (kept) return kept
  const made = await makeOwnKeys(organisation, now())
  const more = {
    rootP12: Buffer.from(made.root.p12),
    rootPassphrase: secrets.seal(made.root.passphrase),
    timeP12: Buffer.from(made.time.p12),
    timePassphrase: secrets.seal(made.time.passphrase),
  }
  // Several processes may come here at once: the first one’s keys are everybody’s. An older installation keeps its seal.
  await db
    .insert(sealKey)
    .values({
      p12: Buffer.from(made.seal.p12),
      passphrase: secrets.seal(made.seal.passphrase),
      madeAt: now(),
      ...more,
    })
    .onConflictDoNothing()
  await db.update(sealKey).set(more).where(isNull(sealKey.rootP12))
  return (await keptKeys(db, secrets))!
}

async function keptKeys(db: Db, secrets: Secrets): Promise<OwnKeys | null> {
  const [kept] = await db.select().from(sealKey).where(eq(sealKey.only, true))
  if (!kept?.rootP12 || !kept.timeP12) return null
  return {
    seal: { p12: kept.p12, passphrase: secrets.open(kept.passphrase) },
    root: { p12: kept.rootP12, passphrase: secrets.open(kept.rootPassphrase!) },
    time: { p12: kept.timeP12, passphrase: secrets.open(kept.timePassphrase!) },
  }
}

/** Milliseconds for which what was worked out for sealing is used again. */
const FRESH = 6 * 3_600_000
const means = new WeakMap<Db, { readonly at: number; readonly means: Promise<SealMeans> }>()

/** What sealing takes, worked out now and then: a revocation list is some hours old at the most. */
export function sealMeans(ground: Ground, organisation: string): Promise<SealMeans> {
  const now = ground.now().getTime()
  const kept = means.get(ground.db)
  if (kept && Math.abs(now - kept.at) < FRESH) return kept.means
  const made = workedOut(ground, organisation)
  means.set(ground.db, { at: now, means: made })
  made.catch(() => means.delete(ground.db))
  return made
}

async function workedOut(ground: Ground, organisation: string): Promise<SealMeans> {
  const { seal, time } = ground.settings
  const own = await ownKeys(ground, organisation)
  const key: SealKey | TokenKey = !seal
    ? own.seal
    : 'uri' in seal
      ? { uri: seal.uri, module: seal.module, certificates: await readFile(seal.certificates, 'utf8') }
      : { p12: await readFile(seal.p12), passphrase: seal.passphrase }
  const { certificate, chain } = signerOf(key)
  await keepAnchors(ground.settings, [anchorOf({ certificate, chain })])
  const clock = openKey(own.time)
  const certificates = [certificate, ...chain, ...(time.own ? [clock.certificate, ...clock.chain] : [])]
  const distinct = new Map(certificates.map((each) => [Buffer.from(each).toString('base64'), each]))
  return {
    key,
    time: time.own ? { ...time, token: timeToken(own.time) } : time,
    certificates: [...distinct.values()],
    lists: [await emptyList(own.root, ground.now())],
  }
}

/** What shows the stand-in that it is asked by this installation: made of what only its processes can open. */
const timeToken = ({ passphrase }: SealKey): string =>
  createHmac('sha256', passphrase).update('time-stamp').digest('base64url')

/**
 * The stand-in’s answer to a query for the time; null where the query is none, or not this installation's: whoever may have anything
 * stamped could give a forgery this installation's time.
 */
export async function tellTime(
  ground: Ground,
  organisation: string,
  authorization: string | undefined,
  query: Uint8Array,
): Promise<Buffer | null> {
  const { time } = await ownKeys(ground, organisation)
  const [said, wanted] = [authorization ?? '', `Bearer ${timeToken(time)}`].map((text) =>
    sha256(Buffer.from(text)),
  )
  if (!timingSafeEqual(said!, wanted!)) return null
  return answerTime(query, openKey(time), ground.now())
}
