import { randomUUID } from 'node:crypto'
import { and, eq, inArray, ne, sql } from 'drizzle-orm'
import { alias } from 'drizzle-orm/pg-core'
import { move } from '#core/agreement/states.ts'
import { type Language, languageOf } from '#core/languages/language.ts'
import { readLanguage } from '#core/run/row-extras.ts'
import { type Bundle, fillBundle, mergeBundle, type MergedBundle } from '#core/packet/bundle.ts'
import { fileName } from '#core/text/pattern.ts'
import { type AgreementRules, decidedOf } from '#core/rules/agreement-facts.ts'
import { describeRow, routeOf, type RouteStep } from '#core/routing/route.ts'
import { blanksHash, peopleHash, shapedHash } from '#core/trail/against.ts'
import { hashOf } from '#core/trail/trail.ts'
import type { Act, Revised } from '#core/trail/acts.ts'
import type { App, Work, Ground } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import { agreement, party, record, revision } from '#server/db/schema.ts'
import type { StoredFile } from '#server/files/store.ts'
import { conflict, invalid } from '#server/ground/problem.ts'
import { type ComposedBundle, drawBundle } from '#server/services/templates/drawing.ts'
import { happened } from '#server/services/agreements/trail.ts'
import { anew } from '#server/services/agreements/anew.ts'
import { ownersOf, putAgain } from '#server/services/agreements/routes.ts'

type Agreement = typeof agreement.$inferSelect

/** Of a contact or deal, the customer it belongs to. */
const customers = alias(record, 'customers')

/** A document drawn for an agreement, and what the agreement says of itself with it. */
export interface Drawn {
  readonly bundle: Bundle
  readonly merged: MergedBundle
  readonly composed: ComposedBundle
  /** Its document, and files that go along, as they are stored; recorded once it is kept. */
  readonly stored: readonly [StoredFile, ...StoredFile[]]
  readonly rules: AgreementRules
  readonly author: string
  readonly content: Pick<
    Agreement,
    | 'name'
    | 'fileName'
    | 'data'
    | 'subject'
    | 'message'
    | 'wording'
    | 'language'
    | 'copies'
    | 'extra'
    | 'notice'
  >
}

/** What an agreement says of itself, by the patterns of its wording; `files` is the pattern its run has for file names. */
function contentOf(
  bundle: Bundle,
  merged: MergedBundle,
  number: string,
  files: string | null | undefined,
  from: Pick<Agreement, 'data' | 'language' | 'copies' | 'extra'>,
): Drawn['content'] {
  const { data, language, copies, extra } = from
  const { sending } = bundle.parts[0].content
  const say = (pattern: string) => fillBundle(bundle, data, pattern, number)
  return {
    name: say(sending.agreementName),
    fileName: fileName(say(files || sending.fileName)),
    data,
    subject: say(sending.subject),
    message: say(sending.message),
    wording: merged.wording,
    notice: sending.notice ?? null,
    language,
    copies,
    extra,
  }
}

/**
 * Merges and draws an agreement's document, stores it, and says what it says of itself. Outside any transaction. `from` is its data
 * and what goes along.
 */
export async function drawAgreement(
  app: App,
  bundle: Bundle,
  number: string,
  from: Parameters<typeof contentOf>[4],
  terms: Pick<Drawn, 'rules' | 'author'> & {
    /** Pattern of file names; null: the template's. */
    readonly files: string | null
    /** The document's date. */
    readonly at: Date
  },
): Promise<Drawn> {
  const { rules, author, files, at } = terms
  const merged = mergeBundle(bundle, from.data, number)
  if (merged.problems.length)
    throw invalid(`This customer’s data does not fit the wording: ${merged.problems[0]!.message}`)
  const composed = await drawBundle(app, bundle, merged.documents, { proof: false, at })
  const content = contentOf(bundle, merged, number, files, from)
  const document = one(await app.files.store([composed.pdf], 'application/pdf'))
  return { bundle, merged, composed, stored: [document], rules, author, content }
}

