import { and, eq } from 'drizzle-orm'
import type * as v from 'valibot'
import type { blankFill, handOverSchema, signingSchema } from '#contract/signing.ts'
import { valuesHash } from '#core/trail/against.ts'
import { valueAsShown, valueProblem } from '#core/agreement/blank-value.ts'
import { blanksOf } from '#core/agreement/signing.ts'
import { dayIn } from '#core/organisation/organisation.ts'
import type { Language } from '#core/languages/language.ts'
import type { BlankKind } from '#core/document/tree.ts'
import type { App, Work } from '#server/app/app.ts'
import { agreement, blankValue, party } from '#server/db/schema.ts'
import { FILLED_BY, type FilledKind } from '#core/agreement/filled.ts'
import { transaction } from '#server/app/transaction.ts'
import { invalid } from '#server/ground/problem.ts'
import { transitionAgreement } from '#server/services/agreements/agreements.ts'
import { documentLanguage } from '#server/services/agreements/parties.ts'
import { happened } from '#server/services/agreements/trail.ts'
import { lookAgain } from './clock.ts'
import { toIntroductionView } from './introduction.ts'
import { isHandedIn } from './handed-in.ts'
import { maskedBy } from './proving.ts'
import { questionsOfParty } from './questions.ts'
import { replaceSigner } from './replacing.ts'
import { inviteNext } from './sending.ts'
import { must, type Visit, visitOf, type Visitor } from './visit.ts'

type Signing = v.InferOutput<typeof signingSchema>

/** What the bearer of a link sees: only what is theirs, and nothing before they have shown who they are. Reading it notes nothing: programs that look through mail do so too. */
export async function readSigning(app: App, visitor: Visitor): Promise<Signing> {
  const visit = await visitOf(app, visitor)
  const { signer, row, document, passage, values, speaker, from } = visit
  const { standing, gates, may } = passage
  const reads = may.has('read')
  return {
    status: standing,
    language: speaker.language,
    gates: gates.map((each) => ({ ...each })),
    may: [...may],
    check: { kind: signer.check, to: may.has('prove') ? maskedBy(signer) : '' },
    kind: signer.kind,
    atDeviceOf: visit.atDeviceOf,
    name: signer.name,
    title: reads || !may.has('prove') ? row.name : '',
    documentLanguage: await documentLanguage(app.db, row),
    from,
    role: signer.label,
    signBy: row.signBy?.toISOString() ?? null,
    signByDay: row.signBy && dayIn(visit.zone, row.signBy),
    consented: signer.consentedAt !== null,
    pages: document.pages,
    introduction: reads ? toIntroductionView(row) : null,
    message: reads ? row.message : '',
    alone: reads ? signer.message : '',
    questions: reads ? await questionsOfParty(app.db, signer.id) : [],
    blanks:
      standing === 'open' && reads
        ? blanksOf(document.blanks, signer.role).map(({ role: _role, rules, options, ...blank }) => ({
            ...blank,
            rules: { ...rules, options: rules?.options && [...rules.options] },
            options: [...(options ?? [])],
          }))
        : [],
    values: (reads
      ? Object.fromEntries(values.map(({ blankId, value }) => [blankId, value]))
      : {}) as unknown as Signing['values'],
  }
}

/** That somebody has the document open before them: said by the page at their first touch, scroll or key. Noted once. */
export async function openedByHand(app: App, visitor: Visitor): Promise<void> {
  await transaction(app, async (work) => {
    const visit = await visitOf(work, visitor, true)
    if (visit.passage.standing === 'open' && visit.passage.may.has('read'))
      await noteOpened(work, visit, visitor)
  })
}

/** Noted once, with whatever a party does first. */
async function noteOpened(work: Work, { signer, row }: Visit, { address }: Visitor): Promise<void> {
  if (signer.openedAt) return
  await work.db.update(party).set({ openedAt: work.now() }).where(eq(party.id, signer.id))
  await happened(work, row.id, signer.name, {
    act: 'opened',
    detail: { role: signer.label, address },
  })
  await lookAgain(work, row.id)
}

/** The agreement whose document a link may show: none once the link's revision is void or the agreement ended unsigned. */
export async function documentOfLink(app: App, visitor: Visitor): Promise<string> {
  const visit = await visitOf(app, visitor)
  must(visit, 'read')
  return visit.row.id
}

/** The language that a party wants to be spoken to in, on the page and from now on in mails. */
export async function chooseLanguage(app: App, visitor: Visitor, language: Language): Promise<void> {
  const { signer } = await visitOf(app, visitor)
  await app.db.update(party).set({ language }).where(eq(party.id, signer.id))
}

export async function consent(app: App, visitor: Visitor): Promise<void> {
  await transaction(app, async (work) => {
    const visit = await visitOf(work, visitor, true)
    const { signer, row } = visit
    if (visit.passage.standing === 'open' && visit.passage.may.has('read') && signer.consentedAt) return
    must(visit, 'consent')
    await noteOpened(work, visit, visitor)
    await work.db.update(party).set({ consentedAt: work.now() }).where(eq(party.id, signer.id))
    await happened(work, row.id, signer.name, {
      act: 'agreed to sign electronically',
      detail: { role: signer.label, address: visitor.address },
    })
  })
}

