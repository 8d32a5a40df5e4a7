import { randomBytes, randomUUID } from 'node:crypto'
import type * as v from 'valibot'
import type { invitationWish } from '#contract/intake.ts'
import type { Person } from '#contract/person.ts'
import { type Answer, type Answers, asAnswer } from '#core/intake/answers.ts'
import { questionsOf, saidIn, textKey } from '#core/intake/form.ts'
import { readRow } from '#core/mapping/apply.ts'
import { speaks } from '#core/languages/all.ts'
import type { Outline, RecordData } from '#core/outline/field.ts'
import { type Actor, requireMay } from '#server/app/actor.ts'
import type { App, Work } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { intakeAnswer } from '#server/db/schema.ts'
import { sha256 } from '#server/files/store.ts'
import { conflict, forbidden } from '#server/ground/problem.ts'
import { enqueueEmail } from '#server/services/agreements/mails.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { recordSource } from '#server/services/records/record-sources.ts'
import { suggestedMapping } from '#server/services/sheets/mappings.ts'
import { packetTemplates } from '#server/services/templates/editions.ts'
import { askedOf, formRow, type FormRow, mustUse } from './forms.ts'
import { formUrl } from './link-list.ts'

/** What brings somebody back to their answer: 256 bit, kept as a hash alone. */
export const newToken = (): string => randomBytes(32).toString('base64url')

type Wish = v.InferOutput<typeof invitationWish>

/** Values that are known besides the record's; and of a program that asks, by which call. */
interface Asking {
  readonly given?: RecordData
  readonly called?: Partial<Pick<typeof intakeAnswer.$inferInsert, 'keyId' | 'reference' | 'asked'>>
}

/** Asks one person to answer, by a link that is theirs: what is known of them stands there already. */
export async function invite(
  app: App,
  by: Actor,
  formId: string,
  wish: Wish,
  { given = {}, called = {} }: Asking = {},
): Promise<{ id: string; url: string }> {
  await requireMay(app, by, 'runs')
  const row = await formRow(app, formId)
  // What is known of a record stands in the form: who may not read it is not sent it by a detour.
  if (wish.record && by.via?.kind === 'key' && !by.via.scopes.includes('read records'))
    throw forbidden(`The key “${by.via.name}” has not the scope “read records”.`)
  if (row.archivedAt) throw conflict('This form was put away.')
  await mustUse(app, by, row)
  const { form, outline } = await askedOf(app, row)
  const known = wish.record ? await valuesOfRecord(app, row, outline, wish.record) : {}
  const answers = knownAnswers(form, outline, { ...known, ...given }, wish)
  const token = newToken()
  const id = randomUUID()
  const now = app.now()
  const expiresAt = new Date(now.getTime() + wish.days * 86_400_000)
  await transaction(app, async (work) => {
    await work.db.insert(intakeAnswer).values({
      id,
      formId,
      ...called,
      tokenHash: sha256(token),
      name: wish.name,
      email: wish.email,
      invitedEmail: wish.email,
      invitedBy: by.id,
      recordId: wish.record,
      expiresAt,
      language: wish.language,
      answers,
      state: 'begun',
      createdAt: now,
      changedAt: now,
    })
    await writeInvitation(work, { by, form: row, wish, url: formUrl(work, token), id, expiresAt })
  })
  return { id, url: formUrl(app, token) }
}

async function writeInvitation(
  work: Work,
  invited: {
    readonly by: Person
    readonly form: FormRow
    readonly wish: Wish
    readonly url: string
    readonly id: string
    readonly expiresAt: Date
  },
): Promise<void> {
  const { by, form, wish, url, id, expiresAt } = invited
  const { say, language, day } = speaks(wish.language)
  const { name, timeZone } = await organisationOf(work.db)
  const title = saidIn(form.content, language, textKey.title, form.content.title)
  const from = `${by.name}, ${name}`
  await enqueueEmail(work, {
    key: `form-invite:${id}`,
    agreementId: null,
    to: wish.email,
    subject: say('form.mail.inviteSubject', { title }),
    body: {
      language,
      greeting: say('mail.greeting', { name: wish.name }),
      paragraphs: [
        say('form.mail.invite', { from, title }),
        saidIn(form.content, language, textKey.introduction, form.content.introduction),
        say('form.mail.until', { day: day(expiresAt, timeZone) }),
      ].filter((text) => text.trim() !== ''),
      link: { label: say('form.mail.go'), url, keep: say('form.mail.foot') },
      attachment: null,
      foot: name,
    },
  })
}

/** The values that a record gives to the form's agreements, by the mapping that is remembered for their templates. */
async function valuesOfRecord(
  app: App,
  row: FormRow,
  outline: Outline,
  recordId: string,
): Promise<RecordData> {
  const source = await recordSource(app.db, recordId)
  const [first] = row.packetId ? await packetTemplates(app, row.packetId) : row.templateIds
  const { suggested } = await suggestedMapping(app, source.columns, outline, first!)
  return readRow(outline, source.columns, suggested, source.cells).data
}

/** What stands in a form before anybody answers: values that are known, and who is asked. */
function knownAnswers(
  form: FormRow['content'],
  outline: Outline,
  values: RecordData,
  { name, email }: Pick<Wish, 'name' | 'email'>,
): Answers {
  const fields = new Map(outline.map((field) => [field.name, field]))
  return Object.fromEntries(
    questionsOf(form).flatMap(({ id, also }): [string, Answer][] => {
      const value = [id, ...also].map((name) => values[name]).find((each) => each !== undefined)
      if (value !== undefined && fields.has(id)) return [[id, asAnswer(value)]]
      if (id === form.email) return [[id, email]]
      return id === form.email?.replace(/email$/, 'full_name') ? [[id, name]] : []
    }),
  )
}
