import { and, eq, isNull, lte } from 'drizzle-orm'
import { driftOf } from '#core/connection/found.ts'
import { MOST_PAGES, MOST_RECORDS, type TheirKind, TOLD_AFTER } from '#core/connection/kinds.ts'
import { readPage } from '#core/connection/read.ts'
import type { Outline } from '#core/outline/field.ts'
import { cut } from '#core/text/cut.ts'
import { pauseAfter } from '#core/trail/telling.ts'
import type { App } from '#server/app/app.ts'
import { isFree } from '#server/db/held.ts'
import { transaction } from '#server/app/transaction.ts'
import { connectedRecord, connection, person } from '#server/db/schema.ts'
import { enqueueEmail } from '#server/services/agreements/mails.ts'
import { fieldsOf } from '#server/services/records/record-fields.ts'
import type { Connection } from './connections.ts'
import { askPage, describedKinds } from './finding.ts'
import { takeRecord, type Took } from './taking.ts'

/** Milliseconds that a worker has a connection to itself before it has to say so again. */
const HELD = 120_000
/** Milliseconds before the last pull that are read again: their clock is not ours. */
const OVERLAP = 300_000

/** Why a pull came to nothing, in words. */
class Failed extends Error {}

/** Job: reads the customer systems that are due, each by one worker at a time. */
export async function pullConnections(app: App): Promise<void> {
  for (let next = await take(app); next; next = await take(app)) await pullOne(app, next)
}

async function take(app: App): Promise<Connection | null> {
  const now = app.now()
  return transaction(app, async ({ db }) => {
    const [next] = await db
      .select()
      .from(connection)
      .where(and(isNull(connection.endedAt), lte(connection.dueAt, now), isFree(connection, now)))
      .orderBy(connection.dueAt)
      .limit(1)
      .for('update', { skipLocked: true })
    if (!next) return null
    await db
      .update(connection)
      .set({ heldUntil: new Date(now.getTime() + HELD) })
      .where(eq(connection.id, next.id))
    return next
  })
}

async function pullOne(app: App, row: Connection): Promise<void> {
  const began = app.now()
  const counts = { made: 0, changed: 0 }
  const noted = (took: Took) => {
    if (took === 'made' || took === 'changed') counts[took]++
  }
  try {
    const drift = await driftOfDay(app, row)
    // Customers first: the others name them.
    const order = ['customer', 'contact', 'deal']
    const kinds = row.kinds
      .filter(({ into }) => into !== null)
      .sort((a, b) => order.indexOf(a.into!) - order.indexOf(b.into!))
    for (const kind of kinds) await pullKind(app, row, kind, noted)
    for (const kind of kinds) await takeWaiting(app, row, kind, noted)
    await app.db
      .update(connection)
      .set({
        pulledAt: began,
        problem: null,
        failures: 0,
        heldUntil: null,
        ...(drift ? { drift } : {}),
        ...counts,
        // Asked for again meanwhile: it is due still.
        dueAt: await nextDue(app, row, began),
      })
      .where(eq(connection.id, row.id))
  } catch (error) {
    if (!(error instanceof Failed))
      app.log.error({ err: error, connection: row.id }, 'a customer system could not be read')
    await failed(
      app,
      row,
      error instanceof Failed ? error.message : 'It met a fault of the server; the log says which.',
    )
  }
}

async function nextDue(app: App, { id, everyMinutes }: Connection, began: Date): Promise<Date | null> {
  const [now] = await app.db.select({ dueAt: connection.dueAt }).from(connection).where(eq(connection.id, id))
  if (now?.dueAt && now.dueAt > began) return now.dueAt
  return everyMinutes === null ? null : new Date(app.now().getTime() + everyMinutes * 60_000)
}

/** Tried again with growing pauses; after a few in a row whoever is responsible is written to, once for each time that it breaks. */
async function failed(app: App, { id, name, failures, ownerId }: Connection, problem: string): Promise<void> {
  await transaction(app, async (work) => {
    await work.db
      .update(connection)
      .set({
        problem: cut(problem, 1000),
        failures: failures + 1,
        heldUntil: null,
        dueAt: new Date(work.now().getTime() + pauseAfter(failures + 1)),
      })
      .where(eq(connection.id, id))
    const [to] = await work.db.select().from(person).where(eq(person.id, ownerId))
    if (failures + 1 !== TOLD_AFTER || !to || to.leftAt) return
    await enqueueEmail(work, {
      key: `connection-failed:${id}:${work.now().toISOString()}`,
      agreementId: null,
      to: to.email,
      subject: `${name} cannot be read`,
      body: {
        greeting: `${to.name},`,
        paragraphs: [
          `The records of ${name} could not be read several times in a row: ${problem}`,
          'It is tried again with growing pauses; nothing of what was read before is lost.',
        ],
        link: {
          label: 'See the connection',
          url: `${work.settings.publicUrl}/settings/programs/connections`,
        },
        attachment: null,
        foot: name,
      },
    })
  })
}

