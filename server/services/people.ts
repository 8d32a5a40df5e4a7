import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto'
import { promisify } from 'node:util'
import { and, eq, gt, lt } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import type { App } from '#server/app.ts'
import { person, session } from '#server/db/schema.ts'
import { sha256 } from '#server/files/store.ts'
import { Refusal } from '#server/problem.ts'

const derive = promisify<string, Buffer, number, { N: number; r: number; p: number }, Buffer>(scrypt)
const COST = { N: 2 ** 14, r: 8, p: 5 }
export const SESSION_DAYS = 14

/** scrypt with a salt of its own (OWASP's parameters): `salt:hash` in hex. */
export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16)
  return `${salt.toString('hex')}:${(await derive(password, salt, 32, COST)).toString('hex')}`
}

async function passwordFits(password: string, stored: string): Promise<boolean> {
  const [salt = '', hash = ''] = stored.split(':')
  const expected = Buffer.from(hash, 'hex')
  const found = await derive(password, Buffer.from(salt, 'hex'), 32, COST)
  return expected.length === found.length && timingSafeEqual(expected, found)
}

/** Wrong passwords in a row per mail address, in this process; a quarter of an hour's rest after ten. */
const failures = new Map<string, { count: number; last: number }>()
const TRIES = 10
const REST = 15 * 60_000

const toPerson = ({ id, name, email, post, rights }: typeof person.$inferSelect): Person => ({
  id,
  name,
  email,
  post,
  rights,
})

/** Checks a password and opens a session; the token goes into the cookie, only its hash into the database. */
export async function signIn(
  app: App,
  email: string,
  password: string,
): Promise<{ person: Person; token: string }> {
  const key = email.trim().toLowerCase()
  const failed = failures.get(key)
  if (failed && failed.count >= TRIES && app.now().getTime() - failed.last < REST)
    throw new Refusal(429, 'Too many tries', 'Too many wrong passwords. Try again in a quarter of an hour.')
  const [found] = await app.db.select().from(person).where(eq(person.email, key))
  // The same work is done for an unknown address, so that time does not tell which addresses exist.
  const fits = await passwordFits(password, found?.passwordHash ?? `${'0'.repeat(32)}:${'0'.repeat(64)}`)
  if (!found || !fits) {
    if (failures.size > 10_000) failures.clear()
    failures.set(key, { count: (failed?.count ?? 0) + 1, last: app.now().getTime() })
    throw new Refusal(401, 'Not signed in', 'The mail address or the password is not right.')
  }
  failures.delete(key)
  return { person: toPerson(found), token: await openSession(app, found.id) }
}

/** One click in the demo; refused anywhere else. */
export async function demoSignIn(app: App, email: string): Promise<{ person: Person; token: string }> {
  const [found] = app.settings.demo ? await app.db.select().from(person).where(eq(person.email, email)) : []
  if (!found) throw new Refusal(403, 'Not allowed', 'Signing in without a password is for the demo only.')
  return { person: toPerson(found), token: await openSession(app, found.id) }
}

export const demoPeople = async (app: App) =>
  app.settings.demo
    ? app.db
        .select({ name: person.name, email: person.email, post: person.post })
        .from(person)
        .orderBy(person.post)
    : []

async function openSession(app: App, personId: string): Promise<string> {
  const token = randomBytes(32).toString('base64url')
  const now = app.now()
  await app.db.delete(session).where(lt(session.expiresAt, now))
  await app.db.insert(session).values({
    tokenHash: sha256(token),
    personId,
    expiresAt: new Date(now.getTime() + SESSION_DAYS * 86_400_000),
  })
  return token
}

export async function personOfSession(app: App, token: string): Promise<Person | null> {
  const [found] = await app.db
    .select({ person })
    .from(session)
    .innerJoin(person, eq(person.id, session.personId))
    .where(and(eq(session.tokenHash, sha256(token)), gt(session.expiresAt, app.now())))
  return found ? toPerson(found.person) : null
}

export async function signOut(app: App, token: string): Promise<void> {
  await app.db.delete(session).where(eq(session.tokenHash, sha256(token)))
}
