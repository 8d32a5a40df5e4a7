import { randomUUID } from 'node:crypto'
import { and, asc, eq, isNull } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import type { Db } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import { agreement, party, partyQuestion } from '#server/db/schema.ts'
import { conflict, notFound } from '#server/ground/problem.ts'
import { happened } from '#server/services/agreements/trail.ts'
import { tellSender } from '#server/services/agreements/parties.ts'
import { readerOf, writeTo } from './readers.ts'
import { must, visitOf, type Visitor } from './visit.ts'

/** Questions that one party may have open at a time. */
const MOST_OPEN = 10

/** What a party has asked, with the answers. */
export async function questionsOfParty(db: Db, partyId: string) {
  const rows = await db
    .select()
    .from(partyQuestion)
    .where(eq(partyQuestion.partyId, partyId))
    .orderBy(asc(partyQuestion.askedAt))
  return rows.map(({ id, passage, text, askedAt, answer }) => ({
    id,
    passage,
    text,
    askedAt: askedAt.toISOString(),
    answer,
  }))
}

/** Asks the sender, who is told by mail. */
export async function askAsParty(
  app: App,
  visitor: Visitor,
  { text, passage }: { readonly text: string; readonly passage: string },
): Promise<void> {
  await transaction(app, async (work) => {
    const visit = await visitOf(work, visitor, true)
    must(visit, 'ask')
    const { signer, row } = visit
    const open = (await questionsOfParty(work.db, signer.id)).filter(({ answer }) => answer === null)
    if (open.length >= MOST_OPEN) throw conflict(visit.speaker.say('refusal.mayNot'))
    const id = randomUUID()
    await work.db
      .insert(partyQuestion)
      .values({ id, agreementId: row.id, partyId: signer.id, text, passage, askedAt: work.now() })
    await happened(work, row.id, signer.name, {
      act: 'asked as a party',
      detail: { role: signer.label, question: text, passage },
    })
    await tellSender(work, row, {
      key: `party-question:${id}`,
      subject: `A question from ${signer.name}: ${row.name}`,
      paragraphs: [
        `${signer.name} (${signer.label}) asks: “${text}”`,
        ...(passage ? [`It is about: “${passage}”`] : []),
      ],
      link: 'Answer it',
    })
  })
}

/** Answers a party's question; they get it by mail, and it stands on their page. Once only. */
export async function answerParty(
  app: App,
  by: Person,
  agreementId: string,
  questionId: string,
  answer: string,
): Promise<void> {
  await requireMay(app, by, 'send')
  await transaction(app, async (work) => {
    const [answered] = await work.db
      .update(partyQuestion)
      .set({ answer, answeredBy: by.id, answeredAt: work.now() })
      .where(
        and(
          eq(partyQuestion.id, questionId),
          eq(partyQuestion.agreementId, agreementId),
          isNull(partyQuestion.answer),
        ),
      )
      .returning()
    if (!answered) {
      const [known] = await work.db.select().from(partyQuestion).where(eq(partyQuestion.id, questionId))
      throw known ? conflict('It has been answered already.') : notFound('question')
    }
    const row = one(await work.db.select().from(agreement).where(eq(agreement.id, agreementId)))
    const asked = one(await work.db.select().from(party).where(eq(party.id, answered.partyId)))
    await happened(work, agreementId, by.name, {
      act: 'party answered',
      detail: { question: answered.text, answer },
    })
    const reader = await readerOf(work.db, row, asked)
    const { say } = reader.speaker
    await writeTo(work, reader, {
      key: `answer-${questionId}`,
      subject: say('mail.answerSubject', { title: row.name }),
      paragraphs: [
        say('mail.answer', { question: answered.text }),
        say('mail.answered', { from: by.name, answer }),
      ],
      // Still to sign, they can go straight on.
      link: row.state === 'out' && asked.revision === row.revision && !asked.signedAt,
    })
  })
}