/** Why an agreement cannot get a next revision now; null where it can. `what` is what stays as it is. */
export function revisionRefusal(
  { number, state }: Pick<Agreement, 'number' | 'state'>,
  what: 'it' | 'its wording',
): string | null {
  if (move(state, 'revise', { openSteps: 0, unsigned: 1 }).ok) return null
  return state === 'out'
    ? `${number} is out to sign; it has to be taken back first.`
    : `${number} is ${state}; ${what} stays as it is.`
}

/**
 * The language a party is spoken to in: whoever comes from the record, or is asked for, in the record's, else the agreement's; null:
 * those of the house, in the house's.
 */
function languageFor({ bundle, content }: Drawn, role: string, ofRecord: Language | null): Language | null {
  const [key] = role.split('.')
  const known = bundle.parts.flatMap(({ content: { roles } }) => roles).find((each) => each.key === key)
  const rule = known?.fill.rule
  if (rule === 'standing person' || rule === 'whoever sends') return null
  return languageOf(content.language ?? ofRecord ?? bundle.parts[0].content.language)
}

/** One revision of an agreement, drawn. */
export interface DrawnRevision {
  readonly agreementId: string
  readonly number: number
  readonly drawn: Drawn
}

/** Keeps revisions with their documents and parties; answers the documents' SHA-256, in order. */
export async function keepRevisions(
  { db, files }: Ground,
  revisions: readonly DrawnRevision[],
): Promise<readonly string[]> {
  const hashes = revisions.map(({ drawn }) => drawn.stored[0].sha256)
  await files.record(revisions.flatMap(({ drawn }) => drawn.stored))
  await db.insert(revision).values(
    revisions.map(({ agreementId, number, drawn: { composed } }, i) => ({
      agreementId,
      number,
      fileSha256: hashes[i]!,
      pages: composed.pages,
      blanks: composed.blanks,
      parts: composed.parts,
    })),
  )
  const languages = await recordLanguages(db, revisions)
  const parties = revisions.flatMap(({ agreementId, number, drawn }) =>
    drawn.merged.people.map(({ role, label, order, name, email, title, phone }) => ({
      id: randomUUID(),
      agreementId,
      revision: number,
      role,
      label,
      order,
      name,
      email,
      title,
      phone,
      language: languageFor(drawn, role, languages.get(agreementId) ?? null),
      kind: drawn.content.notice ? ('copy' as const) : ('signer' as const),
    })),
  )
  if (parties.length) await db.insert(party).values(parties)
  return hashes
}

/** The languages of the records that agreements are about, by the agreements' ids: as the record book names them. */
async function recordLanguages(
  db: Db,
  revisions: readonly DrawnRevision[],
): Promise<ReadonlyMap<string, Language>> {
  const rows = await db
    .select({ id: agreement.id, own: record.data, customer: customers.data })
    .from(agreement)
    .innerJoin(record, eq(record.id, agreement.recordId))
    .leftJoin(customers, eq(customers.id, record.customerId))
    .where(
      inArray(
        agreement.id,
        revisions.map(({ agreementId }) => agreementId),
      ),
    )
  return new Map(
    rows.flatMap(({ id, own, customer }): [string, Language][] => {
      const said = own['language'] ?? customer?.['language']
      const tag = typeof said === 'string' ? readLanguage(said) : null
      return tag ? [[id, languageOf(tag)]] : []
    }),
  )
}

/** What an approval rests on besides the values that rules ask for. */
export interface RestsOn {
  /** Whoever is responsible for its record. */
  readonly owner: string | null
  /** Clauses changed by hand; null: the wording is its template's. */
  readonly changedClauses: readonly string[] | null
}

/** What the rules want of a document. */
export interface Approval {
  readonly steps: readonly RouteStep[]
  readonly signDays: number | null
  /** Addresses that rules send a copy to. */
  readonly copies: readonly string[]
}

/** The approvals that the rules want of a document. What they refuse is not made. */
export function approvalOf(
  { bundle, merged, rules, content }: Pick<Drawn, 'bundle' | 'merged' | 'rules' | 'content'>,
  on: RestsOn,
): Approval {
  const facts = { ...rules.facts, language: content.language, changedClauses: on.changedClauses }
  const routed = routeOf(rules, decidedOf(bundle, content.data, facts, merged.wording), {
    owner: on.owner,
    data: () => hashOf(content.data),
    words: () => wordsPrint(bundle, on),
  })
  if (!routed.ok) throw conflict(routed.problem)
  const { steps, refusals, signBy, copies } = routed.route
  if (refusals.length) throw conflict(`Not to be made: ${refusals[0]!.says} (${describeRow(refusals[0]!)})`)
  return { steps, signDays: signBy, copies }
}

