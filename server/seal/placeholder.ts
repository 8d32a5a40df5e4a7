import {
  PDFArray,
  PDFDict,
  PDFDocument,
  PDFHexString,
  PDFName,
  PDFNumber,
  type PDFRef,
  PDFString,
} from 'pdf-lib'

/** What a signature says of itself (ISO 32000-1, table 252). Any text may stand here: it is written as UTF-16. */
export interface SignatureWords {
  readonly reason: string
  readonly name: string
  readonly location: string
  readonly contact: string
  readonly at: Date
}

/** A number in a byte range while the range is not known yet, as wide as any can become. */
const UNKNOWN = 9_999_999_999

/**
 * Puts an invisible signature field on the first page whose contents are `nonce` and zeros: `room` bytes in all, to be
 * replaced by the signature. Nothing else in a file can have the nonce, so whatever the words are, the place is found.
 */
export function addPlaceholder(
  document: PDFDocument,
  words: SignatureWords,
  { nonce, room }: { readonly nonce: string; readonly room: number },
): void {
  const { context } = document
  const page = document.getPage(0)
  const range = PDFArray.withContext(context)
  for (const number of [0, UNKNOWN, UNKNOWN, UNKNOWN]) range.push(PDFNumber.of(number))
  const text = (value: string) => PDFHexString.fromText(value.toWellFormed())
  const signature = context.register(
    context.obj({
      Type: 'Sig',
      Filter: 'Adobe.PPKLite',
      SubFilter: 'ETSI.CAdES.detached',
      ByteRange: range,
      Contents: PDFHexString.of(nonce.padEnd(room * 2, '0')),
      Reason: text(words.reason),
      Name: text(words.name),
      Location: text(words.location),
      ContactInfo: text(words.contact),
      M: PDFString.fromDate(words.at),
    }),
  )
  const field = context.register(
    context.obj({
      Type: 'Annot',
      Subtype: 'Widget',
      FT: 'Sig',
      Rect: [0, 0, 0, 0],
      V: signature,
      T: PDFHexString.fromText('Seal'),
      // Printed, and not to be moved or changed (bits 3 and 8).
      F: 132,
      P: page.ref,
      AP: {
        N: context.register(context.formXObject([], { BBox: context.obj([0, 0, 0, 0]), Resources: {} })),
      },
    }),
  )
  addTo(page.node, 'Annots', field)
  const form = document.catalog.lookupMaybe(PDFName.of('AcroForm'), PDFDict) ?? context.obj({ Fields: [] })
  addTo(form, 'Fields', field)
  // There are signatures, and the file may only be added to (ISO 32000-1, table 219).
  form.set(PDFName.of('SigFlags'), PDFNumber.of(3))
  document.catalog.set(PDFName.of('AcroForm'), form)
}

function addTo(dict: PDFDict, key: string, ref: PDFRef): void {
  const list = dict.lookupMaybe(PDFName.of(key), PDFArray) ?? dict.context.obj([])
  list.push(ref)
  dict.set(PDFName.of(key), list)
}

/** Where the signature’s contents go, by places in the file. */
export interface Gap {
  /** Where the contents begin, at their `<`, and where they end, after their `>`. */
  readonly from: number
  readonly to: number
}

/** Writes the byte range around the placeholder's contents into the file, in place; answers where they are. */
export function fillByteRange(pdf: Buffer, nonce: string, room: number): Gap {
  const at = pdf.indexOf(nonce, 0, 'latin1')
  const from = at - 1
  const to = at + room * 2 + 1
  const open = pdf.lastIndexOf('/ByteRange', at, 'latin1')
  const close = pdf.indexOf(']', open, 'latin1')
  if (at < 1 || open < 0 || close > at || pdf[from] !== 0x3c || pdf[to - 1] !== 0x3e)
    throw new Error('The placeholder of the signature is not where it was put.')
  const written = `/ByteRange [ 0 ${from} ${to} ${pdf.length - to}`
  if (written.length > close - open) throw new Error('The byte range has no room.')
  pdf.write(written.padEnd(close - open), open, 'latin1')
  return { from, to }
}
