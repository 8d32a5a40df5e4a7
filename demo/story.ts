import { and, asc, count, desc, eq, isNull, lt, sql } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import { whoseTurn } from '#core/ceremony/parties.ts'
import { dayIn } from '#core/organisation/organisation.ts'
import type { App } from '#server/app/app.ts'
import { one } from '#server/db/one.ts'
import { agreement, backgroundWork, mail, party, person, step, trail } from '#server/db/schema.ts'
import type { Filled } from '#core/agreement/filled.ts'
import { decide } from '#server/services/agreements/approvals.ts'
import { routeAgain } from '#server/services/making/route-again.ts'
import { authorityNow, decidersNow } from '#server/services/agreements/deciding.ts'
import { runSenderCommand } from '#server/services/signing/sender-commands.ts'
import { newLink } from '#server/services/signing/links.ts'
import { sendAgreements } from '#server/services/signing/sending.ts'
import { consent, decline, fillBlanks, finish, readSigning } from '#server/services/signing/signing.ts'
import { pastApp, type PastApp } from './past-app.ts'
import { STORY } from './past-seasons.ts'
import { seeded } from './random.ts'

const DAY = 86_400_000

/** What becomes of one agreement: drawn from its number, so that a story that was broken off goes on as it would have. */
interface Fate {
  readonly returned: boolean
  readonly ends: 'executed' | 'declined' | 'withdrawn' | 'out' | 'cleared' | 'in approval'
  /** Days between one thing and the next. */
  readonly pause: () => number
}

const REASONS = [
  'We have agreed with another keeper.',
  'The colonies are more than we asked for.',
  'The orchard is sold.',
  'The price is not what was said on the telephone.',
]

function fateOf(number: string, recent: boolean): Fate {
  const random = seeded([...number].reduce((sum, letter) => sum * 31 + letter.charCodeAt(0), 7))
  const drawn = random.next()
  const ends = recent
    ? random.next() < 0.7
      ? 'in approval'
      : drawn < 0.25
        ? 'cleared'
        : drawn < 0.75
          ? 'out'
          : 'executed'
    : drawn < 0.03
      ? 'declined'
      : drawn < 0.045
        ? 'withdrawn'
        : 'executed'
  return {
    returned: random.next() < 0.12,
    ends,
    // Most within days, some only after weeks.
    pause: () => Math.exp(random.next() * 2.6 - 0.9) * (0.6 + random.next()),
  }
}

/**
 * Tells the story so far: what became of the agreements that were made before the demo begins, by the services that do it
 * for real ones. Can be broken off at any place; goes on with what is left.
 */
export async function tellStory(app: App): Promise<void> {
  const [work] = await app.db.select().from(backgroundWork).where(eq(backgroundWork.name, STORY))
  if (!work || work.endedAt) return
  const people = await app.db.select().from(person)
  const ines = people.find(({ post }) => post === 'contract administrator')!
  const made = await app.db
    .select({ id: agreement.id, number: agreement.number, createdAt: agreement.createdAt })
    .from(agreement)
    .where(lt(agreement.createdAt, new Date(work.startedAt.getTime() - DAY)))
    // The newest first: they are what a desk is about.
    .orderBy(desc(agreement.createdAt), asc(agreement.number))
  await app.db.update(backgroundWork).set({ total: made.length }).where(eq(backgroundWork.name, STORY))
  let done = 0
  const left = [...made]
  const lane = async () => {
    for (let next = left.shift(); next; next = left.shift()) {
      const recent = work.startedAt.getTime() - next.createdAt.getTime() < 60 * DAY
      // One that cannot go on stays where it is; the others do not wait for it.
      await live(app, { ines, everybody: people }, next, fateOf(next.number, recent), work.startedAt).catch(
        (error: unknown) =>
          app.log.error({ err: error, number: next.number }, 'a part of the story was left out'),
      )
      if (++done % 5 === 0)
        await app.db.update(backgroundWork).set({ done }).where(eq(backgroundWork.name, STORY))
    }
  }
  await Promise.all([lane(), lane()])
  // What was to be sent when the story was broken off: of the past there is nothing to send.
  await app.db
    .update(mail)
    .set({ sentAt: sql`${mail.createdAt}`, body: null })
    .where(and(isNull(mail.sentAt), lt(mail.createdAt, work.startedAt)))
  await app.db.update(backgroundWork).set({ done, endedAt: app.now() }).where(eq(backgroundWork.name, STORY))
}

interface People {
  readonly ines: Person
  readonly everybody: readonly Person[]
}

