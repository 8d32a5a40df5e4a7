import { readFile } from 'node:fs/promises'
import { eq, isNull } from 'drizzle-orm'
import type { Db } from '#server/db/connect.ts'
import { sealKey } from '#server/db/schema.ts'
import type { Settings } from '#server/ground/settings.ts'
import { emptyList, makeOwnKeys, openKey, signerOf } from './certificates.ts'
import type { OwnKeys, SealKey } from './certificates.ts'
import type { TokenKey } from './token.ts'
import { answerTime } from './time-stamp.ts'

type Ground = { readonly settings: Settings; readonly db: Db; readonly now: () => Date }

/** What sealing takes: the key, where the time is asked, and what a reader needs years later to check both. */
export interface SealMeans {
  readonly key: SealKey | TokenKey
  readonly time: {
    readonly url: string
    /** Whether it is the stand-in, whose answers are written as ours are, byte by byte. */
    readonly own: boolean
  }
  /** Certificates and revocation lists, DER. */
  readonly certificates: readonly Uint8Array[]
  readonly lists: readonly Uint8Array[]
}

/** This installation’s own keys, made on first use; the same for every process. */
export async function ownKeys({ db, now }: Ground, organisation: string): Promise<OwnKeys> {
  const kept = await keptKeys(db)
  if (kept) return kept
  const made = await makeOwnKeys(organisation, now())
  const more = {
    rootP12: Buffer.from(made.root.p12),
    rootPassphrase: made.root.passphrase,
    timeP12: Buffer.from(made.time.p12),
    timePassphrase: made.time.passphrase,
  }
  // Several processes may come here at once: the first one’s keys are everybody’s. An older installation keeps its seal.
  await db
    .insert(sealKey)
    .values({ p12: Buffer.from(made.seal.p12), passphrase: made.seal.passphrase, madeAt: now(), ...more })
    .onConflictDoNothing()
  await db.update(sealKey).set(more).where(isNull(sealKey.rootP12))
  return (await keptKeys(db))!
}

async function keptKeys(db: Db): Promise<OwnKeys | null> {
  const [kept] = await db.select().from(sealKey).where(eq(sealKey.only, true))
  if (!kept?.rootP12 || !kept.timeP12) return null
  return {
    seal: { p12: kept.p12, passphrase: kept.passphrase },
    root: { p12: kept.rootP12, passphrase: kept.rootPassphrase! },
    time: { p12: kept.timeP12, passphrase: kept.timePassphrase! },
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
  const clock = openKey(own.time)
  const certificates = [certificate, ...chain, ...(time.own ? [clock.certificate, ...clock.chain] : [])]
  const distinct = new Map(certificates.map((each) => [Buffer.from(each).toString('base64'), each]))
  return {
    key,
    time,
    certificates: [...distinct.values()],
    lists: [await emptyList(own.root, ground.now())],
  }
}

/** The stand-in’s answer to a query for the time; null where the query is none. */
export async function tellTime(
  ground: Ground,
  organisation: string,
  query: Uint8Array,
): Promise<Buffer | null> {
  const { time } = await ownKeys(ground, organisation)
  return answerTime(query, openKey(time), ground.now())
}
