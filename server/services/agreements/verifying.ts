import { and, asc, count, desc, eq, gt, inArray, sql } from 'drizzle-orm'
import { blanksHash, differences, type Recorded, shapedHash } from '#core/trail/against.ts'
import { mayHash } from '#core/trail/acts.ts'
import { hashOf, type TrailEntry } from '#core/trail/trail.ts'
import type { Person } from '#contract/person.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, blankValue, installationTrail, party, revision, trailAnchor } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { notFound } from '#server/ground/problem.ts'
import { noteAct, verifyInstallation } from '#server/app/installation-trail.ts'
import { presentSteps } from './routes.ts'
import { readTrail } from './trail.ts'

/**
 * Holds an agreement's record, what was filled in, its files and its trail against each other, and against what the days'
 * ends have kept. What differs is told in words; nothing where all is as it was.
 */
export async function verifyAgreement(
  app: App,
  id: string,
): Promise<{ readonly entries: readonly TrailEntry[]; readonly problems: readonly string[] }> {
  const [row] = await app.db.select().from(agreement).where(eq(agreement.id, id))
  if (!row) throw notFound('agreement')
  const { entries, chain } = await readTrail(app.db, id)
  const recorded = await recordOf(app.db, row)
  return {
    entries,
    problems: [
      ...(chain.ok ? [] : [`Entry ${chain.seq}: ${chain.problem}`]),
      ...differences(entries, recorded),
      ...(await missedByDays(app.db, id, entries)),
      ...(await brokenFiles(app, recorded)),
    ],
  }
}

async function recordOf(db: Db, row: typeof agreement.$inferSelect): Promise<Recorded> {
  const [document] = await db
    .select({ sha256: revision.fileSha256, blanks: revision.blanks })
    .from(revision)
    .where(and(eq(revision.agreementId, row.id), eq(revision.number, row.revision)))
  const parties = await db
    .select()
    .from(party)
    .where(and(eq(party.agreementId, row.id), eq(party.revision, row.revision)))
    .orderBy(asc(party.order))
  const steps = await presentSteps(db, row)
  const values = parties.length
    ? await db
        .select()
        .from(blankValue)
        .where(
          inArray(
            blankValue.partyId,
            parties.map((each) => each.id),
          ),
        )
    : []
  return {
    length: row.trailLength,
    head: row.trailHead,
    revision: row.revision,
    data: row.data,
    document: document?.sha256 ?? '',
    executed: row.executedSha256,
    state: row.state,
    number: row.number,
    signBy: row.signBy?.toISOString() ?? null,
    goesAt: row.goesAt?.toISOString() ?? null,
    blanks: blanksHash(document?.blanks ?? []),
    shaped: shapedHash(row.shapedBy),
    steps: steps.map((each) => ({
      approver: each.approver,
      state: each.state,
      kept: each.keptFrom !== null,
      may: mayHash(each),
    })),
    parties: parties.map(({ id, role, label, name, email, title, signedAt, declinedAt, ...settings }) => ({
      declined: declinedAt !== null,
      settings,
      role,
      label,
      name,
      email,
      title,
      signed: signedAt !== null,
      values: values
        .filter(({ partyId }) => partyId === id)
        .map(({ blankId, value }) => ({ blankId, value })),
    })),
  }
}

/** Entries that a day's end has kept and that the trail has no more. */
async function missedByDays(db: Db, id: string, entries: readonly TrailEntry[]): Promise<readonly string[]> {
  const anchors = await db
    .select()
    .from(trailAnchor)
    .where(eq(trailAnchor.agreementId, id))
    .orderBy(asc(trailAnchor.day))
  const missed = anchors.find(({ length, head }) => entries[length - 1]?.hash !== head)
  return missed
    ? [`At the end of ${missed.day} the trail had ${missed.length} entries that it has no more.`]
    : []
}

/** Files whose bytes are not those their names say. */
async function brokenFiles(app: App, { document, executed, parties }: Recorded): Promise<readonly string[]> {
  const handed = parties.flatMap(({ label, values }) =>
    values.flatMap(({ value }) => {
      const file = value as { kind: string; sha256?: string }
      return (file.kind === 'file' || file.kind === 'picture') && file.sha256
        ? [[`A file that ${label} handed in`, file.sha256] as const]
        : []
    }),
  )
  const files = [
    ['The document', document] as const,
    ...(executed ? [['The executed file', executed] as const] : []),
    ...handed,
  ]
  const problems: string[] = []
  for (const [what, sha256] of files)
    if (!sha256 || !(await app.files.isWhole(sha256)))
      problems.push(`${what} is not there, or its bytes are others.`)
  return problems
}

