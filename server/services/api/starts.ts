import { randomUUID } from 'node:crypto'
import { and, asc, eq, inArray, lt, ne } from 'drizzle-orm'
import type * as v from 'valibot'
import type { startRowSchema, startSchema, startsWish, startWish } from '#contract/program.ts'
import type { PointedProblem } from '#core/mapping/nested.ts'
import type { RecordData } from '#core/outline/field.ts'
import { type Actor, requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { START } from '#core/states/all.ts'
import { moving } from '#server/db/moving.ts'
import { apiKey, record, start } from '#server/db/schema.ts'
import { sha256 } from '#server/files/store.ts'
import { conflict, invalidAt, notFound, Refusal } from '#server/ground/problem.ts'
import { givenChecker, givenRules } from '#server/services/making/check-given.ts'
import { makeClaimed, type Single } from '#server/services/making/make-claimed.ts'
import { takeFirst } from '#server/db/held.ts'
import { one } from '#server/db/one.ts'
import { takeTurns } from '#server/services/making/take-turns.ts'
import { bundleOfRun } from '#server/services/templates/editions.ts'
import { actingBy, type Caller } from './keys.ts'

// Agreements that programs start: checked and taken while they wait for the answer, made right after.

type Start = typeof start.$inferSelect

const told = ({ id, state, agreementId, problems }: Start): v.InferOutput<typeof startSchema> => ({
  id,
  state,
  at: addressOf(id),
  agreement: agreementId,
  problems: problems.map((each) => ({ ...each })),
})

const addressOf = (id: string): string => `/api/v1/starts/${id}`

/** A reference stands for one call and no other. */
export const usedBefore = () =>
  new Refusal(
    422,
    'Used before',
    'This idempotency key stood with another call. Use a new one for each call that is another.',
  )

/** What a reference was used for before; refused where that was something else. */
async function startedAs(
  app: App,
  keyId: string,
  references: readonly string[],
  asked: (reference: string) => string,
) {
  const found = await app.db
    .select()
    .from(start)
    .where(and(eq(start.keyId, keyId), inArray(start.reference, [...references])))
  for (const each of found) if (each.asked !== asked(each.reference)) throw usedBefore()
  return new Map(found.map((each) => [each.reference, each]))
}

/** Takes what was checked; what somebody took at the same moment under the same reference is what they took. */
async function take(
  app: App,
  { key }: Caller,
  made: { readonly editionId: string; readonly packetEditions: readonly string[] },
  rows: readonly {
    readonly reference: string
    readonly asked: string
    readonly data: RecordData
    readonly recordId: string | null
  }[],
): Promise<void> {
  if (rows.length === 0) return
  await transaction(app, async ({ db, enqueue, now }) => {
    await db
      .insert(start)
      .values(
        rows.map((row) => ({
          ...row,
          id: randomUUID(),
          keyId: key.id,
          editionId: made.editionId,
          packetEditions: [...made.packetEditions],
          state: 'taken' as const,
          at: now(),
        })),
      )
      .onConflictDoNothing({ target: [start.keyId, start.reference] })
    await enqueue('make-starts', {})
  })
}

/** Starts one agreement; `reference`: the call's idempotency key, the same one again is the same start. */
export async function startOne(
  app: App,
  caller: Caller,
  wish: v.InferOutput<typeof startWish>,
  reference: string,
): Promise<v.InferOutput<typeof startSchema>> {
  await requireMay(app, caller.person, 'runs')
  const asked = sha256(JSON.stringify(wish))
  const known = async () => (await startedAs(app, caller.key.id, [reference], () => asked)).get(reference)
  const before = await known()
  if (before) return told(before)
  const { made, check } = await givenChecker(
    app,
    caller.person,
    { templateId: wish.template, packetId: wish.packet },
    'program',
  )
  const lost = await lostRecords(app, wish.record ? [wish.record] : [])
  if (lost.size) throw invalidAt([{ pointer: '/record', message: NO_RECORD }])
  const checked = one(await check([{ values: wish.data, at: '/data' }]))
  if (checked.problems.length) throw invalidAt(checked.problems)
  await take(app, caller, made, [{ reference, asked, data: checked.data, recordId: wish.record ?? null }])
  return told((await known())!)
}

/** Starts several; what is wrong with one keeps no other. */
export async function startMany(
  app: App,
  caller: Caller,
  wish: v.InferOutput<typeof startsWish>,
  reference: string,
): Promise<v.InferOutput<typeof startRowSchema>[]> {
  await requireMay(app, caller.person, 'runs')
  const { rows, ...what } = wish
  const referenceOf = (row: number) => `${reference} ${row}`
  const references = rows.map((_, i) => referenceOf(i))
  const asked = new Map(
    rows.map((row, i) => [referenceOf(i), sha256(JSON.stringify([what, row, rows.length]))]),
  )
  const known = () => startedAs(app, caller.key.id, references, (each) => asked.get(each)!)
  const before = await known()
  const lost = await lostRecords(
    app,
    rows.flatMap(({ record: about }) => about ?? []),
  )
  const left = rows.flatMap(({ data, record: about }, i) =>
    before.has(referenceOf(i)) ? [] : [{ values: data, at: `/rows/${i}/data`, i, about: about ?? null }],
  )
  const { made, check } = await givenChecker(
    app,
    caller.person,
    { templateId: what.template, packetId: what.packet },
    'program',
  )
  const problems = new Map<number, readonly PointedProblem[]>()
  for (let from = 0; from < left.length; from += CHECKED_AT_ONCE) {
    const some = left.slice(from, from + CHECKED_AT_ONCE)
    const checked = await check(some)
    const found = checked.map(({ data, problems: own }, i) => {
      const { about, i: row } = some[i]!
      const nowhere = about !== null && lost.has(about)
      return {
        data,
        row,
        about,
        problems: nowhere ? [...own, { pointer: `/rows/${row}/record`, message: NO_RECORD }] : own,
      }
    })
    for (const each of found) if (each.problems.length) problems.set(each.row, each.problems)
    await take(
      app,
      caller,
      made,
      found.flatMap(({ data, row, about, problems: own }) => {
        const at = referenceOf(row)
        return own.length ? [] : [{ reference: at, asked: asked.get(at)!, data, recordId: about }]
      }),
    )
  }
  const taken = await known()
  return rows.map((_, i) => {
    const found = taken.get(referenceOf(i))
    if (!found)
      return { row: i, state: 'refused', start: null, at: null, problems: [...(problems.get(i) ?? [])] }
    return {
      row: i,
      state: found.state,
      start: found.id,
      at: addressOf(found.id),
      problems: [...found.problems],
    }
  })
}

const CHECKED_AT_ONCE = 50

const NO_RECORD = 'There is no such customer, contact or deal.'

/** Of records that agreements are to be about, those that are not there, or are none that has agreements. */
async function lostRecords(app: App, ids: readonly string[]): Promise<ReadonlySet<string>> {
  if (ids.length === 0) return new Set()
  const found = await app.db
    .select({ id: record.id })
    .from(record)
    .where(and(inArray(record.id, [...new Set(ids)]), ne(record.kind, 'price')))
  const known = new Set(found.map(({ id }) => id))
  return new Set(ids.filter((each) => !known.has(each)))
}

/** What has become of a start; another key's is not found. */
export async function readStart(app: App, { key }: Caller, id: string) {
  const [found] = await app.db
    .select()
    .from(start)
    .where(and(eq(start.id, id), eq(start.keyId, key.id)))
  if (!found) throw notFound('start')
  return told(found)
}

/** Times that the making of one is tried before it counts as refused. */
const TRIES = 5

/** Milliseconds that one is a worker's own. */
const HELD = 60_000

/** Job: makes what was taken, the longest waiting first, until nothing is left that nobody else makes. */
export const makeStarts = (app: App): Promise<void> =>
  takeTurns<Start>({
    take: () => takeFirst(app, start, eq(start.state, 'taken'), [asc(start.at)], HELD),
    make: (taken) => make(app, taken),
    failed: (taken, error) => notMade(app, taken, error),
  })

/** Makes one: kept in the transaction that also ends the start, so that there is never a second one. */
async function make(
  app: App,
  { id, keyId, reference, editionId, packetEditions, data, recordId }: Start,
): Promise<void> {
  const { db } = app
  const key = one(await db.select().from(apiKey).where(eq(apiKey.id, keyId)))
  const by = await actingBy(db, key)
  if (!by) throw conflict('Nobody is here any more in whose name the key acts.')
  const author: Actor = { ...by, via: { kind: 'key', name: key.name, scopes: key.scopes } }
  await requireMay(app, author, 'runs')
  const bundle = await bundleOfRun(app, { editionId, packetEditions })
  const single: Single = {
    bundle,
    made: { editionId, packetEditions },
    series: bundle.editions[0]!.seriesId,
    origin: { kind: 'call', key: keyId, reference },
    occasion: `call ${id}`,
    from: { data, language: null, copies: [], extra: [] },
    rules: await givenRules(db, bundle.editions, author, 'program'),
    by: author,
    told: { origin: 'call', named: key.name },
    recordId,
  }
  await makeClaimed(app, [single], async (work, keep) => {
    const [now] = await work.db
      .select({ state: start.state })
      .from(start)
      .where(eq(start.id, id))
      .for('update')
    if (now?.state !== 'taken') return
    const agreementId = one(await keep())
    const { to, where } = moving(start.state, START, 'make')
    await work.db
      .update(start)
      .set({ state: to, agreementId: agreementId, endedAt: work.now(), heldUntil: null })
      .where(and(eq(start.id, id), where))
  })
}

/** What cannot be made as it is asked is refused with the reason; what failed otherwise is tried again, a few times. */
async function notMade(app: App, { id, tries }: Start, error: unknown): Promise<void> {
  const because = error instanceof Refusal ? error.message : null
  if (because === null) app.log.error({ err: error, start: id }, 'a start could not be made')
  const message = because ?? 'It could not be made here, after several tries; the log of the server says why.'
  const refused = because !== null || tries + 1 >= TRIES
  const { to, where } = moving(start.state, START, 'refuse')
  await app.db
    .update(start)
    .set({
      tries: tries + 1,
      heldUntil: null,
      ...(refused ? { state: to, problems: [{ pointer: '', message }], endedAt: app.now() } : {}),
    })
    // Another worker may have had its try since: that one's counts.
    .where(and(eq(start.id, id), where, eq(start.tries, tries)))
}

/** Milliseconds that what a program started can be asked about, and its reference stands for that one call. */
const REMEMBERED = 400 * 86_400_000

/** Forgets what was started long ago; what was made of it stays. */
export async function forgetStarts(app: App): Promise<void> {
  await app.db
    .delete(start)
    .where(and(ne(start.state, 'taken'), lt(start.endedAt, new Date(app.now().getTime() - REMEMBERED))))
}
