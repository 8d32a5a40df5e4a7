import { and, eq } from 'drizzle-orm'
import { blanksOf } from '#core/agreement/signing.ts'
import { fileName } from '#core/text/pattern.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import type { Db } from '#server/db/connect.ts'
import { handedFile, party } from '#server/db/schema.ts'
import { invalid } from '#server/ground/problem.ts'
import { must, type Visit, visitOf, type Visitor } from './visit.ts'

// Files that signers hand in.

/** Takes in a file that a signer hands over; it belongs to a blank once that is filled with it. */
export async function receiveFile(app: App, visitor: Visitor, name: string, bytes: Uint8Array) {
  const link = await visitOf(app, visitor)
  must(link, 'fill')
  const { say } = link.speaker
  if (!blanksOf(link.document.blanks, link.signer.role).some(({ kind }) => kind === 'file'))
    throw invalid(say('refusal.noFile'))
  if (bytes.length > FILE_LIMITS.bytes)
    throw invalid(say('refusal.fileLarge', { most: FILE_LIMITS.bytes / 1_000_000 }))
  return receive(app, link, fileNameOf(name), bytes)
}

/** Keeps what one signer hands in, as far as one may. */
async function receive(app: App, { signer, speaker: { say } }: Visit, clean: string, bytes: Uint8Array) {
  const stored = await app.files.put(bytes, HANDED_IN)
  await transaction(app, async ({ db, now }) => {
    // One hand-in of a signer at a time, so that none slips past the count.
    await db.select({ id: party.id }).from(party).where(eq(party.id, signer.id)).for('update')
    const before = await db.select().from(handedFile).where(eq(handedFile.partyId, signer.id))
    const others = before.filter(({ sha256: hash }) => hash !== stored)
    const size = others.reduce((sum, each) => sum + each.size, bytes.length)
    if (others.length >= FILE_LIMITS.files || size > FILE_LIMITS.whole)
      throw invalid(
        say('refusal.fileMany', { files: FILE_LIMITS.files, most: FILE_LIMITS.whole / 1_000_000 }),
      )
    await db
      .insert(handedFile)
      .values({ partyId: signer.id, sha256: stored, name: clean, size: bytes.length, at: now() })
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
export async function isHandedIn(
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

/** Bytes of a picture of a signature: the page makes it small, with its paper left away. */
const LARGEST_SIGNATURE = 1_000_000
const SIGNATURE_NAME = 'signature.png'

/** Takes in a picture of a signature, as PNG; it is drawn once to see that it can be drawn. */
export async function receiveSignature(app: App, visitor: Visitor, bytes: Uint8Array) {
  const visit = await visitOf(app, visitor)
  must(visit, 'fill')
  const { say } = visit.speaker
  if (bytes.length > LARGEST_SIGNATURE) throw invalid(say('signature.pictureLarge'))
  const read = await app.pages.readPicture(bytes)
  if (!read.ok || read.mediaType !== 'image/png') throw invalid(say('signature.pictureBroken'))
  const { sha256: stored, size } = await receive(app, visit, SIGNATURE_NAME, bytes)
  return { sha256: stored, size, width: read.width, height: read.height }
}

/** The picture of a signature that the signer of this visit has handed in; null where it is not theirs. */
export async function signaturePicture(
  app: App,
  { signer }: Visit,
  hash: string,
): Promise<Uint8Array | null> {
  const [found] = await app.db
    .select({ name: handedFile.name })
    .from(handedFile)
    .where(and(eq(handedFile.partyId, signer.id), eq(handedFile.sha256, hash)))
  return found?.name === SIGNATURE_NAME ? app.files.get(hash) : null
}
