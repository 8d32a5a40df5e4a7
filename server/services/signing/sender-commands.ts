import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import type * as v from 'valibot'
import type { courseSchema } from '#contract/sending.ts'
import type { Person } from '#contract/person.ts'
import { concerns, courseOf, courseRefusal, type SenderCommandName } from '#core/ceremony/sender-commands.ts'
import { endOfDay } from '#core/ceremony/times.ts'
import { hasToAct } from '#core/ceremony/parties.ts'
import { dayIn } from '#core/organisation/organisation.ts'
import { hashOf } from '#core/trail/trail.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App, Work } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { one } from '#server/db/one.ts'
import { agreement, party, revision, step } from '#server/db/schema.ts'
import { conflict, invalid, notFound } from '#server/ground/problem.ts'
import { transitionAgreement } from '#server/services/agreements/agreements.ts'
import { presentSteps } from '#server/services/agreements/routes.ts'
import { happened } from '#server/services/agreements/trail.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { lookAgain, remind } from './clock.ts'
import { deliverAgain } from './notice.ts'
import { anew } from '#server/services/agreements/anew.ts'
import { endLinks } from './links.ts'
import { hashOfCode } from './proving.ts'
import { documentOf, partiesOf, settingsNow } from '#server/services/agreements/parties.ts'
import { type Agreement, type Party, readerOf, writeTo } from './readers.ts'
import { peopleNow, replaceSigner } from './replacing.ts'
import { invite } from './sending.ts'

// What the sender does with an agreement that has gone out; `core/ceremony/sender-commands.ts` is the table of it.

type Taken = v.InferOutput<typeof courseSchema>
type Of<N extends SenderCommandName> = Extract<Taken, { course: N }>

/** Takes one course; whether it can be taken is the table's to say. */
export async function runSenderCommand(app: App, by: Person, id: string, taken: Taken): Promise<void> {
  await requireMay(app, by, 'send')
  await transaction(app, async (work) => {
    const [row] = await work.db.select().from(agreement).where(eq(agreement.id, id)).for('update')
    if (!row) throw notFound('agreement')
    const parties = await partiesOf(work.db, row)
    const unsigned = parties.filter((each) => hasToAct(each) && !each.signedAt).length
    const refusal = courseRefusal(taken.course, row.state, { openSteps: 0, unsigned })
    if (refusal) throw conflict(refusal)
    const on: On = { work, by, row, parties }
    if (courseOf(taken.course).of === 'party') {
      const of = parties.find((each) => 'party' in taken && each.id === taken.party)
      if (!of) throw notFound('party')
      if (!concerns(taken.course, of))
        throw conflict(
          of.signedAt ? `${of.name} has signed already.` : `${of.name} has not been written to yet.`,
        )
      await partyCourse(on, of, taken)
    } else await agreementCourse(on, taken)
    await lookAgain(work, id)
  })
}

interface On {
  readonly work: Work
  readonly by: Person
  readonly row: Agreement
  readonly parties: readonly Party[]
}

async function partyCourse(on: On, of: Party, taken: Taken): Promise<void> {
  switch (taken.course) {
    case 'remind': {
      await unlock(on, of)
      return remind(on.work, on.row, of, on.by.name, on.work.now().toISOString())
    }
    case 'correct address':
      return correctAddress(on, of, taken)
    case 'replace signer':
      return replaceSigner(on.work, on.row, of, taken, {
        why: 'replaced',
        by: on.by.name,
        act: (detail) => ({ act: 'signer replaced', detail }),
      })
    case 'new agreed code': {
      const codeHash = await hashOfCode(taken.code)
      await on.work.db.update(party).set({ codeHash, wrong: 0 }).where(eq(party.id, of.id))
      return happened(on.work, on.row.id, on.by.name, {
        act: 'access code set',
        detail: { role: of.label, settings: await settingsNow(on.work.db, on.row) },
      })
    }
  }
}

async function agreementCourse(on: On, taken: Taken): Promise<void> {
  switch (taken.course) {
    case 'extend':
      return extend(on, taken)
    case 'take back':
      return takeBack(on, taken)
    case 'withdraw':
      return withdraw(on)
  }
}

const unlock = ({ work }: On, of: Party) => work.db.update(party).set({ wrong: 0 }).where(eq(party.id, of.id))

