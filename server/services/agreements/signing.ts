import { and, eq, inArray, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { blankFill, signingSchema } from '#contract/agreement.ts'
import { valuesHash } from '#core/trail/against.ts'
import { fileName } from '#core/text/pattern.ts'
import { valueProblem } from '#core/agreement/blank-value.ts'
import { blanksOf, missingBlanks, unfinished, whoseTurn } from '#core/agreement/signing.ts'
import type { BlankKind } from '#core/document/tree.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, blankValue, handedFile, party, person, revision } from '#server/db/schema.ts'
import type { BlankValue } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { sha256 } from '#server/files/store.ts'
import { conflict, invalid, Refusal } from '#server/ground/problem.ts'
import { makeMove } from './agreements.ts'
import { inviteNext } from './sending.ts'
import { happened } from './trail.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'

type Signing = v.InferOutput<typeof signingSchema>

const unknownLink = () =>
  new Refusal(
    404,
    'Link not known',
    'This link is not known. It may be cut off: open it from the mail again, or copy it whole.',
  )

async function find(db: Db, token: string, lock = false) {
  const byToken = db
    .select()
    .from(party)
    .where(eq(party.tokenHash, sha256(token)))
  const [signer] = await byToken
  if (!signer) throw unknownLink()
  const byId = db.select().from(agreement).where(eq(agreement.id, signer.agreementId))
  const [row] = await (lock ? byId.for('update') : byId)
  // After the lock, so that what another act changed meanwhile is seen.
  const [now] = await byToken
  const parties = await db
    .select()
    .from(party)
    .where(and(eq(party.agreementId, row!.id), eq(party.revision, signer.revision)))
  const [document] = await db
    .select()
    .from(revision)
    .where(and(eq(revision.agreementId, row!.id), eq(revision.number, signer.revision)))
  return { signer: now!, row: row!, parties, document: document! }
}
type Link = Awaited<ReturnType<typeof find>>

function status({ signer, row, parties }: Link): Signing['status'] {
  if (signer.revision !== row.revision || row.state === 'draft') return 'revised'
  if (
    row.state === 'executed' ||
    row.state === 'declined' ||
    row.state === 'lapsed' ||
    row.state === 'withdrawn'
  )
    return row.state
  if (signer.signedAt) return 'signed'
  const turn = whoseTurn(parties.map((each) => ({ ...each, signedAt: each.signedAt?.toISOString() ?? null })))
  return row.state === 'out' && turn.some(({ id }) => id === signer.id) ? 'open' : 'waiting'
}

const closed: Record<Exclude<Signing['status'], 'open'>, string> = {
  signed: 'You have signed this agreement already. This link has been used.',
  waiting: 'It is not your turn yet.',
  executed: 'This agreement is signed by everyone and finished.',
  declined: 'Somebody refused to sign; the agreement has ended.',
  lapsed: 'The date to sign by has passed.',
  withdrawn: 'The sender has ended this agreement.',
  revised: 'This agreement is being revised. A new link will come with the new text.',
}

function mustBeOpen(link: Link): void {
  const found = status(link)
  if (found !== 'open') throw conflict(closed[found])
}

const valuesOf = async (db: Db, partyIds: readonly string[]) =>
  partyIds.length
    ? db
        .select()
        .from(blankValue)
        .where(inArray(blankValue.partyId, [...partyIds]))
    : []

/** What the bearer of a link sees: only their own blanks. Opening it is noted once. */
export async function readSigning(app: App, token: string, address: string): Promise<Signing> {
  const link = await find(app.db, token)
  const { signer, row, document } = link
  const now = status(link)
  if (now === 'open' && !signer.openedAt)
    await transaction(app, async (work) => {
      const opened = await work.db
        .update(party)
        .set({ openedAt: app.now() })
        .where(and(eq(party.id, signer.id), sql`${party.openedAt} is null`))
        .returning({ id: party.id })
      if (opened.length)
        await happened(app, work, row.id, signer.name, {
          act: 'opened',
          detail: { role: signer.label, address },
        })
    })
  const values = await valuesOf(app.db, [signer.id])
  const [sender] = await app.db.select({ name: person.name }).from(person).where(eq(person.id, row.createdBy))
  return {
    status: now,
    name: signer.name,
    title: row.name,
    from: `${sender?.name ?? ''}, ${(await organisationOf(app.db)).name}`,
    role: signer.label,
    signBy: row.signBy?.toISOString() ?? null,
    consented: signer.consentedAt !== null,
    pages: document.pages,
    blanks:
      now === 'open'
        ? blanksOf(document.blanks, signer.role).map(({ role: _role, rules, options, ...blank }) => ({
            ...blank,
            rules: { ...rules, options: rules?.options && [...rules.options] },
            options: [...(options ?? [])],
          }))
        : [],
    values: Object.fromEntries(
      values.map(({ blankId, value }) => [blankId, value]),
    ) as unknown as Signing['values'],
  }
}

/** The agreement whose document a link may show: none once the link's revision is void or the agreement ended unsigned. */
export async function documentOfLink(app: App, token: string): Promise<string> {
  const link = await find(app.db, token)
  const found = status(link)
  if (found === 'revised' || found === 'withdrawn' || found === 'lapsed') throw conflict(closed[found])
  return link.row.id
}

export async function consent(app: App, token: string, address: string): Promise<void> {
  await transaction(app, async (work) => {
    const link = await find(work.db, token, true)
    mustBeOpen(link)
    if (link.signer.consentedAt) return
    await work.db.update(party).set({ consentedAt: app.now() }).where(eq(party.id, link.signer.id))
    await happened(app, work, link.row.id, link.signer.name, {
      act: 'agreed to sign electronically',
      detail: { role: link.signer.label, address },
    })
  })
}

/** Fills or (null) empties blanks. Only the bearer's own, each with a value of its kind. */
export async function fillBlanks(
  app: App,
  token: string,
  values: v.InferOutput<typeof blankFill>['values'],
): Promise<void> {
  await transaction(app, async ({ db }) => {
    const link = await find(db, token, true)
    mustBeOpen(link)
    if (!link.signer.consentedAt) throw conflict('Agree to signing electronically first.')
    const own = new Map(blanksOf(link.document.blanks, link.signer.role).map((blank) => [blank.id, blank]))
    for (const [blankId, value] of Object.entries(values)) {
      const blank = own.get(blankId)
      if (!blank) throw invalid('This blank is not yours to fill.')
      if (value !== null) {
        if (!fits(blank.kind, value.kind)) throw invalid(`“${blank.label}” takes something else.`)
        const problem = valueProblem(blank, value)
        if (problem) throw invalid(problem, [{ pointer: `/values/${blankId}`, detail: problem }])
        if (value.kind === 'file' && !(await isHandedIn(db, link.signer.id, value)))
          throw invalid(`“${blank.label}”: this file has not been handed in.`)
      }
      if (value === null)
        await db
          .delete(blankValue)
          .where(and(eq(blankValue.partyId, link.signer.id), eq(blankValue.blankId, blankId)))
      else {
        const row = { partyId: link.signer.id, blankId, value, filledAt: app.now() }
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

const KINDS: Record<BlankKind, readonly BlankValue['kind'][]> = {
  signature: ['typed', 'drawn'],
  initials: ['typed', 'drawn'],
  date: [],
  name: ['text'],
  title: ['text'],
  company: ['text'],
  text: ['text'],
  number: ['text'],
  tick: ['tick'],
  choice: ['choice'],
  file: ['file'],
}
const fits = (kind: BlankKind, value: BlankValue['kind']): boolean => KINDS[kind].includes(value)

/** Takes in a file that a signer hands over; it belongs to a blank once that is filled with it. */
export async function receiveFile(app: App, token: string, name: string, bytes: Uint8Array) {
  const link = await find(app.db, token)
  mustBeOpen(link)
  if (!link.signer.consentedAt) throw conflict('Agree to signing electronically first.')
  if (!blanksOf(link.document.blanks, link.signer.role).some(({ kind }) => kind === 'file'))
    throw invalid('Nothing here asks for a file.')
  if (bytes.length > FILE_LIMITS.bytes)
    throw invalid(`The file is larger than ${FILE_LIMITS.bytes / 1_000_000} MB, the most that is taken here.`)
  const clean = fileNameOf(name)
  const stored = await app.files.put(app.db, bytes, HANDED_IN, app.now())
  await transaction(app, async ({ db }) => {
    // One hand-in of a signer at a time, so that none slips past the count.
    await db.select({ id: party.id }).from(party).where(eq(party.id, link.signer.id)).for('update')
    const before = await db.select().from(handedFile).where(eq(handedFile.partyId, link.signer.id))
    const others = before.filter(({ sha256: hash }) => hash !== stored)
    const size = others.reduce((sum, each) => sum + each.size, bytes.length)
    if (others.length >= FILE_LIMITS.files || size > FILE_LIMITS.whole)
      throw invalid(
        `${FILE_LIMITS.files} files of ${FILE_LIMITS.whole / 1_000_000} MB together are the most one signer can hand in.`,
      )
    await db
      .insert(handedFile)
      .values({ partyId: link.signer.id, sha256: stored, name: clean, size: bytes.length, at: app.now() })
      .onConflictDoUpdate({ target: [handedFile.partyId, handedFile.sha256], set: { name: clean } })
  })
  return { name: clean, sha256: stored, size: bytes.length }
}

/** What one signer may hand in over all, those that they took back again included. */
const FILE_LIMITS = { bytes: 10_000_000, files: 12, whole: 40_000_000 } as const

/** Marks files in the store that came from signers; what nothing refers to any more of these is cleaned up. */
export const HANDED_IN = 'application/x-handed-in'

function fileNameOf(name: string): string {
  const parts = /^(.*?)(\.\w{1,8})?$/.exec(name.slice(0, 200))!
  return `${fileName(parts[1]!)}${parts[2] ?? ''}`
}

/** Whether a signer has handed in this very file: nobody can fill a blank with what is somebody else's. */
async function isHandedIn(
  db: Db,
  partyId: string,
  { sha256: hash, size }: { readonly sha256: string; readonly size: number },
): Promise<boolean> {
  const [found] = await db
    .select({ size: handedFile.size })
    .from(handedFile)
    .where(and(eq(handedFile.partyId, partyId), eq(handedFile.sha256, hash)))
  return found?.size === size
}

/** Signs. Refused while a required blank is empty; the fault names the first one. Then the next party's turn, or the end. */
export async function finish(app: App, token: string, address: string): Promise<{ executed: boolean }> {
  return transaction(app, async (work) => {
    const { db, enqueue } = work
    const link = await find(db, token, true)
    mustBeOpen(link)
    const { signer, row, document } = link
    if (!signer.consentedAt) throw conflict('Agree to signing electronically first.')
    const filled = await valuesOf(db, [signer.id])
    const missing = missingBlanks(document.blanks, signer.role, new Set(filled.map(({ blankId }) => blankId)))
    if (missing.length)
      throw invalid(
        missing.length === 1
          ? `“${missing[0]!.label}” is still empty.`
          : `${missing.length} places are still empty; the first is “${missing[0]!.label}”.`,
        missing.map(({ id, label }) => ({ pointer: `/values/${id}`, detail: `${label} is empty` })),
      )
    const [open] = unfinished(
      blanksOf(document.blanks, signer.role),
      new Map(filled.map(({ blankId, value }) => [blankId, value])),
    )
    if (open) throw invalid(open.message, [{ pointer: `/values/${open.blank.id}`, detail: open.message }])
    await db.update(party).set({ signedAt: app.now(), address }).where(eq(party.id, signer.id))
    await happened(app, work, row.id, signer.name, {
      act: 'signed',
      detail: {
        role: signer.label,
        address,
        revision: signer.revision,
        document: document.fileSha256,
        values: valuesHash(filled),
      },
    })
    const last = await inviteNext(app, work, row.id)
    if (last) await enqueue('execute-agreement', { agreementId: row.id })
    await db.update(agreement).set({ changedAt: app.now() }).where(eq(agreement.id, row.id))
    return { executed: last }
  })
}

/** Refuses with a reason; nobody can sign after that, and the sender hears of it. */
export async function decline(app: App, token: string, reason: string, address: string): Promise<void> {
  await transaction(app, async (work) => {
    const link = await find(work.db, token, true)
    mustBeOpen(link)
    const { signer, row } = link
    await work.db.update(party).set({ declinedAt: app.now(), address }).where(eq(party.id, signer.id))
    await makeMove(app, work.db, row.id, 'decline')
    await happened(app, work, row.id, signer.name, {
      act: 'declined',
      detail: { role: signer.label, reason, address },
    })
  })
}
