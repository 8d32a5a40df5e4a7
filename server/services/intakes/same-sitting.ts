import { eq, inArray, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { publicForm } from '#contract/intake.ts'
import { hasToAct, whoseTurn } from '#core/ceremony/parties.ts'
import { respondentRole } from '#core/intake/respondent.ts'
import { speaks } from '#core/languages/all.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import type { Db } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import {
  agreement,
  edition,
  intakeAnswer,
  intakeForm,
  organisation,
  person,
  record,
} from '#server/db/schema.ts'
import { sha256 } from '#server/files/store.ts'
import { conflict, notFound } from '#server/ground/problem.ts'
import { partiesOf } from '#server/services/agreements/parties.ts'
import { bundleOf } from '#server/services/templates/editions.ts'
import { newLink } from '#server/services/signing/links.ts'
import { signingUrl } from '#server/services/signing/readers.ts'
import type { FormRow } from './forms.ts'

// From a form straight on to signing: for whoever filled it, in the same sitting, and in the one role that the form has for
// them. What somebody says of themselves proves nothing about anybody else: an address that is known here as another's gets
// its link by mail, as if there had been no form.

type AnswerRow = typeof intakeAnswer.$inferSelect
type After = NonNullable<v.InferOutput<typeof publicForm>['after']>

/** Milliseconds after handing in that it still counts as the same sitting. */
const SITTING = 2 * 3_600_000
/** And within which what was made is still on its way out. */
const ON_ITS_WAY = 2 * 60_000

const same = (a: string, b: string): boolean => a.trim().toLowerCase() === b.trim().toLowerCase()

/** The agreements of an answer, in order, with the party that whoever answered is. */
async function documentsOf(app: App, { content }: FormRow, answer: AnswerRow) {
  const { agreementIds, email } = answer
  if (agreementIds.length === 0) return []
  const rows = await app.db
    .select()
    .from(agreement)
    .where(inArray(agreement.id, [...agreementIds]))
  const found = agreementIds.flatMap((id) => rows.find((row) => row.id === id) ?? [])
  const own = email !== '' && !(await isAnothers(app.db, answer))
  return Promise.all(
    found.map(async (row) => {
      const parties = await partiesOf(app.db, row)
      const { parts } = await bundleOf(app, row)
      const roles = new Set(parts.map((part) => respondentRole(content, part.content.roles)))
      // Nobody signs for two: an address that stands twice in a document is written to.
      const having = parties.filter((party) => hasToAct(party) && same(party.email, email))
      const them = own && having.length === 1 && roles.has(having[0]!.role) ? having[0]! : null
      return {
        row,
        /** Only where it was sent, and to them: theirs is the turn, and they were written to as well. */
        mine: row.state === 'out' && them?.invitedAt && whoseTurn(parties).includes(them) ? them : null,
        signed: them !== null && them.signedAt !== null,
      }
    }),
  )
}

/**
 * Whether the address that somebody gave as theirs is known as another's: of people and standing signatories here, or of a
 * customer or contact other than the one that the answer made, or that was asked about. The address that an invitation went
 * to is proved by its link; corrected, it is as unproved as any other.
 */
async function isAnothers(
  db: Db,
  { email, outcome, recordId, invitedBy, invitedEmail }: AnswerRow,
): Promise<boolean> {
  // A name that is known here proves nothing of whoever gives it.
  if (!invitedBy && recordId && outcome !== 'new') return true
  const own = invitedBy ? same(invitedEmail, email) : outcome === 'new'
  const { rows } = await db.execute<{ known: boolean }>(sql`
    select exists (select from ${person} where lower(email) = lower(${email}))
      or exists (select from ${organisation} where lower(sender) = lower(${email}))
      or exists (
        select from ${edition}, jsonb_array_elements(${edition.content}->'roles') as role
        where role->'fill'->>'rule' = 'standing person' and lower(role->'fill'->>'email') = lower(${email}))
      or exists (
        select from ${record}, jsonb_each_text(${record.data}) as said
        where ${record.kind} <> 'price' and lower(trim(said.value)) = lower(${email})
          ${own && recordId ? sql`and ${record.id} <> ${recordId}` : sql``}) as known`)
  return rows[0]!.known
}

/**
 * Whether what was made may go out unseen. Not where a stranger gave the name of a customer who is known, and an address that
 * is not that customer's: somebody here looks first.
 */
export async function goesUnseen(
  db: Db,
  { invitedBy, email, recordId, outcome }: Pick<AnswerRow, 'invitedBy' | 'email' | 'recordId' | 'outcome'>,
): Promise<boolean> {
  if (invitedBy !== null || recordId === null || outcome === 'new') return true
  const known = one(await db.select({ data: record.data }).from(record).where(eq(record.id, recordId)))
  return Object.values(known.data).some((value) => typeof value === 'string' && same(value, email))
}

/** What has become of an answer, as far as whoever gave it is to know. */
export async function afterwardsOf(app: App, form: FormRow, answer: AnswerRow): Promise<After> {
  const { content } = form
  const documents = await documentsOf(app, form, answer)
  const since = app.now().getTime() - (answer.handedInAt?.getTime() ?? 0)
  const goes = content.afterwards !== 'wait'
  const making =
    answer.state === 'handed in' ||
    (goes &&
      since < ON_ITS_WAY &&
      documents.some(({ row }) => row.state === 'cleared') &&
      (await goesUnseen(app.db, answer)))
  const signs = content.afterwards === 'sign' && since < SITTING
  const asked = documents.some(({ mine }) => mine !== null)
  const looked =
    answer.state === 'needs a hand' ||
    documents.some(({ row }) => ['draft', 'in approval', 'returned', 'cleared'].includes(row.state))
  return {
    email: answer.email,
    making: making && since < SITTING,
    next: !goes ? 'nothing' : signs && asked ? 'sign' : looked ? 'hand' : asked ? 'goes' : 'nothing',
    documents: goes
      ? documents.map(({ row, mine, signed }) => ({
          title: row.name,
          signed,
          mine: signs && mine !== null,
        }))
      : [],
  }
}

/** A way to sign one of the documents, for the browser that handed the answers in; it says of itself where it comes from. */
export async function signInSitting(app: App, token: string, document: number): Promise<{ url: string }> {
  const [answer] = await app.db
    .select()
    .from(intakeAnswer)
    .where(eq(intakeAnswer.tokenHash, sha256(token)))
  if (!answer) throw notFound('form')
  const form = one(await app.db.select().from(intakeForm).where(eq(intakeForm.id, answer.formId)))
  const { say } = speaks(answer.language)
  if (form.content.afterwards !== 'sign' || answer.state !== 'made') throw conflict(say('refusal.mayNot'))
  if (app.now().getTime() - answer.handedInAt!.getTime() > SITTING) throw conflict(say('form.late'))
  const found = (await documentsOf(app, form, answer))[document]
  if (!found?.mine) throw conflict(say('refusal.mayNot'))
  const party = found.mine
  const own = await transaction(app, (work) => newLink(work.db, party.id, work.now(), { fromForm: true }))
  return { url: `${signingUrl(app, own)}#form=${token}` }
}
