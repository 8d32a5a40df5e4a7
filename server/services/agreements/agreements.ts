import { and, asc, count, desc, eq, ilike, inArray, or, sql, type SQL } from 'drizzle-orm'
import type * as v from 'valibot'
import type { agreementQuery, AgreementSummary } from '#contract/agreement.ts'
import type { Person } from '#contract/person.ts'
import { type AgreementState, move, type Move, MOVES } from '#core/agreement/states.ts'
import { courseOf, coursesNow } from '#core/ceremony/sender-commands.ts'
import { hasToAct } from '#core/ceremony/parties.ts'
import { dayIn } from '#core/organisation/organisation.ts'
import { thread } from '#core/agreement/thread.ts'
import type { App, Ground } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import {
  agreement,
  claim,
  edition,
  mail,
  oneOff,
  party,
  partyQuestion,
  question,
  record,
  step,
  template,
  wordingRead,
} from '#server/db/schema.ts'
import { conflict, notFound } from '#server/ground/problem.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { iso, toPartyQuestionView, toPartyView, toQuestionView, toStepView } from './agreement-views.ts'
import { authorityNow } from './deciding.ts'
import { filledBlanks } from './filled.ts'
import { documentOf } from './parties.ts'
import { isOpen, lastRound, namesOf, type Step } from './routes.ts'
import { verifyAgreement } from './verifying.ts'
import { undeliveredAmong } from './undelivered.ts'

export type Row = typeof agreement.$inferSelect

/** Lines of one kind on the desk and in short lists, at the most. */
export const SHOWN = 200

/** Parties and approvals of the agreements' present revisions; of the approvals, the latest round. */
async function partsOf(db: Db, rows: readonly Row[]) {
  const ids = rows.map(({ id }) => id)
  if (ids.length === 0) return { parties: [], steps: [] }
  const parties = await db
    .select({ party })
    .from(party)
    .innerJoin(agreement, and(eq(agreement.id, party.agreementId), eq(agreement.revision, party.revision)))
    .where(inArray(party.agreementId, ids))
    .orderBy(asc(party.order))
  const steps = await db
    .select({ step })
    .from(step)
    .innerJoin(agreement, and(eq(agreement.id, step.agreementId), eq(agreement.revision, step.revision)))
    .where(inArray(step.agreementId, ids))
    .orderBy(asc(step.since), asc(step.approver))
  return { parties: parties.map((row) => row.party), steps: steps.map((row) => row.step) }
}

export async function summarise(
  db: Db,
  rows: readonly { agreement: Row; template: string }[],
): Promise<AgreementSummary[]> {
  const { parties, steps } = await partsOf(
    db,
    rows.map((row) => row.agreement),
  )
  const lost = new Set((await undeliveredAmong(db, rows)).map(({ id }) => id))
  return rows.map(({ agreement: found, template: name }) => ({
    id: found.id,
    number: found.number,
    name: found.name,
    state: found.state,
    template: name,
    changedAt: found.changedAt.toISOString(),
    undelivered: lost.has(found.id),
    thread: thread(
      found.state,
      lastRound(steps.filter(({ agreementId }) => agreementId === found.id)).map((each) => ({
        ...each,
        since: each.since.toISOString(),
      })),
      parties
        .filter(({ agreementId }) => agreementId === found.id)
        .map((each) => ({
          ...each,
          invitedAt: iso(each.invitedAt),
          signedAt: iso(each.signedAt),
          declinedAt: iso(each.declinedAt),
        })),
    ).map((column) => [...column]),
  }))
}

export const withTemplate = (db: Db) =>
  db
    .select({ agreement, template: template.name, origin: claim.origin })
    .from(agreement)
    .innerJoin(claim, eq(claim.id, agreement.id))
    .innerJoin(edition, eq(edition.id, agreement.editionId))
    .innerJoin(template, eq(template.id, edition.templateId))

/** Agreements that fit, the last changed first. */
export const summariesOf = async (db: Db, where: SQL | undefined): Promise<AgreementSummary[]> =>
  summarise(db, await withTemplate(db).where(where).orderBy(desc(agreement.changedAt)).limit(SHOWN))

/** The register: a page of what is asked for, what changed last first, and how many there are. */
export async function listAgreements(app: App, query: v.InferOutput<typeof agreementQuery>) {
  const like = `%${(query.search ?? '').replace(/[\\%_]/g, '\\$&')}%`
  const where: SQL | undefined = and(
    query.state && eq(agreement.state, query.state),
    query.run ? eq(claim.runId, query.run) : undefined,
    query.record ? eq(agreement.recordId, query.record) : undefined,
    query.search ? or(ilike(agreement.name, like), ilike(agreement.number, like)) : undefined,
  )
  const [total] = await app.db
    .select({ agreements: count() })
    .from(agreement)
    .innerJoin(claim, eq(claim.id, agreement.id))
    .where(where)
  const rows = await withTemplate(app.db)
    .where(where)
    // What was made together stands in the order of its numbers, not of its transactions.
    .orderBy(sql`date_trunc('minute', ${agreement.changedAt}) desc`, asc(agreement.number))
    .offset(query.offset)
    .limit(query.limit)
  return { total: total?.agreements ?? 0, agreements: await summarise(app.db, rows) }
}

/** The edition that an agreement was made from; `oneOff`: the file it is of, if it was made for one agreement alone. */
const editionOf = async (db: Db, row: Row) =>
  one(
    await db
      .select({
        number: edition.number,
        body: sql<string>`${edition.content}->'document'->>'type'`,
        oneOff: oneOff.id,
      })
      .from(edition)
      .leftJoin(oneOff, eq(oneOff.agreementId, row.id))
      .where(eq(edition.id, row.editionId)),
  )

