import { eq } from 'drizzle-orm'
import { RateLimiterRes } from 'rate-limiter-flexible'
import { isKnownSealer, type Verdict } from '#core/evidence/verdict.ts'
import { perObject } from '#core/per-object.ts'
import type { App } from '#server/app/app.ts'
import { agreement } from '#server/db/schema.ts'
import { conflict, notFound, Refusal } from '#server/ground/problem.ts'
import { limiterOf } from '#server/ground/rate.ts'
import { WorkEnded } from '#server/worker-pools/pool.ts'
import { ownAnchors } from './seal-keys.ts'
import { foundOrganisation } from '#server/services/installation/organisation.ts'

/** Files that one address may have looked at in a quarter of an hour: each is read in a thread that others wait for. */
const limiter = perObject(({ pool }: App) => limiterOf(pool, 'verify', { points: 60, seconds: 900 }))

/** Looks at a file for anybody: what it tells by itself, and whether it is one of this installation's. */
export async function examineFile(app: App, address: string, bytes: Uint8Array) {
  await limiter(app)
    .consume(address.slice(0, 120))
    .catch((refused: unknown) => {
      if (refused instanceof RateLimiterRes)
        throw new Refusal(
          429,
          'Too many files',
          'Many files were looked at from here. Try again in a quarter of an hour.',
        )
      throw refused
    })
  const examined = await app.pages.examine(bytes).catch((error: unknown) => {
    if (error instanceof WorkEnded)
      return {
        kind: 'unsealed' as const,
        problem: 'Reading this file takes too long; it is none that was sealed here.',
      }
    throw error
  })
  if (examined.kind === 'unsealed') return examined
  const [known] = await app.db
    .select({ id: agreement.id })
    .from(agreement)
    .where(eq(agreement.executedSha256, examined.sha256))
  return {
    ...examined,
    problems: [...examined.problems],
    ours: await isOurs(app, examined),
    known: known !== undefined,
  }
}

async function isOurs(app: App, examined: Verdict): Promise<boolean> {
  const organisation = await foundOrganisation(app.db)
  return organisation !== null && isKnownSealer(examined, await ownAnchors(app, organisation.name))
}

/** The evidence beside the file: the very data that stands in it. */
export async function evidenceNow(
  app: App,
  id: string,
): Promise<{ readonly bytes: Uint8Array; readonly fileName: string }> {
  const [row] = await app.db.select().from(agreement).where(eq(agreement.id, id))
  if (!row) throw notFound('agreement')
  if (!row.executedSha256) throw conflict(`${row.number} is not executed; there is no evidence yet.`)
  const examined = await app.pages.examine(await app.files.get(row.executedSha256))
  if (examined.kind !== 'sealed' || !examined.evidence)
    throw conflict('It was sealed by an earlier version, whose evidence stands on its last pages alone.')
  return {
    bytes: Buffer.from(`${JSON.stringify(examined.evidence, null, 2)}\n`),
    fileName: `${row.fileName}, evidence.json`,
  }
}

/** The hash of an executed agreement's file, for whoever has the code from its last pages. */
export async function sealedByCode(app: App, code: string) {
  const [found] = await app.db
    .select({ sha256: agreement.executedSha256, at: agreement.changedAt })
    .from(agreement)
    .where(eq(agreement.id, code))
  return { sha256: found?.sha256 ?? null, executedAt: found?.sha256 ? found.at.toISOString() : null }
}
