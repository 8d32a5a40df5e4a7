import { readSvg } from './svg.ts'

export type ReadPicture =
  | { readonly ok: true; readonly mediaType: string; readonly width: number; readonly height: number }
  | { readonly ok: false; readonly problem: string }

/** Largest picture taken: bytes, and pixels on a side (a decoder's memory grows with the square). */
export const PICTURE_LIMITS = { bytes: 2_000_000, side: 6000 } as const

/** Width and height of a PNG or JPEG in pixels, of whatever size; null: it is neither. */
export const sizeOfPicture = (bytes: Uint8Array): ReadPicture | null => png(bytes) ?? jpeg(bytes)

const fail = (problem: string): ReadPicture => ({ ok: false, problem })

/** Tells what picture the bytes are by their own words, never by a file's name. Sizes in pixels. */
export function readPicture(bytes: Uint8Array): ReadPicture {
  if (bytes.length > PICTURE_LIMITS.bytes) return fail('The picture is larger than 2 MB. Save it smaller.')
  const read = png(bytes) ?? jpeg(bytes) ?? svg(bytes)
  if (!read) return fail('This is no PNG, JPEG or SVG picture.')
  if (read.ok && Math.max(read.width, read.height) > PICTURE_LIMITS.side)
    return fail(`The picture is wider or higher than ${PICTURE_LIMITS.side} pixels. Save it smaller.`)
  return read
}

/** ISO/IEC 15948: signature, then the IHDR chunk with width and height. */
function png(bytes: Uint8Array): ReadPicture | null {
  const signature = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]
  if (!signature.every((byte, i) => bytes[i] === byte)) return null
  if (bytes.length < 33) return fail('The picture is cut off.')
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  return { ok: true, mediaType: 'image/png', width: view.getUint32(16), height: view.getUint32(20) }
}

/** ITU-T T.81: the first start-of-frame segment has height and width. */
function jpeg(bytes: Uint8Array): ReadPicture | null {
  if (bytes[0] !== 0xff || bytes[1] !== 0xd8) return null
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  for (let at = 2; at + 9 < bytes.length;) {
    if (bytes[at] !== 0xff) break
    const marker = bytes[at + 1]!
    if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker))
      return {
        ok: true,
        mediaType: 'image/jpeg',
        width: view.getUint16(at + 7),
        height: view.getUint16(at + 5),
      }
    at += 2 + view.getUint16(at + 2)
  }
  return fail('The picture is cut off.')
}

function svg(bytes: Uint8Array): ReadPicture | null {
  const read = readSvg(new TextDecoder('utf-8').decode(bytes))
  return read && (read.ok ? { ...read, mediaType: 'image/svg+xml' } : read)
}

/** What has the head of a picture and cannot be drawn all the same. */
export const undrawable: ReadPicture = fail(
  'The picture is damaged or of a kind that cannot be drawn. Open it in a picture program and save it again.',
)