/** One agreement with all there is to see of it. Refused where there is none. */
export async function readAgreement(app: App, by: Person, id: string) {
  const [found] = await withTemplate(app.db).where(eq(agreement.id, id))
  if (!found) throw notFound('agreement')
  const { agreement: row } = found
  const summary = one(await summarise(app.db, [found]))
  const { parties, steps } = await partsOf(app.db, [row])
  const made = await editionOf(app.db, row)
  const document = await documentOf(app.db, row)
  const people = await namesOf(app.db)
  const [about] = row.recordId
    ? await app.db
        .select({ id: record.id, kind: record.kind, name: record.name })
        .from(record)
        .where(eq(record.id, row.recordId))
    : []
  const filled = await filledBlanks(app.db, parties, document.blanks)
  const authority = steps.some(isOpen) ? await authorityNow(app) : null
  const present = new Set(lastRound(steps).map((each) => each.id))
  const questions = await questionsOf(app.db, id)
  const facts = {
    openSteps: openSteps(steps),
    unsigned: parties.filter((each) => hasToAct(each) && !each.signedAt).length,
  }
  const mails = await lastMails(app.db, id)
  const asked = await partyQuestionsOf(app.db, id)
  return {
    ...summary,
    edition: made.number,
    revision: row.revision,
    origin: found.origin,
    wording: row.wording,
    wordingRead: row.content !== null || (await isRead(app.db, row)),
    byHand: row.content !== null,
    form: made.body === 'pages',
    oneOff: made.oneOff,
    language: row.language,
    copies: row.copies,
    extra: row.extra.map(({ name }) => name),
    record: about ?? null,
    parts: document.parts.map(({ title, firstPage, pages }) => ({ title, firstPage, pages })),
    pages: document.pages,
    createdAt: row.createdAt.toISOString(),
    createdBy: people.get(row.createdBy) ?? '',
    signBy: iso(row.signBy),
    goesAt: iso(row.goesAt),
    notice: row.notice,
    signByDay: row.signBy && dayIn((await organisationOf(app.db)).timeZone, row.signBy),
    subject: row.subject,
    message: row.message,
    executed: row.executedSha256 !== null,
    steps: steps.map((each) =>
      toStepView(each, { row, by, authority, people, present: present.has(each.id) }),
    ),
    questions: questions.map((each) => toQuestionView(each, people)),
    parties: parties.map((each) => toPartyView(each, { state: row.state, facts, mails, filled })),
    moves: MOVES.filter((made) => move(row.state, made, facts).ok),
    courses: coursesNow(row.state, facts).filter((name) => courseOf(name).of === 'agreement'),
    partyQuestions: asked.map((each) => toPartyQuestionView(each, people)),
  }
}

/** Whether somebody has read an agreement's wording: in its run, or by itself before it was made. */
export async function isRead(db: Db, row: Pick<Row, 'id' | 'wording'>): Promise<boolean> {
  const [found] = await db
    .select({ runId: claim.runId, by: wordingRead.readBy })
    .from(claim)
    .leftJoin(wordingRead, and(eq(wordingRead.runId, claim.runId), eq(wordingRead.wording, row.wording)))
    .where(eq(claim.id, row.id))
    .limit(1)
  return found !== undefined && (found.runId === null || found.by !== null)
}

const openSteps = (steps: readonly Step[]): number => lastRound(steps).filter(isOpen).length

/** The last mail of an agreement to each address. */
const lastMails = (db: Db, agreementId: string) =>
  db
    .selectDistinctOn([mail.to], {
      to: mail.to,
      problem: mail.problem,
      at: mail.undeliverableAt,
      sentAt: mail.sentAt,
    })
    .from(mail)
    .where(eq(mail.agreementId, agreementId))
    .orderBy(mail.to, desc(mail.createdAt))

const partyQuestionsOf = (db: Db, agreementId: string) =>
  db
    .select({ found: partyQuestion, name: party.name, label: party.label })
    .from(partyQuestion)
    .innerJoin(party, eq(party.id, partyQuestion.partyId))
    .where(eq(partyQuestion.agreementId, agreementId))
    .orderBy(asc(partyQuestion.askedAt))

const questionsOf = (db: Db, agreementId: string) =>
  db.select().from(question).where(eq(question.agreementId, agreementId)).orderBy(asc(question.askedAt))

/** An agreement’s trail, and whether it holds. */
export async function trailOf(app: App, id: string) {
  const { entries, problems } = await verifyAgreement(app, id)
  return { entries: [...entries], verified: problems.length === 0, problem: problems.join(' ') || null }
}

/** Locks an agreement for a move and makes it; the one way its state ever changes. */
export async function transitionAgreement(
  { db, now }: Ground,
  id: string,
  made: Move,
): Promise<{ row: Row; state: AgreementState }> {
  const [row] = await db.select().from(agreement).where(eq(agreement.id, id)).for('update')
  if (!row) throw notFound('agreement')
  const { parties, steps } = await partsOf(db, [row])
  const result = move(row.state, made, {
    openSteps: openSteps(steps),
    unsigned: parties.filter((each) => hasToAct(each) && !each.signedAt).length,
  })
  if (!result.ok) throw conflict(result.problem)
  await db
    .update(agreement)
    // What moves on does not go by itself any more.
    .set({ state: result.state, changedAt: now(), goesAt: null, goesBy: null, goesUnread: false })
    .where(eq(agreement.id, id))
  return { row, state: result.state }
}
