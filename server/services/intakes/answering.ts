import { randomUUID } from 'node:crypto'
import { and, eq, isNotNull, sql } from 'drizzle-orm'
import { RateLimiterRes } from 'rate-limiter-flexible'
import type * as v from 'valibot'
import type { publicForm } from '#contract/intake.ts'
import { type AnsweredFile, type Answers, readAnswers } from '#core/intake/answers.ts'
import { filledFields, type IntakeForm, questionsOf, saidIn, textKey } from '#core/intake/form.ts'
import { speaks } from '#core/languages/all.ts'
import { type Language, languageOf } from '#core/languages/language.ts'
import type { Say, Speaker } from '#core/languages/speak.ts'
import type { Field, Outline, RecordData } from '#core/outline/field.ts'
import { fileName } from '#core/text/pattern.ts'
import type { App, Ground } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import type { Db } from '#server/db/connect.ts'
import { ANSWER } from '#core/states/all.ts'
import { moving } from '#server/db/moving.ts'
import { one } from '#server/db/one.ts'
import { intakeAnswer, intakeFile, intakeForm, openLink } from '#server/db/schema.ts'
import { sha256 } from '#server/files/store.ts'
import { conflict, invalid, Refusal } from '#server/ground/problem.ts'
import { limiterOf } from '#server/ground/rate.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { askedOf, type FormRow, ownerOf } from './forms.ts'
import { kindOfFile } from './file-kinds.ts'
import { newToken } from './inviting.ts'
import { afterwardsOf } from './same-sitting.ts'

// What the page of a form does for whoever comes. By its token alone: an open link's leads to the form and to nobody's
// answers, an answer's own to that one.

type AnswerRow = typeof intakeAnswer.$inferSelect
type LinkRow = typeof openLink.$inferSelect

interface Visit {
  readonly form: FormRow
  readonly link: LinkRow | null
  readonly answer: AnswerRow | null
}

const unknown = () => new Refusal(404, 'Address not known', 'This address is not known. It may be cut off.')

async function visitOf(db: Db, token: string, lock = false): Promise<Visit> {
  const byToken = db
    .select()
    .from(intakeAnswer)
    .where(eq(intakeAnswer.tokenHash, sha256(token)))
  const [answer] = await (lock ? byToken.for('update') : byToken)
  const [link] = await db
    .select()
    .from(openLink)
    .where(answer ? sql`${openLink.id} = ${answer.linkId}` : eq(openLink.tokenHash, sha256(token)))
  const formId = answer?.formId ?? link?.formId
  if (!formId) throw unknown()
  const form = one(await db.select().from(intakeForm).where(eq(intakeForm.id, formId)))
  return { form: form, link: link ?? null, answer: answer ?? null }
}

/** An answer by its own token; an open link's leads to none. */
async function answerOf(db: Db, token: string, lock = false) {
  const visit = await visitOf(db, token, lock)
  if (!visit.answer) throw unknown()
  return { ...visit, answer: visit.answer }
}

type Standing = v.InferOutput<typeof publicForm>['standing']

async function standingOf({ db, now }: Ground, { form, link, answer }: Visit): Promise<Standing> {
  if (answer && answer.state !== 'begun') return answer.state === 'put aside' ? 'ended' : 'done'
  if (form.archivedAt || link?.closedAt) return 'ended'
  const until = answer?.expiresAt ?? link?.closesAt
  if (until && until <= now()) return 'over'
  if (link?.mostAnswers && (await handedInBy(db, link.id)) >= link.mostAnswers) return 'full'
  return 'open'
}

async function handedInBy(db: Db, linkId: string): Promise<number> {
  const found = one(
    await db
      .select({ count: sql<number>`count(*)::int` })
      .from(intakeAnswer)
      .where(and(eq(intakeAnswer.linkId, linkId), isNotNull(intakeAnswer.handedInAt))),
  )
  return found.count
}

/** Only what whoever answers is to see: nothing of what all get unasked, nor of what becomes of it. */
function shownOf(form: IntakeForm, outline: Outline): { form: IntakeForm; outline: Field[] } {
  const conditions = questionsOf(form).map(({ when }) => when)
  const isRead = (name: string) => conditions.some((when) => when.includes(name))
  const asked = filledFields(form)
  return {
    form: { ...form, record: null, leftOut: form.leftOut.filter(({ field }) => isRead(field)) },
    outline: outline.filter(({ name }) => asked.has(name) || isRead(name)),
  }
}

