import { randomBytes, randomUUID } from 'node:crypto'
import { and, asc, eq, isNull, or, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { connectionSchema, connectionWish } from '#contract/connection.ts'
import type { Person } from '#contract/person.ts'
import type { Auth } from '#core/connection/kinds.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { connectedRecord, connection, person, record } from '#server/db/schema.ts'
import { NONE, type Sealed } from '#server/ground/secrets.ts'
import { conflict, notFound } from '#server/ground/problem.ts'

/** A customer system as its row has it. */
export type Connection = typeof connection.$inferSelect
type Wish = v.InferOutput<typeof connectionWish>

/** One of them. Refused where there is none. */
export async function connectionRow(app: App, id: string): Promise<Connection> {
  const [found] = await app.db
    .select()
    .from(connection)
    .where(and(eq(connection.id, id), isNull(connection.endedAt)))
  if (!found) throw notFound('connection')
  return found
}

/** How it is opened, short of what opens it. */
const veiled = (auth: Auth<Sealed>): Auth<Sealed> => ('secret' in auth ? { ...auth, secret: NONE } : auth)

/**
 * What opens it, encrypted; the one before where the wish leaves it as it is, and it goes where that went. A secret is never
 * carried over to another address.
 */
function withSecret(app: App, wish: Wish, before: Pick<Connection, 'address' | 'auth'> | null): Auth<Sealed> {
  const auth = wish.auth as Auth
  if (!('secret' in auth)) return auth
  const sameWay =
    before !== null &&
    before.address === addressOf(wish) &&
    'secret' in before.auth &&
    before.auth.kind === auth.kind &&
    (auth.kind !== 'client' || (before.auth.kind === 'client' && before.auth.tokenUrl === auth.tokenUrl))
  const secret =
    auth.secret === '' && sameWay && 'secret' in before.auth
      ? before.auth.secret
      : app.secrets.seal(auth.secret)
  return { ...auth, secret }
}

const addressOf = ({ address }: Pick<Wish, 'address'>): string => address.replace(/\/$/, '')

/** All of them, with how each stands. */
export async function listConnections(
  app: App,
  by: Person,
): Promise<v.InferOutput<typeof connectionSchema>[]> {
  await requireMay(app, by, 'settings')
  const rows = await app.db
    .select({ row: connection, owner: person.name })
    .from(connection)
    .innerJoin(person, eq(person.id, connection.ownerId))
    .where(isNull(connection.endedAt))
    .orderBy(asc(connection.name))
  const counted = await app.db
    .select({
      id: connectedRecord.connectionId,
      records: sql<number>`count(${connectedRecord.recordId})::int`,
      conflicts: sql<number>`count(${connectedRecord.conflict})::int`,
      faulty: sql<number>`(count(*) filter (where jsonb_array_length(${connectedRecord.problems}) > 0))::int`,
      waiting: sql<number>`(count(*) filter (where ${connectedRecord.waits}))::int`,
    })
    .from(connectedRecord)
    .groupBy(connectedRecord.connectionId)
  return rows.map(({ row, owner }) => {
    const {
      records = 0,
      conflicts = 0,
      faulty = 0,
      waiting = 0,
    } = counted.find(({ id }) => id === row.id) ?? {}
    return {
      id: row.id,
      name: row.name,
      address: row.address,
      description: row.description,
      auth: veiled(row.auth),
      kinds: [...row.kinds],
      drift: row.drift.map((each) => ({ ...each })),
      everyMinutes: row.everyMinutes,
      hook: `${app.settings.publicUrl}/api/connections/${row.id}/hook`,
      owner,
      version: row.version,
      pulledAt: row.pulledAt?.toISOString() ?? null,
      busy: row.heldUntil !== null && row.heldUntil > app.now(),
      problem: row.problem,
      failures: row.failures,
      dueAt: row.dueAt?.toISOString() ?? null,
      last: { made: row.made, changed: row.changed },
      records,
      conflicts,
      faulty,
      waiting,
    }
  })
}

/** Makes a connection; the secret of its own webhook is told once. Nothing is read before a kind is said to become something. */
export async function makeConnection(
  app: App,
  by: Person,
  wish: Wish,
): Promise<{ id: string; secret: string }> {
  await requireMay(app, by, 'settings')
  const id = randomUUID()
  const hookSecret = `whsec_${randomBytes(24).toString('base64')}`
  await app.db.insert(connection).values({
    ...kept(app, wish, null),
    id,
    hookSecret: app.secrets.seal(hookSecret),
    ownerId: by.id,
    createdAt: app.now(),
  })
  return { id, secret: hookSecret }
}

const kept = (app: App, wish: Wish, before: Connection | null) => {
  const { name, description, kinds, everyMinutes } = wish
  return {
    name,
    address: addressOf(wish),
    description,
    auth: withSecret(app, wish, before),
    kinds,
    everyMinutes,
  }
}

/** Changes one; whoever was overtaken is told. */
export async function saveConnection(
  app: App,
  by: Person,
  id: string,
  { version, ...wish }: Wish & { readonly version: number },
) {
  await requireMay(app, by, 'settings')
  const row = await connectionRow(app, id)
  const saved = await app.db
    .update(connection)
    .set({
      ...kept(app, wish, row),
      drift: [],
      version: sql`${connection.version} + 1`,
      // What is mapped otherwise now is read anew from the beginning.
      ...(JSON.stringify(row.kinds) === JSON.stringify(wish.kinds) ? {} : { pulledAt: null }),
      dueAt: wish.everyMinutes === null ? null : app.now(),
    })
    .where(and(eq(connection.id, id), eq(connection.version, version)))
    .returning({ version: connection.version })
  if (!saved[0])
    throw conflict(
      'Somebody changed this connection after you opened it. Open it again to see how it stands.',
    )
  return { version: saved[0].version }
}

/** Reads and tells nothing more there; the records stay. */
export async function endConnection(app: App, by: Person, id: string): Promise<void> {
  await requireMay(app, by, 'settings')
  const row = await connectionRow(app, id)
  await app.db
    .update(connection)
    .set({ endedAt: app.now(), auth: veiled(row.auth), hookSecret: NONE, dueAt: null })
    .where(eq(connection.id, id))
}

/** Has it read now, whatever it waits for. */
export async function pullNow(app: App, by: Person, id: string): Promise<void> {
  await requireMay(app, by, 'settings')
  await pullSoon(app, id)
}

/** Has it read soon; of what the system itself says. */
export async function pullSoon(app: App, id: string): Promise<void> {
  await connectionRow(app, id)
  await transaction(app, async ({ db, enqueue, now }) => {
    await db.update(connection).set({ dueAt: now() }).where(eq(connection.id, id))
    await enqueue('pull-connections', {})
  })
}

/** Of records, those that come from a customer system, with where they stand there. */
export const connectedOf = (app: App, recordIds: readonly string[]) =>
  app.db
    .select({ connected: connectedRecord, connection })
    .from(connectedRecord)
    .innerJoin(connection, eq(connection.id, connectedRecord.connectionId))
    .innerJoin(record, eq(record.id, connectedRecord.recordId))
    .where(and(or(...recordIds.map((id) => eq(connectedRecord.recordId, id))), isNull(connection.endedAt)))
