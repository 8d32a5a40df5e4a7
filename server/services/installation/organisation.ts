import { randomBytes, randomUUID, timingSafeEqual } from 'node:crypto'
import { count, eq, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { founding, settingsChange, settingsSchema } from '#contract/organisation.ts'
import { type Person, RIGHTS } from '#contract/person.ts'
import type { Organisation } from '#core/organisation/organisation.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import { foundingCode, organisation, person, series, template } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { sha256 } from '#server/files/store.ts'
import { conflict, forbidden, invalid } from '#server/ground/problem.ts'
import { noteAct } from '#server/app/installation-trail.ts'
import { hashPassword } from './people.ts'
import { inQueue } from './sign-in-limits.ts'

/** The series of templates that were given none. */
export const COMMON_SERIES = 'agreements'

/** Whose installation this is; null before the first run. */
export async function foundOrganisation(db: Db): Promise<Organisation | null> {
  const [found] = await db.select().from(organisation)
  if (!found) return null
  const { only: _only, version: _version, ...rest } = found
  return rest
}

/** Whose installation this is, where work is done that only comes after the first run. */
export async function organisationOf(db: Db): Promise<Organisation> {
  const found = await foundOrganisation(db)
  if (!found) throw new Error('The installation has not had its first run.')
  return found
}

type Settings = v.InferOutput<typeof settingsSchema>

/** What the settings’ page shows. */
export async function readSettingsPage(app: App, by: Person): Promise<Settings> {
  await requireMay(app, by, 'settings')
  const found = one(await app.db.select().from(organisation))
  const { only: _only, version, synonyms, ...rest } = found
  const all = await app.db
    .select({
      id: series.id,
      pattern: series.pattern,
      lastNumber: series.lastNumber,
      templates: count(template.id),
    })
    .from(series)
    .leftJoin(template, eq(template.seriesId, series.id))
    .groupBy(series.id)
    .orderBy(series.id)
  return { organisation: { ...rest, synonyms: synonyms.map((group) => [...group]) }, version, series: all }
}

/** Changes the organisation; what was sealed, sent or numbered before stays as it was. */
export async function changeSettings(
  app: App,
  by: Person,
  { version, organisation: next, series: patterns }: v.InferOutput<typeof settingsChange>,
): Promise<Settings> {
  await requireMay(app, by, 'settings')
  await transaction(app, async ({ db }) => {
    const changed = await db
      .update(organisation)
      .set({ ...next, version: version + 1 })
      .where(eq(organisation.version, version))
      .returning({ version: organisation.version })
    if (!changed.length)
      throw conflict('Somebody changed the settings since you opened them. Load them anew.')
    for (const { id, pattern } of patterns) await db.update(series).set({ pattern }).where(eq(series.id, id))
    const all = await db.select({ pattern: series.pattern }).from(series)
    if (new Set(all.map(({ pattern }) => pattern)).size < all.length)
      throw invalid('Two series have the same pattern: their numbers would not differ.', [
        { pointer: '/series', detail: 'Two patterns are the same.' },
      ])
  })
  return readSettingsPage(app, by)
}

/** Lock behind which foundings queue up. */
const LOCK = 727_012

/**
 * Makes a new code for the first run where it has not been yet; null where it has. Who can read the server's log may found
 * the installation, nobody else who finds its address first.
 */
export async function newFoundingCode(app: App): Promise<string | null> {
  if (await foundOrganisation(app.db)) return null
  const code = randomBytes(12).toString('base64url')
  const codeHash = sha256(code)
  await app.db
    .insert(foundingCode)
    .values({ codeHash })
    .onConflictDoUpdate({ target: foundingCode.only, set: { codeHash } })
  return code
}

async function mayFound(db: Db, code: string): Promise<void> {
  if (await foundOrganisation(db)) throw conflict('This installation has had its first run already.')
  const [kept] = await db.select().from(foundingCode)
  if (!kept || !timingSafeEqual(Buffer.from(kept.codeHash), Buffer.from(sha256(code))))
    throw forbidden('This is not the code that the server told when it started.')
}

/** The first run, once: the organisation, its series and its administrator, who may do everything. */
export async function found(
  app: App,
  { code, organisation: made, pattern, administrator }: v.InferOutput<typeof founding>,
): Promise<Person> {
  const { password, ...named } = administrator
  // Before the work that a password costs.
  await mayFound(app.db, code)
  const passwordHash = await inQueue(() => hashPassword(password))
  const id = randomUUID()
  await transaction(app, async ({ db, now }) => {
    await db.execute(sql`select pg_advisory_xact_lock(${LOCK})`)
    await mayFound(db, code)
    await db.insert(organisation).values(made)
    await db.insert(series).values({ id: COMMON_SERIES, pattern })
    await db.insert(person).values({ ...named, id, passwordHash, rights: [...RIGHTS] })
    await db.delete(foundingCode)
    await noteAct(db, {
      at: now().toISOString(),
      actor: named.name,
      act: 'Founded the installation',
      detail: { organisation: made.name },
    })
  })
  return { ...named, id, rights: [...RIGHTS] }
}
