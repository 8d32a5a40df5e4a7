/** How a file of a kind is known by what is in it. */
interface Kind {
  readonly mediaType: string
  readonly is: (bytes: Buffer) => boolean
}

const begins =
  (...first: readonly number[]) =>
  (bytes: Buffer) =>
    first.every((byte, i) => bytes[i] === byte)

const isZip = begins(0x50, 0x4b, 0x03, 0x04)
/** Names stand uncompressed in a package's directory (APPNOTE 4.3.12), so nothing has to be unpacked to see them. */
const holds = (name: string) => (bytes: Buffer) => isZip(bytes) && bytes.includes(name, 0, 'latin1')
/** OpenDocument 1.3 part 2, 3.3: the media type comes first, stored as it is. */
const openDocument = (kind: string) => (bytes: Buffer) =>
  isZip(bytes) && bytes.subarray(0, 200).includes(`mimetypeapplication/vnd.oasis.opendocument.${kind}`)
/** Text has no bytes that stand for nothing written. */
const isText = (bytes: Buffer): boolean => {
  // eslint-disable-next-line no-control-regex -- these are what is looked for
  return !/[\u0000-\u0008\u000e-\u001a\u001c-\u001f]/.test(bytes.subarray(0, 65_536).toString('latin1'))
}

const office = 'application/vnd.openxmlformats-officedocument'
const KINDS: Readonly<Record<string, Kind>> = {
  pdf: { mediaType: 'application/pdf', is: (bytes) => bytes.subarray(0, 1024).includes('%PDF-') },
  png: { mediaType: 'image/png', is: begins(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a) },
  jpg: { mediaType: 'image/jpeg', is: begins(0xff, 0xd8, 0xff) },
  jpeg: { mediaType: 'image/jpeg', is: begins(0xff, 0xd8, 0xff) },
  docx: { mediaType: `${office}.wordprocessingml.document`, is: holds('word/document.xml') },
  xlsx: { mediaType: `${office}.spreadsheetml.sheet`, is: holds('xl/workbook.xml') },
  odt: { mediaType: 'application/vnd.oasis.opendocument.text', is: openDocument('text') },
  ods: { mediaType: 'application/vnd.oasis.opendocument.spreadsheet', is: openDocument('spreadsheet') },
  csv: { mediaType: 'text/csv', is: isText },
  txt: { mediaType: 'text/plain', is: isText },
}

/** The media type of a file that is what its name says; else whether its kind is not taken, or its name is wrong. */
export function kindOfFile(
  name: string,
  bytes: Buffer,
): { readonly mediaType: string } | { readonly fault: 'kind' | 'name' } {
  const ending = /\.(\w{1,8})$/.exec(name)?.[1]?.toLowerCase() ?? ''
  const kind = Object.hasOwn(KINDS, ending) ? KINDS[ending] : undefined
  if (!kind) return { fault: 'kind' }
  return kind.is(bytes) ? { mediaType: kind.mediaType } : { fault: 'name' }
}
