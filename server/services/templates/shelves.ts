import { randomUUID } from 'node:crypto'
import { asc, count, eq, inArray } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { shelfChange, shelfSchema, teamSchema } from '#contract/studio.ts'
import { type Actor, requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { person, shelf, shelfRight, team, teamMember, template } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { conflict, forbidden, notFound } from '#server/ground/problem.ts'

export interface May {
  readonly use: boolean
  readonly edit: boolean
  readonly publish: boolean
}

/**
 * What a person may do with the templates of each shelf: their own rights, narrowed by the shelf's where it has any.
 * The key null stands for templates on no shelf.
 */
export async function shelfRights(db: Db, by: Person): Promise<ReadonlyMap<string | null, May>> {
  const own: May = {
    use: by.rights.includes('runs'),
    edit: by.rights.includes('templates'),
    publish: by.rights.includes('templates'),
  }
  const shelves = await db.select({ id: shelf.id }).from(shelf)
  const rights = await db.select().from(shelfRight)
  const teams = await teamsOf(db, by)
  const may = ({ id }: { id: string }): May => {
    const granted = rights.filter(({ shelfId }) => shelfId === id)
    if (granted.length === 0) return own
    const mine = granted.filter(({ teamId }) => teams.has(teamId))
    const any = (right: keyof May) => own[right] && mine.some((each) => each[right])
    return { use: any('use'), edit: any('edit'), publish: any('publish') }
  }
  return new Map<string | null, May>([[null, own], ...shelves.map((each) => [each.id, may(each)] as const)])
}

/** Of somebody who acts for one of their teams alone, that team: their other teams' shelves are shut to them then. */
async function teamsOf(db: Db, by: Actor): Promise<ReadonlySet<string>> {
  const rows = await db.select().from(teamMember).where(eq(teamMember.personId, by.id))
  return new Set(rows.map(({ teamId }) => teamId).filter((id) => !by.inTeam || id === by.inTeam))
}

const NOTHING: May = { use: false, edit: false, publish: false }

/** What a person may do with one template. */
export async function mayWith(db: Db, by: Person, templateId: string): Promise<May> {
  const [found] = await db
    .select({ shelfId: template.shelfId })
    .from(template)
    .where(eq(template.id, templateId))
  if (!found) throw notFound('template')
  return (await shelfRights(db, by)).get(found.shelfId) ?? NOTHING
}

const refusals = {
  use: 'Your teams may not use the templates of this shelf.',
  edit: 'Your teams may not edit the templates of this shelf.',
  publish: 'Your teams may not publish the templates of this shelf.',
} as const

/** Refuses whoever may not do this with a template. */
export async function requireRight(db: Db, by: Person, templateId: string, right: keyof May): Promise<void> {
  if (!(await mayWith(db, by, templateId))[right]) throw forbidden(refusals[right])
}

/**
 * Refuses an act on what was made from templates to whoever's teams may not use them. What a person may do by themselves
 * was asked before; here it is only whether the shelf lets their teams.
 */
export async function requireShelf(db: Db, by: Person, templateIds: readonly string[]): Promise<void> {
  if (templateIds.length === 0) return
  const guarded = await db
    .select({ shelfId: shelfRight.shelfId, teamId: shelfRight.teamId, use: shelfRight.use })
    .from(shelfRight)
    .innerJoin(template, eq(template.shelfId, shelfRight.shelfId))
    .where(inArray(template.id, [...templateIds]))
  const teams = await teamsOf(db, by)
  for (const shelfId of new Set(guarded.map((each) => each.shelfId)))
    if (!guarded.some((each) => each.shelfId === shelfId && each.use && teams.has(each.teamId)))
      throw forbidden(refusals.use)
}

/** Shelves whose templates a person may do anything with. */
export async function listShelves(app: App, by: Person): Promise<v.InferOutput<typeof shelfSchema>[]> {
  const may = await shelfRights(app.db, by)
  const rights = await app.db.select().from(shelfRight)
  const counts = new Map(
    (
      await app.db
        .select({ shelfId: template.shelfId, templates: count() })
        .from(template)
        .groupBy(template.shelfId)
    ).map(({ shelfId, templates }) => [shelfId, templates]),
  )
  return (await app.db.select().from(shelf).orderBy(asc(shelf.name)))
    .filter(({ id }) => {
      const mine = may.get(id) ?? NOTHING
      return mine.use || mine.edit || mine.publish
    })
    .map(({ id, name }) => ({
      id,
      name,
      templates: counts.get(id) ?? 0,
      rights: rights
        .filter(({ shelfId }) => shelfId === id)
        .map(({ teamId, use, edit, publish }) => ({ team: teamId, use, edit, publish })),
    }))
}

type Change = v.InferOutput<typeof shelfChange>

async function putRights(db: Db, id: string, rights: Change['rights']): Promise<void> {
  await db.delete(shelfRight).where(eq(shelfRight.shelfId, id))
  const known = rights.length
    ? await db
        .select({ id: team.id })
        .from(team)
        .where(
          inArray(
            team.id,
            rights.map(({ team: teamId }) => teamId),
          ),
        )
    : []
  if (known.length !== new Set(rights.map(({ team: teamId }) => teamId)).size) throw notFound('team')
  if (rights.length)
    await db
      .insert(shelfRight)
      .values(rights.map(({ team: teamId, ...may }) => ({ shelfId: id, teamId, ...may })))
}

async function refuseTakenName(db: Db, name: string, id: string | null): Promise<void> {
  const [taken] = await db.select().from(shelf).where(eq(shelf.name, name))
  if (taken && taken.id !== id) throw conflict(`There is a shelf called “${name}” already.`)
}

export async function makeShelf(app: App, by: Person, change: Change): Promise<{ id: string }> {
  await requireMay(app, by, 'templates')
  return transaction(app, async ({ db }) => {
    await refuseTakenName(db, change.name, null)
    const id = randomUUID()
    await db.insert(shelf).values({ id, name: change.name })
    await putRights(db, id, change.rights)
    return { id }
  })
}

/** Changes a shelf; who may not publish there may not change who may either, and nobody locks themselves out. */
export async function saveShelf(app: App, by: Person, id: string, change: Change): Promise<void> {
  await requireMay(app, by, 'templates')
  await transaction(app, async ({ db }) => {
    const [there] = await db.select().from(shelf).where(eq(shelf.id, id)).for('update')
    if (!there) throw notFound('shelf')
    if (!(await shelfRights(db, by)).get(id)?.publish) throw forbidden(refusals.publish)
    await refuseTakenName(db, change.name, id)
    await db.update(shelf).set({ name: change.name }).where(eq(shelf.id, id))
    await putRights(db, id, change.rights)
    if (!(await shelfRights(db, by)).get(id)?.publish)
      throw conflict(
        'With these rights you could not change the shelf any more. Give one of your teams the right to publish.',
      )
  })
}

export async function listTeams(app: App): Promise<v.InferOutput<typeof teamSchema>[]> {
  const members = await app.db
    .select({ teamId: teamMember.teamId, name: person.name })
    .from(teamMember)
    .innerJoin(person, eq(person.id, teamMember.personId))
    .orderBy(asc(person.name))
  return (await app.db.select().from(team).orderBy(asc(team.name))).map(({ id, name }) => ({
    id,
    name,
    members: members.filter(({ teamId }) => teamId === id).map((each) => each.name),
  }))
}