async function correctAddress(on: On, of: Party, { email }: Of<'correct address'>): Promise<void> {
  const { work, by, row } = on
  if (of.email === email) throw invalid('That is the address already.')
  await endLinks(work.db, of.id, 'address corrected', work.now())
  const now = one(await work.db.update(party).set({ email, wrong: 0 }).where(eq(party.id, of.id)).returning())
  await happened(work, row.id, by.name, {
    act: 'address corrected',
    detail: { role: of.label, before: of.email, email, people: await peopleNow(work, row) },
  })
  if (row.state === 'delivered') await deliverAgain(work, row, now, by.name)
  else if (of.invitedAt) await invite(work, row, now, { key: `invite-${work.now().toISOString()}` })
}

async function extend({ work, by, row, parties }: On, { day }: Of<'extend'>): Promise<void> {
  const { timeZone } = await organisationOf(work.db)
  const signBy = endOfDay(timeZone, day)
  if (day < dayIn(timeZone, work.now()))
    throw invalid('That day has passed.', [{ pointer: '/day', detail: 'It has passed.' }])
  if (signBy.getTime() > work.now().getTime() + 366 * 86_400_000)
    throw invalid('A year from today is the furthest.', [
      { pointer: '/day', detail: 'At most a year from today.' },
    ])
  if (row.state === 'out' && row.signBy?.getTime() === signBy.getTime())
    throw invalid('That is the date already.')
  await transitionAgreement(work, row.id, 'extend')
  await work.db.update(agreement).set({ signBy }).where(eq(agreement.id, row.id))
  const before = row.signBy!.toISOString()
  await happened(work, row.id, by.name, {
    act: 'date to sign by changed',
    detail: { before, 'sign by': signBy.toISOString() },
  })
  for (const each of parties)
    if (each.invitedAt && !each.signedAt && hasToAct(each)) {
      const reader = await readerOf(work.db, { ...row, signBy }, each)
      const { say } = reader.speaker
      await writeTo(work, reader, {
        key: `extended-${before}-${day}`,
        subject: say('mail.extendedSubject', { title: row.name }),
        paragraphs: [say('mail.extended', { title: row.name })],
        link: true,
      })
    }
}

/** Tells all who were written to, but for whoever did it. */
async function tellInvited(
  { work, row, parties }: On,
  told: 'revised' | 'withdrawn',
  reason: string,
): Promise<void> {
  for (const each of parties)
    if (each.invitedAt) {
      const reader = await readerOf(work.db, row, each)
      const { say } = reader.speaker
      const words = { title: row.name, from: reader.from }
      await writeTo(work, reader, {
        key: told,
        subject: say(`mail.${told}Subject`, words),
        paragraphs: [say(`mail.${told}`, words), ...(reason ? [say('mail.why', { reason })] : [])],
        link: false,
      })
    }
}

async function withdraw(on: On): Promise<void> {
  const { work, by, row } = on
  await transitionAgreement(work, row.id, 'withdraw')
  await happened(work, row.id, by.name, { act: 'withdrawn', detail: {} })
  if (row.state === 'out') await tellInvited(on, 'withdrawn', '')
}

/**
 * Makes it a draft again, as its next revision: the same document until somebody changes it, the same parties with nothing passed,
 * and the approvals that were given, which count on where what they rest on stays.
 */
async function takeBack(on: On, { reason }: Of<'take back'>): Promise<void> {
  const { work, by, row, parties } = on
  const { db } = work
  await transitionAgreement(work, row.id, 'take back')
  const number = row.revision + 1
  const given = (await presentSteps(db, row)).filter(({ state }) => state === 'approved')
  const document = await documentOf(db, row)
  await db.insert(revision).values({ ...document, number })
  await db.insert(party).values(parties.map((each) => anew(each, number)))
  if (given.length)
    await db
      .insert(step)
      .values(
        given.map((each) => ({ ...each, id: randomUUID(), revision: number, round: 1, keptFrom: each.id })),
      )
  await db
    .update(agreement)
    .set({ revision: number, signBy: null, sentAt: null, sentBy: null, lookAt: null })
    .where(eq(agreement.id, row.id))
  const now = { ...row, revision: number }
  await happened(work, row.id, by.name, {
    act: 'taken back',
    detail: {
      revision: number,
      document: document.fileSha256,
      people: await peopleNow(work, now),
      data: hashOf(row.data),
      reason,
    },
  })
  if (row.state === 'out') await tellInvited(on, 'revised', reason)
}
