import { randomBytes, randomUUID } from 'node:crypto'
import { and, asc, desc, eq, isNull, lt, or } from 'drizzle-orm'
import { alias } from 'drizzle-orm/pg-core'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { keySchema, keyWish } from '#contract/program.ts'
import type { Scope } from '#contract/scope.ts'
import { type Actor, requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { apiKey, person, team, teamMember } from '#server/db/schema.ts'
import { sha256 } from '#server/files/store.ts'
import { invalid, notFound, Refusal } from '#server/ground/problem.ts'
import { toPerson } from '#server/services/installation/people.ts'

// Keys that programs call with: `handle.secret`, the handle to find it by. A secret is 256 random bits, so a plain hash keeps it.

const HANDLE = /^[\w-]{12}$/
const HOUR = 3_600_000

const newSecret = (): string => randomBytes(32).toString('base64url')

/** Everybody who gives keys out sees all of them; none shows its secret. */
export async function listKeys(app: App, by: Person): Promise<v.InferOutput<typeof keySchema>[]> {
  await requireMay(app, by, 'settings')
  const maker = alias(person, 'maker')
  const rows = await app.db
    .select({ key: apiKey, person: person.name, maker: maker.name, team: team.name })
    .from(apiKey)
    .innerJoin(person, eq(person.id, apiKey.personId))
    .innerJoin(maker, eq(maker.id, apiKey.createdBy))
    .leftJoin(team, eq(team.id, apiKey.teamId))
    .orderBy(desc(apiKey.createdAt))
  const iso = (at: Date | null) => at?.toISOString() ?? null
  return rows.map(({ key, person: whose, maker: by, team: of }) => ({
    id: key.id,
    name: key.name,
    person: whose,
    team: of,
    scopes: key.scopes,
    begins: key.handle,
    createdAt: key.createdAt.toISOString(),
    createdBy: by,
    expiresAt: iso(key.expiresAt),
    lastUsedAt: iso(key.lastUsedAt),
    revokedAt: iso(key.revokedAt),
    formerUntil: iso(key.formerUntil),
  }))
}

/** A new key; its secret is answered here and kept as a hash only. Nobody gives a key rights that they have not themselves. */
export async function makeKey(app: App, by: Person, wish: v.InferOutput<typeof keyWish>) {
  await requireMay(app, by, 'settings')
  const [whose] = await app.db
    .select()
    .from(person)
    .where(and(eq(person.id, wish.person ?? by.id), isNull(person.leftAt)))
  if (!whose) throw notFound('person')
  mustCover(by, whose)
  if (wish.team && !(await isMember(app.db, whose.id, wish.team)))
    throw invalid(`${whose.name} is not in that team.`, [{ pointer: '/team', detail: 'is not theirs' }])
  const now = app.now()
  const [handle, secret, id] = [randomBytes(9).toString('base64url'), newSecret(), randomUUID()]
  await app.db.insert(apiKey).values({
    id,
    name: wish.name,
    personId: whose.id,
    teamId: wish.team ?? null,
    scopes: [...new Set(wish.scopes)],
    handle,
    secretHash: sha256(secret),
    createdAt: now,
    createdBy: by.id,
    expiresAt: wish.days === null ? null : new Date(now.getTime() + wish.days * 24 * HOUR),
  })
  return { id, secret: `${handle}.${secret}` }
}

/** Nobody gets a secret that opens more than they may themselves, neither a first one nor another. */
function mustCover(by: Person, whose: Pick<Person, 'name' | 'rights'>): void {
  const more = whose.rights.find((right) => !by.rights.includes(right))
  if (more)
    throw invalid(
      `${whose.name} has the right “${more}”, which you have not: they see to their keys themselves.`,
      [{ pointer: '/person', detail: 'has rights that you have not' }],
    )
}

const isMember = async (db: Db, personId: string, teamId: string): Promise<boolean> =>
  (
    await db
      .select({ id: teamMember.personId })
      .from(teamMember)
      .where(and(eq(teamMember.personId, personId), eq(teamMember.teamId, teamId)))
  ).length > 0

/**
 * Who acts by a key: its person, of a team's key within that team alone. Once they have left, or left the team, a team's key is
 * used in the name of another of its members, the first by name; null: there is nobody.
 */
export async function actingBy(
  db: Db,
  { personId, teamId }: Pick<typeof apiKey.$inferSelect, 'personId' | 'teamId'>,
): Promise<Actor | null> {
  if (teamId === null) {
    const [whose] = await db.select().from(person).where(eq(person.id, personId))
    return whose && !whose.leftAt ? toPerson(whose) : null
  }
  const members = await db
    .select({ person })
    .from(teamMember)
    .innerJoin(person, eq(person.id, teamMember.personId))
    .where(and(eq(teamMember.teamId, teamId), isNull(person.leftAt)))
    .orderBy(asc(person.name), asc(person.id))
  const found = members.find((each) => each.person.id === personId) ?? members[0]
  return found ? { ...toPerson(found.person), inTeam: teamId } : null
}

/** Another secret for a key. The one before counts for so many hours more, for programs that are still to be told. */
export async function rotateKey(app: App, by: Person, id: string, hours: number) {
  await requireMay(app, by, 'settings')
  const [key] = await app.db.select().from(apiKey).where(eq(apiKey.id, id))
  const whose = key && (await actingBy(app.db, key))
  if (!whose) throw notFound('key')
  mustCover(by, whose)
  const secret = newSecret()
  const [rotated] = await app.db
    .update(apiKey)
    .set({
      formerHash: apiKey.secretHash,
      formerUntil: new Date(app.now().getTime() + hours * HOUR),
      secretHash: sha256(secret),
    })
    .where(and(eq(apiKey.id, id), isNull(apiKey.revokedAt)))
    .returning({ handle: apiKey.handle })
  if (!rotated) throw notFound('key')
  return { id, secret: `${rotated.handle}.${secret}` }
}

/** From here on it is refused; what it started goes on. Taken back twice it stays as it was. */
export async function revokeKey(app: App, by: Person, id: string): Promise<void> {
  await requireMay(app, by, 'settings')
  const known = await app.db.select({ id: apiKey.id }).from(apiKey).where(eq(apiKey.id, id))
  if (known.length === 0) throw notFound('key')
  await app.db
    .update(apiKey)
    .set({ revokedAt: app.now() })
    .where(and(eq(apiKey.id, id), isNull(apiKey.revokedAt)))
}

/** A program that calls: by which key, and for whom. */
export interface Caller {
  readonly key: { readonly id: string; readonly name: string; readonly scopes: readonly Scope[] }
  readonly person: Actor
}

const refused = () =>
  new Refusal(401, 'No such key', 'The key is not known here, has ended, or was taken back.')

/**
 * Whose key a call brings (RFC 6750, 2.1), for a scope. A key that has ended, was taken back, or whose person does not work
 * here any more is refused in the same words as one that never was.
 */
export async function callerOf(app: App, authorization: string | undefined, scope: Scope): Promise<Caller> {
  const [, handle = '', secret = ''] = /^Bearer ([\w-]{12})\.([\w-]{43})$/i.exec(authorization ?? '') ?? []
  if (!HANDLE.test(handle))
    throw new Refusal(
      401,
      'No key',
      'Give the key as “Authorization: Bearer …”. It is made in the settings, under Programs.',
    )
  const now = app.now()
  const [key] = await app.db.select().from(apiKey).where(eq(apiKey.handle, handle))
  if (!key) throw refused()
  const said = sha256(secret)
  // What is compared is a hash of what was sent: how long it takes tells nothing of the secret.
  const fits =
    said === key.secretHash || (said === key.formerHash && key.formerUntil !== null && now < key.formerUntil)
  const whose = await actingBy(app.db, key)
  if (!fits || key.revokedAt || !whose || (key.expiresAt && now >= key.expiresAt)) throw refused()
  if (!key.scopes.includes(scope))
    throw new Refusal(403, 'Not allowed', `The key “${key.name}” has not the scope “${scope}”.`)
  await app.db
    .update(apiKey)
    .set({ lastUsedAt: now })
    .where(
      and(
        eq(apiKey.id, key.id),
        or(isNull(apiKey.lastUsedAt), lt(apiKey.lastUsedAt, new Date(now.getTime() - 60_000))),
      ),
    )
  return {
    key: { id: key.id, name: key.name, scopes: key.scopes },
    person: { ...whose, via: { kind: 'key', name: key.name, scopes: key.scopes } },
  }
}
