import { asc, desc, eq, sql } from 'drizzle-orm'
import { appendEntry, type TrailAct, verifyTrail } from '#core/trail/trail.ts'
import { type Act, MACHINE, MOMENT_OF } from '#core/trail/acts.ts'
import type { Work } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, trail, webhook, webhookDelivery } from '#server/db/schema.ts'
import { notify } from './notices.ts'

/** An act with who did it and when; nobody: the machine. */
export const acted = (by: string | null, at: Date, act: Act): TrailAct => ({
  at: at.toISOString(),
  actor: by ?? MACHINE,
  act: act.act,
  detail: { ...act.detail },
})

/**
 * What happened to an agreement, in the caller's transaction: into its trail, and to whoever is to hear of it. Writers of one
 * agreement queue up behind each other. `by`: whose acts they are; null: the machine's.
 */
export async function happened(
  work: Work,
  agreementId: string,
  by: string | null,
  ...acts: readonly Act[]
): Promise<void> {
  const at = work.now()
  await addEntries(
    work.db,
    agreementId,
    acts.map((act) => acted(by, at, act)),
  )
  for (const act of acts) {
    await notify(work, agreementId, act)
    const moment = MOMENT_OF[act.act]
    if (moment) await work.enqueue('plan-aftermath', { agreementId, moment, at: at.toISOString() })
  }
}

async function addEntries(db: Db, agreementId: string, acts: readonly TrailAct[]): Promise<void> {
  await db.execute(sql`select pg_advisory_xact_lock(hashtextextended(${agreementId}, 0))`)
  const [last] = await db
    .select({ seq: trail.seq, hash: trail.hash })
    .from(trail)
    .where(eq(trail.agreementId, agreementId))
    .orderBy(desc(trail.seq))
    .limit(1)
  const entries = entriesOf(agreementId, last ?? null, acts)
  await db.insert(trail).values(entries)
  await owe(db, entries)
  await anchor(db, [entries.at(-1)!])
}

/** What programs are to be told of it: written with it, so that neither is without the other. */
async function owe(db: Db, entries: readonly (typeof trail.$inferInsert)[]): Promise<void> {
  const told = JSON.stringify(entries.map(({ agreementId: id, seq, act }) => ({ id, seq, act })))
  await db.execute(sql`
    insert into ${webhookDelivery} (webhook_id, agreement_id, seq, state, at, due_at)
    select hook.id, entry.id, entry.seq, 'waiting', now(), now()
    from ${webhook} as hook, jsonb_to_recordset(${told}::jsonb) as entry (id uuid, seq integer, act text)
    where hook.ended_at is null and (cardinality(hook.acts) = 0 or entry.act = any(hook.acts))
    order by entry.id, entry.seq`)
}

/** How far their trails go, kept with the agreements. */
async function anchor(db: Db, last: readonly (typeof trail.$inferInsert)[]): Promise<void> {
  const ends = JSON.stringify(last.map(({ agreementId: id, seq, hash }) => ({ id, seq, hash })))
  await db.execute(sql`
    update ${agreement} set trail_length = ends.seq, trail_head = ends.hash
    from jsonb_to_recordset(${ends}::jsonb) as ends (id uuid, seq integer, hash text)
    where ${agreement}.id = ends.id`)
}

/** The first acts of agreements that the caller's transaction has made: nobody else can write to these yet. */
export async function recordFirst(
  db: Db,
  begun: readonly { readonly agreementId: string; readonly acts: readonly TrailAct[] }[],
): Promise<void> {
  const entries = begun.map(({ agreementId, acts }) => entriesOf(agreementId, null, acts))
  await db.insert(trail).values(entries.flat())
  await owe(db, entries.flat())
  await anchor(
    db,
    entries.map((each) => each.at(-1)!),
  )
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

/** An agreement's trail, and whether it and the agreement's record still say what they said. */
export async function readTrail(db: Db, agreementId: string) {
  const rows = await db.select().from(trail).where(eq(trail.agreementId, agreementId)).orderBy(asc(trail.seq))
  const entries = rows.map(({ agreementId: of, ...entry }) => ({ agreement: of, ...entry }))
  return { entries, chain: verifyTrail(entries) }
}
