import { asc, eq } from 'drizzle-orm'
import type * as v from 'valibot'
import type { paperSheet, scanTaken } from '#contract/sending.ts'
import type { Person } from '#contract/person.ts'
import type { Point } from '#core/ceremony/marks.ts'
import { pagesNeeded, paperCode, placesToWrite, readPaperCode } from '#core/ceremony/paper.ts'
import { whoseTurn } from '#core/ceremony/parties.ts'
import { stateWord } from '#core/agreement/states.ts'
import { valuesHash } from '#core/trail/against.ts'
import { PDFDocument } from 'pdf-lib'
import { requireMay } from '#server/app/actor.ts'
import type { App, Work } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import type { Db } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import { agreement, blankValue, paperPage, party, person, revision } from '#server/db/schema.ts'
import { conflict, invalid, notFound } from '#server/ground/problem.ts'
import { documentNow } from '#server/services/agreements/document-now.ts'
import { documentOf, partiesOf } from '#server/services/agreements/parties.ts'
import { happened } from '#server/services/agreements/trail.ts'
import { forSender } from './for-sender.ts'
import type { Agreement, Party } from './readers.ts'
import { inviteNext } from './sending.ts'
import { must, visitOf, type Visitor } from './visit.ts'

// A signature on paper: printed with a code on each page, signed, scanned, and put back by the sender.

interface Sheet {
  readonly row: Agreement
  readonly of: Party
  readonly document: typeof revision.$inferSelect
}

/** Somebody who signs an agreement that is out, for whoever may send it. */
async function sheetOf(db: Db, by: Person, id: string, partyId: string): Promise<Sheet> {
  const { row } = await forSender(db, by, id)
  const of = (await partiesOf(db, row)).find((each) => each.id === partyId)
  if (!of) throw notFound('party')
  return { row, of, document: await documentOf(db, row) }
}

/** Why somebody cannot sign on paper now; null: they can. */
function refusalOf({ row, of }: Pick<Sheet, 'row' | 'of'>): string | null {
  if (row.state !== 'out') return `${row.number} is ${stateWord(row.state)}; it is signed while it is out.`
  if (of.kind !== 'signer') return `${of.name} signs nothing.`
  return of.signedAt ? `${of.name} has signed already.` : null
}

/** Its pages as they stand, with a code on each that tells whose copy it is. */
async function printed(app: App, { row, of, document }: Sheet): Promise<{ bytes: Uint8Array; name: string }> {
  const { bytes } = await documentNow(app, row.id)
  const codes = Array.from({ length: document.pages }, (_, i) => ({
    code: paperCode(of.id, i + 1),
    line: `${row.number}, revision ${row.revision}, page ${i + 1} of ${document.pages}`,
  }))
  return { bytes: await app.pages.paperCodes(bytes, codes, app.now()), name: `${row.fileName}, to sign.pdf` }
}

/** Prints it for one of the parties, by the sender. */
export async function printPaper(app: App, by: Person, id: string, partyId: string) {
  await requireMay(app, by, 'send')
  const sheet = await sheetOf(app.db, by, id, partyId)
  const refusal = refusalOf(sheet)
  if (refusal) throw conflict(refusal)
  const made = await printed(app, sheet)
  await transaction(app, (work) => notePrinted(work, sheet, by.name))
  return made
}

/** Prints it for oneself, by a link. */
export async function printAsParty(app: App, visitor: Visitor) {
  const visit = await visitOf(app, visitor)
  must(visit, 'read')
  const { signer: of, row, document, speaker, passage } = visit
  if (passage.standing !== 'open' || of.kind !== 'signer') throw conflict(speaker.say('refusal.mayNot'))
  const made = await printed(app, { row, of, document })
  await transaction(app, (work) => notePrinted(work, { row, of, document }, of.name))
  return made
}

const notePrinted = (work: Work, { row, of, document }: Sheet, by: string) =>
  happened(work, row.id, by, {
    act: 'paper printed',
    detail: { role: of.label, document: document.fileSha256 },
  })

/** Which pages have come back, and which still have to. */
export async function paperOf(
  app: App,
  by: Person,
  id: string,
  partyId: string,
): Promise<v.InferOutput<typeof paperSheet>> {
  await requireMay(app, by, 'send')
  return told(app.db, await sheetOf(app.db, by, id, partyId))
}

async function told(db: Db, sheet: Sheet): Promise<v.InferOutput<typeof paperSheet>> {
  const { of, document, row } = sheet
  const have = await db
    .select({ page: paperPage.page, at: paperPage.at, by: person.name })
    .from(paperPage)
    .innerJoin(person, eq(person.id, paperPage.addedBy))
    .where(eq(paperPage.partyId, of.id))
    .orderBy(asc(paperPage.page))
  const here = new Set(have.map(({ page }) => page))
  return {
    pages: document.pages,
    have: have.map(({ page, at, by: name }) => ({ page, at: at.toISOString(), by: name })),
    missing: pagesNeeded(document.blanks, of.role).filter((page) => !here.has(page)),
    refusal:
      refusalOf(sheet) ??
      (whoseTurn(await partiesOf(db, row)).some((each) => each.id === of.id)
        ? null
        : `It is not ${of.name}’s turn yet.`),
  }
}