/** What the page shows: the form with what this one has answered, why it is closed, or what has become of the answer. */
export async function readPublic(app: App, token: string): Promise<v.InferOutput<typeof publicForm>> {
  const visit = await visitOf(app.db, token)
  const { form, answer, link } = visit
  const organisation = await organisationOf(app.db)
  const owner = await ownerOf(app, form)
  const standing = await standingOf(app, visit)
  // The page asks again and again while agreements are made: what their templates need is read only where it is shown.
  const outline = standing === 'open' ? (await askedOf(app, form)).outline : []
  const language = answer?.language ?? languageOf(form.content.language)
  const until = answer?.expiresAt ?? link?.closesAt
  const shown = shownOf(form.content, outline)
  return {
    standing,
    from: `${owner.name}, ${organisation.name}`,
    title: saidIn(form.content, language, textKey.title, form.content.title),
    language,
    closesDay: until ? speaks(language).day(until, organisation.timeZone) : null,
    content: standing === 'open' || standing === 'done' ? shown.form : null,
    outline: shown.outline,
    answer:
      answer && standing === 'open'
        ? {
            answers: answer.answers,
            version: answer.version,
            known:
              answer.invitedBy !== null && answer.version === 1 && Object.keys(answer.answers).length > 0,
            invited: answer.invitedBy !== null,
          }
        : null,
    after: answer && standing === 'done' ? await afterwardsOf(app, form, answer) : null,
  }
}

const HOUR = 3600

/** Counts what comes from one address; beyond the limit it is refused, with how long to wait. */
async function count(app: App, key: string, points: number, say: Say): Promise<void> {
  try {
    await limiterOf(app.pool, 'form', { points, seconds: HOUR }).consume(key)
  } catch (refused) {
    if (!(refused instanceof RateLimiterRes)) throw refused
    const minutes = Math.max(1, Math.ceil(refused.msBeforeNext / 60_000))
    throw new Refusal(429, 'Too many', say('form.busy', { minutes }))
  }
}

/** Begun answers that one address may have in an hour, for each that it may hand in: people begin more than they end. */
const BEGUN = 3
/** Files that one address may hand over in an hour. */
const FILES_AN_HOUR = 120

/** Begins an answer to an open form: from here on it has an address of its own. */
export async function begin(
  app: App,
  token: string,
  address: string,
  language: Language,
): Promise<{ token: string }> {
  const visit = await visitOf(app.db, token)
  const { link, form } = visit
  if (!link || visit.answer) throw unknown()
  const speaker = speaks(language)
  await mustBeOpen(app, visit, speaker)
  await count(app, `begin ${link.id} ${address}`, link.perHour * BEGUN, speaker.say)
  const own = newToken()
  const now = app.now()
  await app.db.insert(intakeAnswer).values({
    id: randomUUID(),
    formId: form.id,
    linkId: link.id,
    tokenHash: sha256(own),
    language,
    answers: {},
    state: 'begun',
    createdAt: now,
    changedAt: now,
  })
  return { token: own }
}

async function mustBeOpen(ground: Ground, visit: Visit, { say, day }: Speaker): Promise<void> {
  const { db } = ground
  const standing = await standingOf(ground, visit)
  if (standing === 'open') return
  if (standing === 'done') throw conflict(say('form.changed'))
  const { name, timeZone } = await organisationOf(db)
  const from = `${(await ownerOf(ground, visit.form)).name}, ${name}`
  const until = visit.answer?.expiresAt ?? visit.link?.closesAt
  throw conflict(
    standing === 'over'
      ? say('form.over', { from, day: until ? day(until, timeZone) : '' })
      : say(standing === 'full' ? 'form.full' : 'form.ended', { from }),
  )
}

interface Given {
  readonly answers: Answers
  readonly language: Language
}

/** Characters that all answers of one person may have, as they are kept. */
const LARGEST = 500_000

/** What is answered to questions of this form, with files that came with this very answer; everything else is left out. */
async function ownAnswers(
  db: Db,
  { form, answer }: Visit & { answer: AnswerRow },
  given: Given,
): Promise<Answers> {
  if (JSON.stringify(given.answers).length > LARGEST)
    throw invalid(speaks(given.language).say('form.long', { most: LARGEST }))
  const files = await db.select().from(intakeFile).where(eq(intakeFile.answerId, answer.id))
  const known = (question: string, { sha256: hash }: AnsweredFile) =>
    files.find((each) => each.question === question && each.sha256 === hash)
  return Object.fromEntries(
    questionsOf(form.content).flatMap(({ id, kind }) => {
      const said = Object.hasOwn(given.answers, id) ? given.answers[id] : undefined
      if (said === undefined) return []
      if (kind === 'value') return [[id, said] as const]
      if (!Array.isArray(said)) return []
      const own = (said as readonly AnsweredFile[]).flatMap((each) => known(id, each) ?? [])
      return own.length
        ? [[id, own.map(({ sha256: hash, name, size }) => ({ sha256: hash, name, size }))] as const]
        : []
    }),
  )
}

/** Keeps what is answered so far. */
export async function keep(app: App, token: string, given: Given): Promise<{ version: number }> {
  return transaction(app, async (work) => {
    const { db } = work
    const visit = await answerOf(db, token, true)
    await mustBeOpen(work, visit, speaks(given.language))
    const kept = one(
      await db
        .update(intakeAnswer)
        .set({
          answers: await ownAnswers(db, visit, given),
          language: given.language,
          version: sql`${intakeAnswer.version} + 1`,
          changedAt: work.now(),
        })
        .where(eq(intakeAnswer.id, visit.answer.id))
        .returning({ version: intakeAnswer.version }),
    )
    return kept
  })
}