/** A print of the words as they stand before they are merged: the templates' own, or as somebody changed them. */
const wordsPrint = ({ parts }: Bundle, { changedClauses }: RestsOn): string =>
  changedClauses === null
    ? hashOf(parts.map(({ content }) => content.title))
    : hashOf(parts[0].content.document as unknown as Parameters<typeof hashOf>[0])

/** What the trail keeps of what a revision was made of, so that a change of the record shows. */
export const proofOf = ({ merged, content, composed }: Drawn, shapedBy: readonly string[]) => ({
  blanks: blanksHash(composed.blanks),
  shaped: shapedHash(shapedBy),
  people: peopleHash(merged.people),
  data: hashOf(content.data),
})

/** What was set about a party stays with whoever has its role on the next revision; who they are comes from what it is made of. */
async function keepSettings(db: Db, agreementId: string, from: number, to: number): Promise<void> {
  await db.execute(sql`
    update ${party} as now set kind = before.kind, "order" = before."order", language = before.language, link_by = before.link_by,
      "check" = before."check", code_hash = before.code_hash, message = before.message, copy_now = before.copy_now,
      may_decline = before.may_decline, may_hand_over = before.may_hand_over
    from ${party} as before
    where now.agreement_id = ${agreementId} and now.revision = ${to}
      and before.agreement_id = ${agreementId} and before.revision = ${from} and before.role = now.role`)
  const copies = await db
    .select()
    .from(party)
    .where(and(eq(party.agreementId, agreementId), eq(party.revision, from), ne(party.kind, 'signer')))
  if (copies.length)
    await db
      .insert(party)
      .values(copies.map((each) => anew(each, to)))
      .onConflictDoNothing()
}

/** The next revision of an agreement that has not gone out: a new document under the same number, approved anew. */
export async function addRevision(
  work: Work,
  made: Agreement,
  drawn: Drawn,
  told: {
    /** What happened, of what the trail keeps of the revision. */
    readonly act: (revised: Revised) => Act
    /** A wording of its own, or null for its template's; undefined: as it was. */
    readonly content?: Agreement['content']
    readonly changedClauses: readonly string[] | null
    /** Whoever has a part in what it says now. */
    readonly shapedBy: readonly string[]
  },
): Promise<void> {
  const revise = move(made.state, 'revise', { openSteps: 0, unsigned: drawn.merged.people.length })
  if (!revise.ok) throw conflict(revise.problem)
  const { db } = work
  const number = made.revision + 1
  const now = work.now()
  const owner = (await ownersOf(db, [made])).get(made.id) ?? null
  const approval = approvalOf(drawn, { owner, changedClauses: told.changedClauses })
  const shapedBy = [...new Set([...made.shapedBy, ...told.shapedBy])]
  const fileSha256 = one(await keepRevisions(work, [{ agreementId: made.id, number, drawn }]))
  await keepSettings(db, made.id, made.revision, number)
  await db
    .update(agreement)
    .set({
      ...drawn.content,
      ...(told.content === undefined ? {} : { content: told.content }),
      copies: [...new Set([...drawn.content.copies, ...approval.copies])],
      signDays: approval.signDays,
      revision: number,
      state: 'draft',
      goesAt: null,
      goesBy: null,
      changedAt: now,
      shapedBy,
    })
    .where(eq(agreement.id, made.id))
  const parties = await db
    .select()
    .from(party)
    .where(and(eq(party.agreementId, made.id), eq(party.revision, number)))
  const revised = {
    revision: number,
    document: fileSha256,
    ...proofOf(drawn, shapedBy),
    // Those too who sign nothing and are carried over.
    people: peopleHash(parties),
  }
  await happened(work, made.id, drawn.author, told.act(revised))
  await putAgain(
    work,
    { ...made, shapedBy },
    { revision: number, steps: approval.steps, directory: drawn.rules.directory },
  )
}
