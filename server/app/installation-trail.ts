import { AsyncLocalStorage } from 'node:async_hooks'
import { asc, desc, sql } from 'drizzle-orm'
import { appendEntry, type TrailAct, verifyTrail } from '#core/trail/trail.ts'
import type { Db } from '#server/db/connect.ts'
import { installationTrail } from '#server/db/schema.ts'

/** What stands where an agreement's trail has the agreement. */
const INSTALLATION = 'installation'

/** Key of the lock behind which writers of the installation's trail queue up. */
const LOCK = 727_011

/** Adds to the installation's trail, in the caller's transaction; to be the last thing before its end, for others wait. */
export async function noteAct(db: Db, act: TrailAct): Promise<void> {
  await db.execute(sql`select pg_advisory_xact_lock(${LOCK})`)
  const [last] = await db
    .select({ seq: installationTrail.seq, hash: installationTrail.hash })
    .from(installationTrail)
    .orderBy(desc(installationTrail.seq))
    .limit(1)
  const { agreement: _, ...entry } = appendEntry(INSTALLATION, last ?? null, act)
  await db.insert(installationTrail).values(entry)
}

/** Why the installation's chain does not hold; null where it does. */
export async function verifyInstallation(db: Db): Promise<string | null> {
  const rows = await db.select().from(installationTrail).orderBy(asc(installationTrail.seq))
  const verdict = verifyTrail(rows.map((row) => ({ agreement: INSTALLATION, ...row })))
  return verdict.ok ? null : `Entry ${verdict.seq}: ${verdict.problem}`
}

/** An act of a person that is under way, to be written with the first thing it changes. */
interface Acting {
  readonly act: () => TrailAct
  written: boolean
}

const acting = new AsyncLocalStorage<Acting>()

/**
 * Does what a person asked for. Its act goes into the installation's trail in the same transaction as the first change that
 * it makes; `after` writes it where there was none. What fails leaves no act, as it leaves no change.
 */
export async function asAct<T>(
  act: () => TrailAct,
  work: () => Promise<T>,
  after: (write: (db: Db) => Promise<void>) => Promise<void>,
): Promise<T> {
  const own: Acting = { act, written: false }
  const result = await acting.run(own, work)
  if (!own.written) await after((db) => noteAct(db, act()))
  return result
}

/** To be called by a transaction before it commits. Answers what takes it back should the commit fail. */
export async function writeAct(db: Db): Promise<() => void> {
  const own = acting.getStore()
  if (!own || own.written) return () => undefined
  own.written = true
  await noteAct(db, own.act())
  return () => (own.written = false)
}
