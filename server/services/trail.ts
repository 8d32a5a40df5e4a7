import { asc, desc, eq, sql } from 'drizzle-orm'
import { appendEntry, verifyTrail } from '#core/trail/trail.ts'
import type { TrailAct } from '#core/trail/trail.ts'
import type { Db } from '#server/db/connect.ts'
import { trail } from '#server/db/schema.ts'

/** Adds to an agreement's trail, inside the caller's transaction; writers of one agreement queue up behind each other. */
export async function record(db: Db, agreementId: string, acts: readonly TrailAct[]): Promise<void> {
  await db.execute(sql`select pg_advisory_xact_lock(hashtextextended(${agreementId}, 0))`)
  const [last] = await db
    .select({ seq: trail.seq, hash: trail.hash })
    .from(trail)
    .where(eq(trail.agreementId, agreementId))
    .orderBy(desc(trail.seq))
    .limit(1)
  let previous = last ?? null
  const entries = acts.map(
    (act) => (previous = appendEntry(agreementId, previous, act)) as ReturnType<typeof appendEntry>,
  )
  await db
    .insert(trail)
    .values(entries.map(({ agreement, ...entry }) => ({ ...entry, agreementId: agreement })))
}

export async function readTrail(db: Db, agreementId: string) {
  const rows = await db.select().from(trail).where(eq(trail.agreementId, agreementId)).orderBy(asc(trail.seq))
  const entries = rows.map(({ agreementId: agreement, ...entry }) => ({ agreement, ...entry }))
  const verdict = verifyTrail(entries)
  return {
    entries,
    verified: verdict.ok,
    problem: verdict.ok ? null : `Entry ${verdict.seq}: ${verdict.problem}`,
  }
}