/** What one answer may bring along over all. */
const FILE_LIMITS = { bytes: 10_000_000, files: 12, whole: 40_000_000 } as const

/** Takes in a file for a question that asks for one; what is in it has to be what its name says. */
export async function takeFile(
  app: App,
  token: string,
  { name, question, bytes, address }: { name: string; question: string; bytes: Buffer; address: string },
) {
  const visit = await answerOf(app.db, token)
  const speaker = speaks(visit.answer.language)
  const { say } = speaker
  await mustBeOpen(app, visit, speaker)
  if (!questionsOf(visit.form.content).some(({ id, kind }) => id === question && kind === 'file'))
    throw invalid(say('form.wrong.text'))
  const [, stem = '', ending = ''] = /^(.*?)(\.\w{1,8})?$/s.exec(name)!
  const clean = `${fileName(stem)}${ending}`
  if (bytes.length > FILE_LIMITS.bytes)
    throw invalid(say('form.fileLarge', { most: FILE_LIMITS.bytes / 1_000_000 }))
  const kind = kindOfFile(clean, bytes)
  if ('fault' in kind)
    throw invalid(say(kind.fault === 'kind' ? 'form.fileKind' : 'form.fileWrong', { name: clean }))
  await count(app, `file ${address}`, FILES_AN_HOUR, say)
  const stored = await app.files.put(bytes, kind.mediaType)
  await transaction(app, async ({ db, now }) => {
    const { answer } = await answerOf(db, token, true)
    const before = await db.select().from(intakeFile).where(eq(intakeFile.answerId, answer.id))
    const others = before.filter((each) => each.sha256 !== stored || each.question !== question)
    const size = others.reduce((sum, each) => sum + each.size, bytes.length)
    if (others.length >= FILE_LIMITS.files || size > FILE_LIMITS.whole)
      throw invalid(say('form.fileMany', { files: FILE_LIMITS.files, most: FILE_LIMITS.whole / 1_000_000 }))
    await db
      .insert(intakeFile)
      .values({
        answerId: answer.id,
        question,
        sha256: stored,
        name: clean,
        size: bytes.length,
        mediaType: kind.mediaType,
        at: now(),
      })
      .onConflictDoNothing()
  })
  return { sha256: stored, name: clean, size: bytes.length }
}

/** Hands the answers in: refused with each that needs another look, taken once however often it is asked. */
export async function handIn(app: App, token: string, address: string, given: Given): Promise<void> {
  const before = await answerOf(app.db, token)
  const { form, link } = before
  if (isHandedIn(before.answer)) return
  const speaker = speaks(given.language)
  const { outline } = await askedOf(app, form)
  // What is looked at is what will be kept: a file counts that came here, whatever is said of another.
  const read = readAnswers({ form: form.content, outline }, await ownAnswers(app.db, before, given), speaker)
  if (read.problems.length)
    throw invalid(
      speaker.say('form.wrongs', { count: read.problems.length }),
      read.problems.slice(0, 200).map(({ question, line, item, message }) => ({
        pointer: `/answers/${question}${line === undefined ? '' : `/${line}/${item}`}`,
        detail: message,
      })),
    )
  if (link) await count(app, `answer ${link.id} ${address}`, link.perHour, speaker.say)
  await transaction(app, async (work) => {
    const { db, enqueue } = work
    // One hand-in of a link at a time, so that none slips past the ceiling.
    if (link?.mostAnswers) await db.select().from(openLink).where(eq(openLink.id, link.id)).for('update')
    const visit = await answerOf(db, token, true)
    if (isHandedIn(visit.answer)) return
    await mustBeOpen(work, visit, speaker)
    const { to, where } = moving(intakeAnswer.state, ANSWER, 'hand in')
    await db
      .update(intakeAnswer)
      .set({
        answers: await ownAnswers(db, visit, given),
        language: given.language,
        state: to,
        handedInAt: work.now(),
        changedAt: work.now(),
        version: sql`${intakeAnswer.version} + 1`,
        address,
        ...whoAnswered(form.content, read.data, visit.answer),
      })
      .where(and(eq(intakeAnswer.id, visit.answer.id), where))
    await enqueue('make-answers', {})
  })
}

const isHandedIn = ({ state }: AnswerRow): boolean => state !== 'begun' && state !== 'put aside'

/** Who answered, as the answers say; whoever was invited is who was invited, though the address may be corrected. */
function whoAnswered(form: IntakeForm, data: RecordData, { name, email }: AnswerRow) {
  const text = (id: string | null | undefined) => {
    const value = id ? data[id] : undefined
    return typeof value === 'string' ? value : ''
  }
  return {
    name: text(form.email?.replace(/email$/, 'full_name')) || name || text(form.record?.fields['name']),
    email: text(form.email) || email,
  }
}
