import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import { move } from '#core/agreement/states.ts'
import type { AgreementState } from '#core/agreement/states.ts'
import { fillBundle, mergeBundle, routeBundle } from '#core/packet/bundle.ts'
import type { Bundle, MergedBundle } from '#core/packet/bundle.ts'
import { fileName } from '#core/text/pattern.ts'
import type { Rule } from '#core/routing/route.ts'
import { peopleHash } from '#core/trail/against.ts'
import { hashOf } from '#core/trail/trail.ts'
import { routingActs } from '#core/trail/acts.ts'
import type { Act, Revised } from '#core/trail/acts.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, party, revision, step } from '#server/db/schema.ts'
import type { Work } from '#server/app/transaction.ts'
import { conflict, invalid } from '#server/ground/problem.ts'
import { drawBundle } from '#server/services/templates/drawing.ts'
import type { ComposedBundle } from '#server/services/templates/drawing.ts'
import { happened } from '#server/services/agreements/trail.ts'

type Agreement = typeof agreement.$inferSelect

/** A document drawn for an agreement, and what the agreement says of itself with it. */
export interface Drawn {
  readonly bundle: Bundle
  readonly merged: MergedBundle
  readonly composed: ComposedBundle
  readonly rules: readonly Rule[]
  readonly author: string
  readonly content: Pick<
    Agreement,
    'name' | 'fileName' | 'data' | 'subject' | 'message' | 'wording' | 'language' | 'copies' | 'extra'
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
    language,
    copies,
    extra,
  }
}

/** Merges and draws an agreement's document, and says what it says of itself. `from` is its data and what goes along. */
export async function drawAgreement(
  app: App,
  db: Db,
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
  const composed = await drawBundle(app, db, bundle, merged.documents, { proof: false, at })
  const content = contentOf(bundle, merged, number, files, from)
  return { bundle, merged, composed, rules, author, content }
}

/** Why an agreement cannot get a next revision now; null where it can. `what` is what stays as it is. */
export function revisionRefusal(
  { number, state }: Pick<Agreement, 'number' | 'state'>,
  what: 'it' | 'its wording',
): string | null {
  if (move(state, 'revise', { openSteps: 0, unsigned: 1 }).ok) return null
  return state === 'out'
    ? `${number} is out for signature; it has to be taken back first.`
    : `${number} is ${state}; ${what} stays as it is.`
}

/** One revision of an agreement, drawn. */
export interface DrawnRevision {
  readonly agreementId: string
  readonly number: number
  readonly drawn: Drawn
}

/** Stores the documents of revisions and their parties; answers the documents' SHA-256, in order. */
export async function keepRevisions(
  app: App,
  db: Db,
  revisions: readonly DrawnRevision[],
): Promise<readonly string[]> {
  const hashes = await app.files.putAll(
    db,
    revisions.map(({ drawn }) => drawn.composed.pdf),
    'application/pdf',
    app.now(),
  )
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
  const parties = revisions.flatMap(({ agreementId, number, drawn }) =>
    drawn.merged.people.map(({ role, label, order, name, email, title }) => ({
      id: randomUUID(),
      agreementId,
      revision: number,
      role,
      label,
      order,
      name,
      email,
      title,
    })),
  )
  if (parties.length) await db.insert(party).values(parties)
  return hashes
}

/** What the rules want of a draft: the state it comes to, the approvals it waits for, and what the trail says of it. */
export interface Approval {
  readonly state: AgreementState
  readonly steps: readonly { readonly approver: string; readonly reason: string }[]
  readonly acts: readonly Act[]
  readonly at: Date
}

/** The approvals that the rules want of a document; without any it is cleared, and the trail says so. */
export function approvalOf(
  { bundle, merged, rules, content }: Drawn,
  changedByHand: boolean,
  at: Date,
): Approval {
  const routed = routeBundle(bundle, rules, content.data, { changed_by_hand: changedByHand })
  if (!routed.ok) throw conflict(routed.problem)
  const { steps } = routed
  const moved = move('draft', 'route', { openSteps: steps.length, unsigned: merged.people.length })
  if (!moved.ok) throw conflict(moved.problem)
  return {
    state: moved.state,
    steps,
    acts: routingActs(steps),
    at,
  }
}

/** What the trail keeps of what a revision was made of, so that a change of the record shows. */
export const proofOf = ({ merged, content }: Drawn) => ({
  people: peopleHash(merged.people),
  data: hashOf(content.data),
})

/** Keeps the approvals that revisions wait for. */
export async function keepSteps(
  db: Db,
  revisions: readonly {
    readonly agreementId: string
    readonly number: number
    readonly approval: Approval
  }[],
): Promise<void> {
  const steps = revisions.flatMap(({ agreementId, number, approval }) =>
    approval.steps.map(({ approver, reason }) => ({
      id: randomUUID(),
      agreementId,
      revision: number,
      round: 1,
      approver,
      reason,
      state: 'waiting' as const,
      since: approval.at,
    })),
  )
  if (steps.length) await db.insert(step).values(steps)
}

/** The next revision of an agreement that has not gone out: a new document under the same number, approved anew. */
export async function addRevision(
  app: App,
  work: Work,
  made: Agreement,
  drawn: Drawn,
  told: {
    /** What happened, of what the trail keeps of the revision. */
    readonly act: (revised: Revised) => Act
    readonly changedByHand: boolean
    /** Whoever has a part in what it says now. */
    readonly shapedBy: readonly string[]
  },
): Promise<void> {
  const revise = move(made.state, 'revise', { openSteps: 0, unsigned: drawn.merged.people.length })
  if (!revise.ok) throw conflict(revise.problem)
  const { db } = work
  const number = made.revision + 1
  const now = app.now()
  const approval = approvalOf(drawn, told.changedByHand, now)
  const [fileSha256] = await keepRevisions(app, db, [{ agreementId: made.id, number, drawn }])
  await db
    .update(agreement)
    .set({
      ...drawn.content,
      revision: number,
      state: approval.state,
      changedAt: now,
      shapedBy: [...new Set([...made.shapedBy, ...told.shapedBy])],
    })
    .where(eq(agreement.id, made.id))
  await keepSteps(db, [{ agreementId: made.id, number, approval }])
  const revised = { revision: number, document: fileSha256!, ...proofOf(drawn) }
  await happened(app, work, made.id, drawn.author, told.act(revised))
  await happened(app, work, made.id, null, ...approval.acts)
}