/** Takes in what was scanned or photographed; pages are known by their codes, a page that comes again replaces the one before. */
export async function takeScan(
  app: App,
  by: Person,
  id: string,
  partyId: string,
  bytes: Uint8Array,
): Promise<v.InferOutput<typeof scanTaken>> {
  await requireMay(app, by, 'send')
  const sheet = await sheetOf(app.db, by, id, partyId)
  const refusal = refusalOf(sheet)
  if (refusal) throw conflict(refusal)
  const read = await app.pages.readScan(bytes)
  if (!read.ok) throw invalid(read.problem)
  // Several may sign the same copy, so one of another party of this revision is as good.
  const own = new Set((await partiesOf(app.db, sheet.row)).map((each) => each.id))
  const taken = new Map<number, { readonly picture: Uint8Array; readonly corners: readonly Point[] }>()
  let others = 0
  let unknown = 0
  for (const { codes, picture } of read.pages) {
    const known = codes.flatMap(({ text, corners }) => {
      const code = readPaperCode(text)
      return code ? [{ ...code, corners }] : []
    })
    const found = known.find(
      (code) => own.has(code.party) && code.page >= 1 && code.page <= sheet.document.pages,
    )
    if (found) taken.set(found.page, { picture, corners: found.corners })
    else if (known.length) others++
    else unknown++
  }
  const unsigned = await unsignedPages(app, sheet, taken)
  for (const page of unsigned) taken.delete(page)
  const pictures = new Map<number, string>()
  for (const [page, { picture }] of taken) pictures.set(page, await app.files.put(picture, 'image/jpeg'))
  await transaction(app, async (work) => {
    const { db } = work
    const row = one(await db.select().from(agreement).where(eq(agreement.id, id)).for('update'))
    const now = (await partiesOf(db, row)).find((each) => each.id === partyId)
    const changed = now ? refusalOf({ row: row, of: now }) : 'It has been revised meanwhile.'
    if (changed) throw conflict(changed)
    for (const [page, sha256] of pictures) {
      const set = { sha256, addedBy: by.id, at: work.now() }
      await db
        .insert(paperPage)
        .values({ partyId, page, ...set })
        .onConflictDoUpdate({ target: [paperPage.partyId, paperPage.page], set })
    }
  })
  return {
    taken: [...taken.keys()].sort((a, b) => a - b),
    unsigned: [...unsigned],
    others,
    unknown,
    sheet: await paperOf(app, by, id, partyId),
  }
}

/** Pages on which nothing stands where the party was to sign: a print that comes back as it was is nobody's signature. */
async function unsignedPages(
  app: App,
  { document, of }: Sheet,
  taken: ReadonlyMap<number, { readonly picture: Uint8Array; readonly corners: readonly Point[] }>,
): Promise<readonly number[]> {
  const asked = [...taken].flatMap(([page, { picture, corners }]) => {
    const { places, every } = placesToWrite(document.blanks, of.role, page)
    const where = places.map(({ id, x, y, width, height }) => ({ id, x, y, width, height }))
    return places.length ? [{ page, picture, corners, places: where, every }] : []
  })
  const empty = await app.pages.emptyPlaces(await app.files.get(document.fileSha256), asked)
  return asked.flatMap(({ page, places, every }) => {
    const missing = empty.get(page)!.length
    return (every ? missing > 0 : missing === places.length) ? [page] : []
  })
}

/** Puts the signature back: it counts from now on as if they had signed here, and both are in the trail. */
export async function signOnPaper(app: App, by: Person, id: string, partyId: string): Promise<void> {
  await requireMay(app, by, 'send')
  const sheet = await sheetOf(app.db, by, id, partyId)
  await mayPutBack(app.db, sheet)
  const kept = await app.db
    .select()
    .from(paperPage)
    .where(eq(paperPage.partyId, partyId))
    .orderBy(asc(paperPage.page))
  const shown = await PDFDocument.load(await app.files.get(sheet.document.fileSha256), {
    updateMetadata: false,
  })
  const pages = []
  for (const { page, sha256 } of kept)
    pages.push({ picture: await app.files.get(sha256), ...shown.getPage(page - 1).getSize() })
  const scan = await app.pages.bindScan(pages, `${sheet.row.number}, on paper: ${sheet.of.name}`, app.now())
  const sha256 = await app.files.put(scan, 'application/pdf')
  await transaction(app, async (work) => {
    const { db } = work
    await db.select({ id: agreement.id }).from(agreement).where(eq(agreement.id, id)).for('update')
    const now = await sheetOf(db, by, id, partyId)
    await mayPutBack(db, now)
    const { of, row, document } = now
    // What they had filled in here counts for nothing: it is on the paper.
    await db.delete(blankValue).where(eq(blankValue.partyId, of.id))
    await db
      .update(party)
      .set({ signedAt: work.now(), paper: { sha256, pages: kept.length, by: by.name } })
      .where(eq(party.id, of.id))
    await happened(work, id, by.name, {
      act: 'signed on paper',
      detail: {
        role: of.label,
        revision: of.revision,
        document: document.fileSha256,
        scan: sha256,
        pages: kept.length,
        values: valuesHash([]),
      },
    })
    const last = await inviteNext(work, id)
    if (last) await work.enqueue('execute-agreement', { agreementId: id })
    await db.update(agreement).set({ changedAt: work.now() }).where(eq(agreement.id, row.id))
  })
}

async function mayPutBack(db: Db, sheet: Sheet): Promise<void> {
  const { refusal, missing } = await told(db, sheet)
  if (refusal) throw conflict(refusal)
  if (missing.length)
    throw conflict(
      `${missing.length === 1 ? 'Page' : 'Pages'} ${missing.join(', ')} of ${sheet.row.number} ${missing.length === 1 ? 'has' : 'have'} not come back yet.`,
    )
}