async function live(
  app: App,
  people: People,
  { id, createdAt }: { readonly id: string; readonly createdAt: Date },
  fate: Fate,
  until: Date,
): Promise<void> {
  let at = createdAt.getTime() + 0.2 * DAY
  const past = pastApp(app, new Date(at))
  const later = () => {
    at = Math.min(at + fate.pause() * DAY, until.getTime() - 3_600_000)
    past.at(new Date(at))
  }
  let returned = false
  for (let steps = 0; steps < 40; steps++) {
    const now = one(await app.db.select().from(agreement).where(eq(agreement.id, id)))
    // Where it was broken off between two acts of one step, its trail may be further than the agreement says.
    const [last] = await app.db
      .select({ at: trail.at })
      .from(trail)
      .where(eq(trail.agreementId, id))
      .orderBy(desc(trail.seq))
      .limit(1)
    at = Math.max(at, now.changedAt.getTime(), last ? Date.parse(last.at) : 0)
    // While its past is told the clock of the present leaves it alone.
    await app.db.update(agreement).set({ lookAt: null }).where(eq(agreement.id, id))
    if (now.state === fate.ends && (now.state !== 'out' || steps > 1)) {
      // What is out when the demo begins can still be signed for a while.
      if (now.state === 'out')
        await runSenderCommand(past, people.ines, id, {
          course: 'extend',
          day: dayIn('America/Los_Angeles', new Date(until.getTime() + 15 * DAY)),
        })
      return
    }
    later()
    switch (now.state) {
      case 'in approval': {
        const [open] = await app.db
          .select()
          .from(step)
          .where(and(eq(step.agreementId, id), eq(step.state, 'waiting')))
        if (!open) return
        const before = await app.db
          .select({ steps: count() })
          .from(step)
          .where(and(eq(step.agreementId, id), eq(step.state, 'returned')))
        returned ||= before[0]!.steps > 0
        const decider = await deciderOf(past, people, now, open)
        if (!decider) return
        if (fate.returned && !returned)
          await decide(past, decider, id, open.id, {
            decision: 'return',
            note: 'Say first how the total comes about; I know of fewer colonies.',
          })
        else await decide(past, decider, id, open.id, { decision: 'approve', note: '' })
        break
      }
      case 'returned':
        await routeAgain(past, people.ines, id)
        break
      case 'cleared':
        await sendAgreements(past, people.ines, [id], { unread: false, at: null })
        break
      case 'out':
        if (!(await nextSigner(past, people, id, fate))) return
        break
      default:
        return
    }
    await past.work()
  }
}

/** Somebody of those whom a step asks; nobody may be there for it. */
async function deciderOf(
  past: PastApp,
  { everybody }: People,
  row: typeof agreement.$inferSelect,
  open: typeof step.$inferSelect,
): Promise<Person | null> {
  const [first] = decidersNow(await authorityNow(past), open, row)
  return everybody.find(({ id }) => id === first?.id) ?? null
}

/**
 * Has what was put to approval in the past decided, so that nobody finds former seasons on their desk; what became of it after
 * that follows behind. Whom a step asked of those who work here now decided it.
 */
export async function decidePast(app: App): Promise<void> {
  const everybody = await app.db.select().from(person)
  const ines = everybody.find(({ post }) => post === 'contract administrator')!
  const until = app.now()
  const waiting = await app.db
    .select({ id: agreement.id, number: agreement.number, createdAt: agreement.createdAt })
    .from(agreement)
    .where(
      and(eq(agreement.state, 'in approval'), lt(agreement.createdAt, new Date(until.getTime() - 60 * DAY))),
    )
    .orderBy(asc(agreement.number))
  const left = [...waiting]
  const lane = async () => {
    for (let next = left.shift(); next; next = left.shift())
      await live(app, { ines, everybody }, next, { ...fateOf(next.number, false), ends: 'cleared' }, until)
  }
  await Promise.all([lane(), lane()])
}

/** Whoever's turn it is opens, agrees, fills and signs; false where nobody is left to. */
async function nextSigner(past: PastApp, people: People, id: string, fate: Fate): Promise<boolean> {
  const row = one(await past.db.select().from(agreement).where(eq(agreement.id, id)))
  const parties = await past.db
    .select()
    .from(party)
    .where(and(eq(party.agreementId, id), eq(party.revision, row.revision)))
  const turn = whoseTurn(parties.map((each) => ({ ...each, signedAt: each.signedAt?.toISOString() ?? null })))
  const [next] = turn
  if (!next) {
    // Signed by all and broken off before it was sealed.
    await past.queue.send('execute-agreement', { agreementId: id })
    return true
  }
  if (fate.ends === 'withdrawn') {
    await runSenderCommand(past, people.ines, id, { course: 'withdraw' })
    return true
  }
  // Whoever takes longer than there is time gets more of it.
  if (row.signBy! < new Date(past.now().getTime() + DAY))
    await runSenderCommand(past, people.ines, id, {
      course: 'extend',
      day: dayIn('America/Los_Angeles', new Date(past.now().getTime() + 14 * DAY)),
    })
  // The link was in a mail of the past; another is made, known to nobody but this story.
  const token = await newLink(past.db, next.id, past.now())
  const address = `198.51.100.${(next.email.length * 7) % 250}`
  const visitor = { token, proof: null, address }
  await readSigning(past, visitor)
  if (fate.ends === 'out' && parties.filter(({ signedAt }) => signedAt).length >= parties.length - 1)
    return false
  await consent(past, visitor)
  if (fate.ends === 'declined') {
    await decline(past, visitor, REASONS[next.email.length % REASONS.length]!)
    return true
  }
  const { blanks } = await readSigning(past, visitor)
  const typed = { kind: 'typed', text: next.name } as const
  const initials = { kind: 'typed', text: initialsOf(next.name) } as const
  const values = Object.fromEntries(
    blanks.flatMap(({ id: blank, kind, required, rules, options }): [string, Filled][] => {
      if (kind === 'signature') return [[blank, typed]]
      if (kind === 'initials') return [[blank, initials]]
      if (kind === 'tick') return [[blank, { kind: 'tick' }]]
      if (!required || rules.preset !== undefined) return []
      if (kind === 'choice') return options.length ? [[blank, { kind: 'choice', chosen: [0] }]] : []
      if (kind === 'number') return [[blank, { kind: 'text', text: '4' }]]
      if (kind === 'text' || kind === 'name' || kind === 'title' || kind === 'company')
        return [[blank, { kind: 'text', text: kind === 'title' ? 'Owner' : next.name }]]
      return []
    }),
  )
  await fillBlanks(past, visitor, values as Parameters<typeof fillBlanks>[2])
  await finish(past, visitor)
  return true
}

const initialsOf = (name: string): string =>
  name
    .split(' ')
    .map((word) => word.slice(0, 1))
    .join('')
