import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto'
import { promisify } from 'node:util'
import { and, eq, gt, isNull, lt } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import type { App } from '#server/app/app.ts'
import { person, session } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { sha256 } from '#server/files/store.ts'
import { Refusal } from '#server/ground/problem.ts'
import { noteAct } from '#server/app/installation-trail.ts'
import { countTry, forgetTries, inQueue } from './sign-in-limits.ts'

const derive = promisify<string, Buffer, number, { N: number; r: number; p: number }, Buffer>(scrypt)
const COST = { N: 2 ** 14, r: 8, p: 5 }
/** Days that a session lasts. */
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

/** A person as the rest of the application knows them. */
export const toPerson = ({ id, name, email, post, rights }: typeof person.$inferSelect): Person => ({
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
  address: string,
): Promise<{ person: Person; token: string }> {
  const account = email.trim().toLowerCase()
  await countTry(app, account, address)
  const [found] = await app.db.select().from(person).where(eq(person.email, account))
  // The same work is done for an unknown address, so that time does not tell which addresses exist.
  const fits = await inQueue(() =>
    passwordFits(password, found?.passwordHash ?? `${'0'.repeat(32)}:${'0'.repeat(64)}`),
  )
  if (!found || !fits || found.leftAt)
    throw new Refusal(401, 'Not signed in', 'The email address or the password is not right.')
  await forgetTries(app, account, address)
  return { person: toPerson(found), token: await openSession(app, found, address) }
}

/** One click in the demo; refused anywhere else. */
export async function demoSignIn(
  app: App,
  email: string,
  address: string,
): Promise<{ person: Person; token: string }> {
  const [found] = app.settings.demo ? await app.db.select().from(person).where(eq(person.email, email)) : []
  if (!found) throw new Refusal(403, 'Not allowed', 'Signing in without a password is for the demo only.')
  if (found.leftAt) throw new Refusal(403, 'Not allowed', `${found.name} does not work here any more.`)
  return { person: toPerson(found), token: await openSession(app, found, address) }
}

/** The demo’s people, to be signed in by a click; none where there is no demo. */
export const demoPeople = async (app: App) =>
  app.settings.demo
    ? app.db
        .select({ name: person.name, email: person.email, post: person.post })
        .from(person)
        .orderBy(person.post)
    : []

/** Begins a session; answers its token, of which only a hash is kept. */
export async function openSession(
  app: App,
  { id, name }: Pick<Person, 'id' | 'name'>,
  address: string,
): Promise<string> {
  const token = randomBytes(32).toString('base64url')
  const now = app.now()
  await transaction(app, async ({ db }) => {
    await db.delete(session).where(lt(session.expiresAt, now))
    await db.insert(session).values({
      tokenHash: sha256(token),
      personId: id,
      expiresAt: new Date(now.getTime() + SESSION_DAYS * 86_400_000),
    })
    await noteAct(db, { at: now.toISOString(), actor: name, act: 'Signed in', detail: { address } })
  })
  return token
}

/** Who a session’s token is of; null: it is of nobody, or over. */
export async function personOfSession(app: App, token: string): Promise<Person | null> {
  const [found] = await app.db
    .select({ person })
    .from(session)
    .innerJoin(person, eq(person.id, session.personId))
    .where(and(eq(session.tokenHash, sha256(token)), gt(session.expiresAt, app.now()), isNull(person.leftAt)))
  return found ? toPerson(found.person) : null
}

/** Ends a session. */
export async function signOut(app: App, token: string): Promise<void> {
  await app.db.delete(session).where(eq(session.tokenHash, sha256(token)))
}