/** How its kinds differ today from those that were mapped; null: nothing tells. */
async function driftOfDay(app: App, row: Connection): Promise<Connection['drift'] | null> {
  const now = await describedKinds(app, row)
  if (!now) return null
  return row.kinds
    .filter(({ into }) => into !== null)
    .flatMap((kind) =>
      driftOf(
        kind,
        now.find(({ name }) => name === kind.name),
      ),
    )
}

async function pullKind(
  app: App,
  row: Connection,
  kind: TheirKind,
  noted: (took: Took) => void,
): Promise<void> {
  const fields = await fieldsOf(app.db, kind.into!)
  const since = row.pulledAt && new Date(row.pulledAt.getTime() - OVERLAP)
  let cursor: string | null = null
  let read = 0
  const seen = new Set<string>()
  for (let page = 1; page <= MOST_PAGES; page++) {
    const records: Awaited<ReturnType<typeof pageOf>> = await pageOf(app, row, kind, fields, {
      since,
      page,
      cursor,
    })
    read += records.records.length
    if (read > MOST_RECORDS) throw new Failed(`${kind.name}: more than ${MOST_RECORDS} records.`)
    await takeAll(app, row, kind, records.records, noted)
    const { paging } = kind
    if (paging === null || records.records.length === 0) return
    if (paging.style === 'cursor') {
      if (records.next === null) return
      // A system that gives the same place again would be read for ever.
      if (seen.has(records.next)) throw new Failed(`${kind.name}: its pages go in a circle.`)
      seen.add(records.next)
      cursor = records.next
    }
  }
  throw new Failed(`${kind.name}: more than ${MOST_PAGES} pages.`)
}

async function pageOf(
  app: App,
  row: Connection,
  kind: TheirKind,
  fields: Outline,
  place: Parameters<typeof askPage>[3],
) {
  const asked = await askPage(app, row, kind, place)
  if (!asked.ok) throw new Failed(`${kind.name}: ${asked.why}`)
  if (asked.status !== 200 || asked.json === null)
    throw new Failed(
      `${kind.name}: it answered ${asked.status}${asked.status === 200 ? ', and no JSON' : ''}.`,
    )
  const read = readPage(kind, fields, asked.json)
  if (!read.ok) throw new Failed(read.problem)
  return read
}

/** Takes a page: what was taken of it is kept, whatever becomes of the next one. */
async function takeAll(
  app: App,
  row: Connection,
  kind: TheirKind,
  records: readonly Parameters<typeof takeRecord>[3][],
  noted: (took: Took) => void,
): Promise<void> {
  await transaction(app, async (work) => {
    const { db, enqueue } = work
    let any = false
    for (const each of records) {
      const took = await takeRecord(work, row, kind, each)
      noted(took)
      any ||= took === 'made' || took === 'changed'
    }
    await db
      .update(connection)
      .set({ heldUntil: new Date(work.now().getTime() + HELD) })
      .where(eq(connection.id, row.id))
    if (any) await enqueue('follow-records', {})
  })
}

/** What waited for its customer, who may have come. */
async function takeWaiting(
  app: App,
  row: Connection,
  kind: TheirKind,
  noted: (took: Took) => void,
): Promise<void> {
  const waiting = await app.db
    .select()
    .from(connectedRecord)
    .where(
      and(
        eq(connectedRecord.connectionId, row.id),
        eq(connectedRecord.kind, kind.name),
        eq(connectedRecord.waits, true),
        isNull(connectedRecord.recordId),
      ),
    )
    .limit(1000)
  if (waiting.length === 0) return
  await takeAll(
    app,
    row,
    kind,
    waiting.map(({ theirId, theirs, owner, problems }) => ({
      id: theirId,
      data: theirs,
      owner,
      problems: [...problems],
    })),
    noted,
  )
}
