import { and, asc, eq, isNotNull, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { conflictSchema } from '#contract/connection.ts'
import type { Person } from '#contract/person.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { one } from '#server/db/one.ts'
import { connectedRecord, record } from '#server/db/schema.ts'
import { conflict } from '#server/ground/problem.ts'
import { changeRecord } from '#server/services/records/records.ts'
import { connectionRow } from './connections.ts'

/** What somebody has to say of a system's records: those that both changed, and those that could not be read whole. */
export async function conflictsOf(
  app: App,
  by: Person,
  id: string,
): Promise<v.InferOutput<typeof conflictSchema>[]> {
  await requireMay(app, by, 'settings')
  const rows = await app.db
    .select({ row: connectedRecord, ours: record })
    .from(connectedRecord)
    .leftJoin(record, eq(record.id, connectedRecord.recordId))
    .where(
      and(
        eq(connectedRecord.connectionId, id),
        sql`(${isNotNull(connectedRecord.conflict)} or jsonb_array_length(${connectedRecord.problems}) > 0 or ${connectedRecord.waits})`,
      ),
    )
    .orderBy(asc(connectedRecord.kind), asc(connectedRecord.theirId))
    .limit(500)
  return rows.map(({ row, ours }) => ({
    kind: row.kind,
    theirId: row.theirId,
    record: ours && ours.kind !== 'price' ? { id: ours.id, kind: ours.kind, name: ours.name } : null,
    differences: (row.conflict?.differences ?? []).map((each) => ({ ...each })),
    problems: row.problems.map((each) => ({ ...each })),
    waits: row.waits,
  }))
}

/** Says which of the two counts where both changed a record: theirs is taken, or ours stays. */
export async function settleConflict(
  app: App,
  by: Person,
  id: string,
  { kind, theirId, take }: { readonly kind: string; readonly theirId: string; readonly take: boolean },
): Promise<void> {
  await requireMay(app, by, 'settings')
  await connectionRow(app, id)
  await transaction(app, async (work) => {
    const { db, enqueue } = work
    const key = and(
      eq(connectedRecord.connectionId, id),
      eq(connectedRecord.kind, kind),
      eq(connectedRecord.theirId, theirId),
    )
    const [found] = await db.select().from(connectedRecord).where(key).for('update')
    if (!found?.conflict || !found.recordId)
      throw conflict('Somebody has said already which of the two counts.')
    let version = found.ourVersion
    if (take) {
      const ours = one(await db.select().from(record).where(eq(record.id, found.recordId)).for('update'))
      const fields = found.conflict.differences.map(({ field }) => field)
      const theirs = found.conflict.theirs
      const kept = Object.fromEntries(Object.entries(ours.data).filter(([name]) => !fields.includes(name)))
      const taken = Object.fromEntries(Object.entries(theirs).filter(([name]) => fields.includes(name)))
      version = await changeRecord(work, by, found.recordId, { ...kept, ...taken })
      await enqueue('follow-records', {})
    }
    await db
      .update(connectedRecord)
      .set({ conflict: null, theirs: found.conflict.theirs, ourVersion: version })
      .where(key)
  })
}