const PAGE = 200

/** Job, nightly: keeps where the trails that grew stand, and holds everything against everything. */
export async function closeDay(app: App): Promise<void> {
  await keepEnds(app)
  let [last, looked] = ['00000000-0000-0000-0000-000000000000', 0]
  const broken: { number: string; problem: string }[] = []
  for (;;) {
    const page = await app.db
      .select({ id: agreement.id, number: agreement.number })
      .from(agreement)
      .where(gt(agreement.id, last))
      .orderBy(asc(agreement.id))
      .limit(PAGE)
    if (page.length === 0) break
    for (const { id, number } of page) {
      const { problems } = await verifyAgreement(app, id)
      if (problems[0]) broken.push({ number, problem: problems[0] })
    }
    looked += page.length
    last = page.at(-1)!.id
  }
  const own = await verifyInstallation(app.db)
  for (const each of broken) app.log.error(each, 'an agreement is not what its trail says')
  if (own) app.log.error({ problem: own }, 'the installation’s trail does not hold')
  await transaction(app, (work) =>
    noteAct(work.db, {
      at: work.now().toISOString(),
      actor: 'Brevan',
      act: broken.length || own ? 'verification found differences' : 'verified',
      detail: {
        agreements: looked,
        differing: broken.length,
        first: broken[0] ? `${broken[0].number}: ${broken[0].problem}` : null,
        installation: own,
      },
    }),
  )
}

/** Keeps how far each trail goes that has grown since, and chains a hash over them. Twice a day is once. */
async function keepEnds(app: App): Promise<void> {
  const day = app.now().toISOString().slice(0, 10)
  await transaction(app, async ({ db, now }) => {
    const { rows } = await db.execute<{ agreement_id: string; length: number; head: string }>(sql`
      insert into ${trailAnchor} (day, agreement_id, length, head)
      select ${day}, id, trail_length, trail_head from ${agreement}
      where trail_length > coalesce(
        (select max(length) from ${trailAnchor} as before where before.agreement_id = ${agreement}.id), 0)
      on conflict do nothing
      returning agreement_id, length, head`)
    if (rows.length === 0) return
    await noteAct(db, {
      at: now().toISOString(),
      actor: 'Brevan',
      act: 'day closed',
      detail: { day, agreements: rows.length, ends: endsHash(rows) },
    })
  })
}

const endsHash = (rows: readonly { agreement_id: string; length: number; head: string }[]): string =>
  hashOf(
    [...rows]
      .sort((a, b) => (a.agreement_id < b.agreement_id ? -1 : 1))
      .map((row) => [row.agreement_id, row.length, row.head]),
  )

/** Days whose kept ends are not those that the installation's trail has a hash of. */
export async function brokenDays(db: Db): Promise<readonly string[]> {
  const closed = await db.select().from(installationTrail).where(eq(installationTrail.act, 'day closed'))
  const broken: string[] = []
  for (const day of new Set(closed.map(({ detail }) => String(detail['day'])))) {
    const rows = await db.select().from(trailAnchor).where(eq(trailAnchor.day, day))
    const told = closed.filter(({ detail }) => detail['day'] === day)
    const kept = rows.map((row) => ({ agreement_id: row.agreementId, length: row.length, head: row.head }))
    const all = told.reduce((sum, { detail }) => sum + Number(detail['agreements']), 0)
    if (rows.length !== all || (told.length === 1 && told[0]!.detail['ends'] !== endsHash(kept)))
      broken.push(day)
  }
  return broken
}

/** The newest acts on the installation, and whether its own chain and its days hold. */
export async function readInstallation(
  app: App,
  by: Person,
  query: { readonly offset: number; readonly limit: number },
) {
  await requireMay(app, by, 'rules')
  const [total] = await app.db.select({ entries: count() }).from(installationTrail)
  const entries = await app.db
    .select()
    .from(installationTrail)
    .orderBy(desc(installationTrail.seq))
    .offset(query.offset)
    .limit(query.limit)
  const problem =
    (await verifyInstallation(app.db)) ??
    (await brokenDays(app.db)).map((day) => `The ends kept of ${day} were changed.`)[0] ??
    null
  return { total: total?.entries ?? 0, entries, verified: problem === null, problem }
}
