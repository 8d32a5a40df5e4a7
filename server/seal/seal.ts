import { pdflibAddPlaceholder } from '@signpdf/placeholder-pdf-lib'
import { P12Signer } from '@signpdf/signer-p12'
import { SignPdf } from '@signpdf/signpdf'
import { PDFDocument } from 'pdf-lib'
import { appendPdf } from '#server/compose/append.ts'
import type { SealKey } from './certificate.ts'

/** Room for the CMS with its certificates, in bytes. */
const SIGNATURE_LENGTH = 16_384

/** Joins the stamped document and its evidence pages and seals the whole: a byte changed afterwards shows. */
export async function seal(
  stamped: Uint8Array,
  evidence: Uint8Array,
  key: SealKey,
  about: { reason: string; at: Date },
): Promise<Uint8Array> {
  const document = await PDFDocument.load(stamped)
  appendPdf(document, await PDFDocument.load(evidence))
  document.setModificationDate(about.at)
  pdflibAddPlaceholder({
    pdfDoc: document,
    reason: about.reason,
    name: 'Larkmere Pollination',
    location: 'Larkmere, Oregon',
    contactInfo: 'desk@larkmere.example',
    signingTime: about.at,
    signatureLength: SIGNATURE_LENGTH,
  })
  const open = await document.save({ useObjectStreams: false })
  return new SignPdf().sign(
    Buffer.from(open),
    new P12Signer(key.p12, { passphrase: key.passphrase }),
    about.at,
  )
}
