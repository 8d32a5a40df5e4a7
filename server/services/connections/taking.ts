import { and, eq, isNull, sql } from 'drizzle-orm'
import { reconcile } from '#core/connection/reconcile.ts'
import type { TheirKind } from '#core/connection/kinds.ts'
import type { TheirRecord } from '#core/connection/read.ts'
import type { RecordData } from '#core/outline/field.ts'
import { belongsToCustomer, recordName } from '#core/records/kinds.ts'
import type { Ground } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import { connectedRecord, record } from '#server/db/schema.ts'
import { changeRecord, insertRecord, namesTheSame } from '#server/services/records/records.ts'
import type { Connection } from './connections.ts'

// What one record of theirs does to ours, in the caller's transaction.

/** What became of a record of theirs. */
export type Took = 'made' | 'changed' | 'same' | 'conflict' | 'waits' | 'faulty'

type Row = typeof connectedRecord.$inferSelect

/** Our fields that theirs fill, whatever this record has in them; of what could not be read nothing is said. */
const fillsOf = ({ mapping }: TheirKind, { problems }: Pick<TheirRecord, 'problems'>): readonly string[] => {
  const unread = new Set(problems.map(({ field }) => field.split('[')[0]!))
  return [...new Set(Object.keys(mapping).map((name) => name.split('.')[0]!))].filter(
    (name) => !unread.has(name),
  )
}

/** Takes one record of theirs into ours, in the caller’s transaction. */
export async function takeRecord(
  ground: Ground,
  connection: Connection,
  kind: TheirKind,
  theirs: TheirRecord,
): Promise<Took> {
  const { db } = ground
  const key = and(
    eq(connectedRecord.connectionId, connection.id),
    eq(connectedRecord.kind, kind.name),
    eq(connectedRecord.theirId, theirs.id),
  )
  const [known] = await db.select().from(connectedRecord).where(key).for('update')
  const note = async (change: Partial<typeof connectedRecord.$inferInsert>) => {
    const all = {
      theirs: known?.theirs ?? {},
      ourVersion: known?.ourVersion ?? 0,
      recordId: known?.recordId ?? null,
      owner: theirs.owner,
      problems: [...theirs.problems],
      waits: false,
      conflict: null,
      seenAt: ground.now(),
      ...change,
    }
    await db
      .insert(connectedRecord)
      .values({ connectionId: connection.id, kind: kind.name, theirId: theirs.id, ...all })
      .onConflictDoUpdate({
        target: [connectedRecord.connectionId, connectedRecord.kind, connectedRecord.theirId],
        set: all,
      })
  }
  if (recordName(theirs.data) === '' && !known?.recordId) {
    await note({ problems: [...theirs.problems, { field: 'name', message: 'It has no name.' }] })
    return 'faulty'
  }
  const customerId = await customerOf(db, connection, kind, theirs)
  if (customerId === 'unknown') {
    await note({ waits: true, theirs: known?.recordId ? known.theirs : theirs.data })
    return 'waits'
  }
  const ours = known?.recordId
    ? await ourRecord(db, known.recordId)
    : await matching(db, connection, kind, theirs, customerId)
  if (ours === 'many') {
    const several = {
      field: 'name',
      message: `Several of ours are called “${recordName(theirs.data)}”: none is taken for it.`,
    }
    await note({ problems: [...theirs.problems, several] })
    return 'faulty'
  }
  if (!ours) {
    const id = await insertRecord(ground, { id: connection.ownerId }, kind.into!, theirs.data, customerId)
    await note({ recordId: id, theirs: theirs.data, ourVersion: 1 })
    return 'made'
  }
  const last = known?.recordId ? { theirs: known.theirs, version: known.ourVersion } : null
  const met = reconcile(ours.data, theirs.data, last, fillsOf(kind, theirs))
  if (met.kind === 'conflict') {
    await note({
      recordId: ours.id,
      conflict: { differences: met.differences, theirs: theirs.data },
    })
    return 'conflict'
  }
  const version =
    met.kind === 'take'
      ? await changeRecord(ground, { id: connection.ownerId }, ours.id, met.data)
      : ours.version
  await note({ recordId: ours.id, theirs: agreed(known, theirs), ourVersion: version })
  return met.kind === 'take' ? 'changed' : 'same'
}

/** What both sides agree on now; what could not be read is what it was. */
const agreed = (known: Row | undefined, { data, problems }: TheirRecord): RecordData => {
  const unread = problems.map(({ field }) => field.split('[')[0]!)
  return {
    ...data,
    ...Object.fromEntries(
      unread.flatMap((field) => (known?.theirs[field] === undefined ? [] : [[field, known.theirs[field]]])),
    ),
  }
}

/** Whose it is; `unknown`: of somebody who has not come yet. */
async function customerOf(
  db: Db,
  { id }: Connection,
  kind: TheirKind,
  { owner }: TheirRecord,
): Promise<string | null | 'unknown'> {
  if (!belongsToCustomer(kind.into!) || !kind.owner || owner === null) return null
  const [found] = await db
    .select({ recordId: connectedRecord.recordId })
    .from(connectedRecord)
    .where(
      and(
        eq(connectedRecord.connectionId, id),
        eq(connectedRecord.kind, kind.owner.kind),
        eq(connectedRecord.theirId, owner),
      ),
    )
  return found?.recordId ?? 'unknown'
}

async function ourRecord(db: Db, id: string) {
  const found = one(await db.select().from(record).where(eq(record.id, id)).for('update'))
  return found
}

/** The one of ours that is called the same, of the same customer, and that nothing of theirs is connected with yet. */
async function matching(
  db: Db,
  { id }: Connection,
  kind: TheirKind,
  theirs: TheirRecord,
  customerId: string | null,
) {
  const found = await db
    .select()
    .from(record)
    .where(
      and(
        eq(record.kind, kind.into!),
        isNull(record.archivedAt),
        customerId === null ? undefined : eq(record.customerId, customerId),
        namesTheSame(record.name, recordName(theirs.data)),
        sql`not exists (select from ${connectedRecord}
          where ${connectedRecord.connectionId} = ${id} and ${connectedRecord.recordId} = ${record.id})`,
      ),
    )
    .limit(2)
    .for('update')
  return found.length > 1 ? ('many' as const) : (found[0] ?? null)
}
