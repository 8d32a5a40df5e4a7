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
  await db.insert(trail).values(entriesOf(agreementId, last ?? null, acts))
}

/** The first acts of agreements that the caller's transaction has made: nobody else can write to these yet. */
export async function recordFirst(
  db: Db,
  begun: readonly { readonly agreementId: string; readonly acts: readonly TrailAct[] }[],
): Promise<void> {
  await db.insert(trail).values(begun.flatMap(({ agreementId, acts }) => entriesOf(agreementId, null, acts)))
}

function entriesOf(
  agreementId: string,
  last: Parameters<typeof appendEntry>[1],
  acts: readonly TrailAct[],
): (typeof trail.$inferInsert)[] {
  let previous = last
  return acts.map((act) => {
    const { agreement, ...entry } = appendEntry(agreementId, previous, act)
    previous = entry
    return { ...entry, agreementId: agreement }
  })
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
