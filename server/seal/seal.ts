import { createHash, randomBytes } from 'node:crypto'
import { AFRelationship, ParseSpeeds, PDFArray, PDFDocument, PDFName } from 'pdf-lib'
import type { Evidence } from '#core/evidence/evidence.ts'
import { appendPdf } from '#server/compose/append.ts'
import type { PageEngine } from '#server/compose/engine.ts'
import type { EvidencePages } from '#server/compose/evidence.ts'
import type { Stamp } from '#server/compose/stamps.ts'
import { signerOf } from './certificates.ts'
import { EVIDENCE_FILE } from './evidence-file.ts'
import { OID, signed } from './cms.ts'
import type { SealMeans } from './means.ts'
import { addPlaceholder, fillByteRange } from './placeholder.ts'
import { stampOver } from './stamp.ts'
import { askTime } from './time-stamp.ts'

/** Room for the CMS with its certificates and its time stamp, in bytes. */
const ROOM = 24_576

/** A file to be stamped and sealed. */
export interface SealRequest {
  readonly pdf: Uint8Array
  readonly stamps: readonly Stamp[]
  readonly evidence: Evidence
  /** The same as it is read on the last pages. */
  readonly pages: EvidencePages
  readonly means: SealMeans
  /** Who seals, where, and how to be reached, as the signature's dictionary says it (ISO 32000-1, 12.8.1). */
  readonly by: { readonly name: string; readonly location: string; readonly contact: string }
  readonly reason: string
  readonly at: Date
}

/**
 * Stamps a document, adds its evidence, as pages and as data, and seals the whole: PAdES baseline LT (ETSI EN 319 142-1). What a
 * reader needs to check it years later stands within the sealed bytes, so that every byte of the file is covered.
 */
export async function seal(
  engine: PageEngine,
  { pdf, stamps, evidence, pages, means, by, reason, at }: SealRequest,
): Promise<Uint8Array> {
  // In a thread of its own nothing waits for it: no pauses are made for others.
  const document = await PDFDocument.load(pdf, { parseSpeed: ParseSpeeds.Fastest })
  await stampOver(engine, document, stamps, at)
  appendPdf(document, await PDFDocument.load(engine.evidence(pages, at), { parseSpeed: ParseSpeeds.Fastest }))
  document.setModificationDate(at)
  // An associated file that says what the document rests on (ISO 19005-3, 6.8).
  await document.attach(Buffer.from(`${JSON.stringify(evidence, null, 2)}\n`), EVIDENCE_FILE, {
    mimeType: 'application/json',
    description: 'Who signed, how it is known, and what happened',
    creationDate: at,
    modificationDate: at,
    afRelationship: AFRelationship.Data,
  })
  addValidation(document, means)
  const nonce = randomBytes(32).toString('hex')
  addPlaceholder(document, { reason, ...by, at }, { nonce, room: ROOM })
  // The signature must be found in the file, so nothing is packed into streams of objects.
  const open = Buffer.from(await document.save({ useObjectStreams: false, objectsPerTick: Infinity }))
  const { from, to } = fillByteRange(open, nonce, ROOM)
  const digest = createHash('sha256').update(open.subarray(0, from)).update(open.subarray(to)).digest()
  const signature = await signed({ type: OID.data, bytes: null, digest }, signerOf(means.key), (value) =>
    askTime(means.time, value),
  )
  if (signature.length > ROOM) throw new Error('The signature is larger than the room for it.')
  open.write(signature.toString('hex').padEnd(ROOM * 2, '0'), from + 1, 'latin1')
  return open
}

/** The document security store: certificates and revocation lists (ETSI EN 319 142-1, 5.4.2). */
function addValidation(document: PDFDocument, { certificates, lists }: SealMeans): void {
  const { context } = document
  const streams = (all: readonly Uint8Array[]) => {
    const array = PDFArray.withContext(context)
    for (const each of all) array.push(context.register(context.flateStream(each)))
    return array
  }
  document.catalog.set(
    PDFName.of('DSS'),
    context.register(context.obj({ Type: 'DSS', Certs: streams(certificates), CRLs: streams(lists) })),
  )
}
