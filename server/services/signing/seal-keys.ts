import { timingSafeEqual } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import { eq, isNull } from 'drizzle-orm'
import type { Ground } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { sealKey } from '#server/db/schema.ts'
import type { Secrets } from '#server/ground/secrets.ts'
import { makeOwnKeys, openKey, type OwnKeys, signerOf } from '#server/seal/certificates.ts'
import { fingerprintOf, sha256 } from '#server/seal/cms.ts'
import { anchorOf, anchorsFile, anchorsIn, meansOf, type SealMeans, timeToken } from '#server/seal/means.ts'
import { answerTime } from '#server/seal/time-stamp.ts'

// The keys that this installation seals with, as the database keeps them, and what is made of them.

/** What keys are made and opened with. */
type KeyGround = Pick<Ground, 'settings' | 'db' | 'secrets' | 'now'>

/** Certificates by which this installation's seals are known, as SHA-256: of the key that seals now, and of former ones. */
export async function ownAnchors(ground: KeyGround, organisation: string): Promise<ReadonlySet<string>> {
  const { key } = await sealMeans(ground, organisation)
  const kept = await readFile(anchorsFile(ground.settings.dataFolder), 'utf8').catch(() => '')
  return new Set([fingerprintOf(anchorOf(signerOf(key))), ...anchorsIn(kept)])
}

/** This installation’s own keys, made on first use; the same for every process. */
export async function ownKeys({ db, now, secrets }: KeyGround, organisation: string): Promise<OwnKeys> {
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
export function sealMeans(ground: KeyGround, organisation: string): Promise<SealMeans> {
  const now = ground.now().getTime()
  const kept = means.get(ground.db)
  if (kept && Math.abs(now - kept.at) < FRESH) return kept.means
  const made = ownKeys(ground, organisation).then((own) => meansOf(own, ground.settings, ground.now()))
  means.set(ground.db, { at: now, means: made })
  made.catch(() => means.delete(ground.db))
  return made
}

/**
 * The stand-in’s answer to a query for the time; null where the query is none, or not this installation's: whoever may have anything
 * stamped could give a forgery this installation's time.
 */
export async function tellTime(
  ground: KeyGround,
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