/** Fills or (null) empties blanks. Only the bearer's own, each with a value of its kind. */
export async function fillBlanks(
  app: App,
  visitor: Visitor,
  values: v.InferOutput<typeof blankFill>['values'],
): Promise<void> {
  await transaction(app, async (work) => {
    const { db } = work
    const visit = await visitOf(work, visitor, true)
    must(visit, 'fill')
    const { signer, document } = visit
    const { say, language } = visit.speaker
    const shown = await documentLanguage(db, visit.row)
    const own = new Map(blanksOf(document.blanks, signer.role).map((blank) => [blank.id, blank]))
    for (const [blankId, typed] of Object.entries(values)) {
      const blank = own.get(blankId)
      if (!blank) throw invalid(say('refusal.notYours'))
      const value = typed && valueAsShown(blank, typed, language, shown)
      if (typed !== null && value !== null) {
        if (!fits(blank.kind, typed.kind)) throw invalid(say('refusal.kind', { label: blank.label }))
        const problem = valueProblem(blank, typed, visit.speaker)
        if (problem) throw invalid(problem, [{ pointer: `/values/${blankId}`, detail: problem }])
        if ((value.kind === 'file' || value.kind === 'picture') && !(await isHandedIn(db, signer.id, value)))
          throw invalid(say('refusal.notHanded', { label: blank.label }))
      }
      if (value === null)
        await db
          .delete(blankValue)
          .where(and(eq(blankValue.partyId, signer.id), eq(blankValue.blankId, blankId)))
      else {
        const row = { partyId: signer.id, blankId, value, filledAt: work.now() }
        await db
          .insert(blankValue)
          .values(row)
          .onConflictDoUpdate({
            target: [blankValue.partyId, blankValue.blankId],
            set: { value, filledAt: row.filledAt },
          })
      }
    }
  })
}

const fits = (kind: BlankKind, value: FilledKind): boolean => FILLED_BY[kind].includes(value)

/** Signs, or agrees. Refused while something is missing; the fault names the first. Then the next party's turn, or the end. */
export async function finish(app: App, visitor: Visitor): Promise<{ executed: boolean }> {
  return transaction(app, async (work) => {
    const { db, enqueue } = work
    const visit = await visitOf(work, visitor, true)
    const { signer, row, document, values } = visit
    const { missing, standing } = visit.passage
    const { say } = visit.speaker
    if (standing === 'open' && signer.consentedAt && missing.length)
      throw invalid(
        missing[0]!.message ??
          (missing.length === 1
            ? say('page.emptyOne', { label: missing[0]!.blank.label })
            : say('page.emptyMany', { count: missing.length, label: missing[0]!.blank.label })),
        missing.map(({ blank: { id, label }, message }) => ({
          pointer: `/values/${id}`,
          detail: message ?? say('refusal.empty', { label }),
        })),
      )
    must(visit, 'finish')
    const { address } = visitor
    await db
      .update(party)
      .set({ signedAt: work.now(), address, atDeviceOf: visit.atDeviceOf, fromForm: visit.fromForm })
      .where(eq(party.id, signer.id))
    await happened(work, row.id, signer.name, {
      act: signer.kind === 'assenter' ? 'assented' : 'signed',
      detail: {
        role: signer.label,
        address,
        revision: signer.revision,
        document: document.fileSha256,
        values: valuesHash(values),
        ...(visit.atDeviceOf ? { 'in person with': visit.atDeviceOf } : {}),
        ...(visit.fromForm ? { identity: 'what was entered in the intake form alone' } : {}),
      },
    })
    const last = await inviteNext(work, row.id)
    if (last) await enqueue('execute-agreement', { agreementId: row.id })
    await db.update(agreement).set({ changedAt: work.now() }).where(eq(agreement.id, row.id))
    return { executed: last }
  })
}

/** Refuses with a reason; nobody can sign after that, and the sender and those who were asked hear of it. */
export async function decline(app: App, visitor: Visitor, reason: string): Promise<void> {
  await transaction(app, async (work) => {
    const visit = await visitOf(work, visitor, true)
    must(visit, 'decline')
    await noteOpened(work, visit, visitor)
    const { signer, row } = visit
    const { address } = visitor
    await work.db
      .update(party)
      .set({ declinedAt: work.now(), address, reason })
      .where(eq(party.id, signer.id))
    await transitionAgreement(work, row.id, 'decline')
    await lookAgain(work, row.id)
    await happened(work, row.id, signer.name, {
      act: 'declined',
      detail: { role: signer.label, reason, address },
    })
  })
}

/** Has somebody else sign in the bearer's place, where the sender allows it; the bearer's links end. */
export async function handOver(
  app: App,
  visitor: Visitor,
  { name, email, reason }: v.InferOutput<typeof handOverSchema>,
): Promise<void> {
  await transaction(app, async (work) => {
    const visit = await visitOf(work, visitor, true)
    must(visit, 'hand over')
    await noteOpened(work, visit, visitor)
    const { signer, row } = visit
    const { address } = visitor
    await replaceSigner(
      work,
      row,
      signer,
      { name, email },
      {
        why: 'handed over',
        by: signer.name,
        act: (told) => ({ act: 'signature handed over', detail: { ...told, reason, address } }),
      },
    )
  })
}
