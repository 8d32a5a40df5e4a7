import { randomBytes } from 'node:crypto'
import { P12Signer } from '@signpdf/signer-p12'
import { PDFDocument } from 'pdf-lib'
import { appendPdf } from '#server/compose/append.ts'
import type { PageEngine } from '#server/compose/engine.ts'
import type { EvidenceData } from '#server/compose/evidence.ts'
import type { Stamp } from '#server/compose/stamps.ts'
import type { SealKey } from './certificate.ts'
import { addPlaceholder, fillByteRange } from './placeholder.ts'
import { stamp } from './stamp.ts'

/** Room for the CMS with its certificates, in bytes. */
const ROOM = 16_384

export interface SealRequest {
  readonly pdf: Uint8Array
  readonly stamps: readonly Stamp[]
  readonly evidence: EvidenceData
  readonly key: SealKey
  /** Who seals, where, and how to be reached, as the signature's dictionary says it (ISO 32000-1, 12.8.1). */
  readonly by: { readonly name: string; readonly location: string; readonly contact: string }
  readonly reason: string
  readonly at: Date
}

/** Stamps a document, adds its evidence pages and seals the whole: a byte changed afterwards shows. */
export async function seal(
  engine: PageEngine,
  { pdf, stamps, evidence, key, by, reason, at }: SealRequest,
): Promise<Uint8Array> {
  const document = await PDFDocument.load(await stamp(engine, pdf, stamps, at))
  appendPdf(document, await PDFDocument.load(engine.evidence(evidence, at)))
  document.setModificationDate(at)
  const nonce = randomBytes(32).toString('hex')
  addPlaceholder(
    document,
    {
      reason,
      ...by,
      at,
    },
    { nonce, room: ROOM },
  )
  // The signature must be found in the file, so nothing is packed into streams of objects.
  const open = Buffer.from(await document.save({ useObjectStreams: false }))
  const { from, to } = fillByteRange(open, nonce, ROOM)
  const signer = new P12Signer(Buffer.from(key.p12), { passphrase: key.passphrase })
  const signature = await signer.sign(Buffer.concat([open.subarray(0, from), open.subarray(to)]), at)
  if (signature.length > ROOM) throw new Error('The signature is larger than the room for it.')
  open.write(signature.toString('hex').padEnd(ROOM * 2, '0'), from + 1, 'latin1')
  return open
}
