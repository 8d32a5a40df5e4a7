import { readSvg } from './svg.ts'

/** What a picture is, its size in pixels; or why it is none. */
export type ReadPicture =
  | { readonly ok: true; readonly mediaType: string; readonly width: number; readonly height: number }
  | { readonly ok: false; readonly problem: string }

/** Largest picture taken: bytes, pixels on a side, and over all (a decoder's memory and time grow with them). */
export const PICTURE_LIMITS = { bytes: 2_000_000, side: 6000, pixels: 24_000_000 } as const

/**
 * The one gate for pictures from outside, whatever becomes of them: width and height of a PNG or JPEG in pixels, of whatever size,
 * where all of it is there and its bytes can hold so many pixels; null: it is neither.
 */
export const sizeOfPicture = (bytes: Uint8Array): ReadPicture | null => png(bytes) ?? jpeg(bytes)

const fail = (problem: string): ReadPicture => ({ ok: false, problem })

/** Tells what picture the bytes are by their own words, never by a file's name. Sizes in pixels. */
export function readPicture(bytes: Uint8Array): ReadPicture {
  if (bytes.length > PICTURE_LIMITS.bytes) return fail('The picture is larger than 2 MB. Save it smaller.')
  const read = png(bytes) ?? jpeg(bytes) ?? svg(bytes)
  if (!read) return fail('This is no PNG, JPEG or SVG picture.')
  if (read.ok && Math.max(read.width, read.height) > PICTURE_LIMITS.side)
    return fail(`The picture is wider or higher than ${PICTURE_LIMITS.side} pixels. Save it smaller.`)
  if (read.ok && read.width * read.height > PICTURE_LIMITS.pixels)
    return fail(
      `The picture has more than ${PICTURE_LIMITS.pixels / 1_000_000} million pixels. Save it smaller.`,
    )
  return read
}

const CUT_OFF = 'The picture is cut off.'
const TOO_FEW = 'The picture says that it is larger than what is in it.'

/** Bytes that one byte packed by deflate can become at the most (RFC 1951: 258 for two codes of one bit). */
const DEFLATE_MOST = 1032
/** Pixels that one byte of a JPEG can stand for at the most: bands of progressive pictures that have nothing in them. */
const JPEG_MOST = 4096
/** Samples of a pixel by the colour type of a PNG (ISO/IEC 15948, 11.2.2). */
const SAMPLES: Readonly<Record<number, number>> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 }

/** ISO/IEC 15948: signature, the IHDR chunk with width and height, data that can be as many lines, and the IEND chunk. */
function png(bytes: Uint8Array): ReadPicture | null {
  const signature = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]
  if (!signature.every((byte, i) => bytes[i] === byte)) return null
  if (bytes.length < 33) return fail(CUT_OFF)
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const [width, height] = [view.getUint32(16), view.getUint32(20)]
  const samples = SAMPLES[bytes[25]!]
  if (!samples || width === 0 || height === 0) return fail('The picture is damaged.')
  let [data, ended] = [0, false]
  for (let at = 8; at + 12 <= bytes.length && !ended;) {
    const length = view.getUint32(at)
    const kind = String.fromCharCode(...bytes.subarray(at + 4, at + 8))
    if (at + 12 + length > bytes.length) break
    if (kind === 'IDAT') data += length
    ended = kind === 'IEND'
    at += 12 + length
  }
  if (!ended || data === 0) return fail(CUT_OFF)
  const lines = height * (1 + Math.ceil((width * samples * bytes[24]!) / 8))
  if (lines > data * DEFLATE_MOST) return fail(TOO_FEW)
  return { ok: true, mediaType: 'image/png', width, height }
}

/** ITU-T T.81: the first start-of-frame segment has height and width; a scan and the end of the image have to follow. */
function jpeg(bytes: Uint8Array): ReadPicture | null {
  if (bytes[0] !== 0xff || bytes[1] !== 0xd8) return null
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  let size: { readonly width: number; readonly height: number } | null = null
  for (let at = 2; at + 4 <= bytes.length;) {
    if (bytes[at] !== 0xff) break
    const marker = bytes[at + 1]!
    if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker) && at + 9 <= bytes.length)
      size = { width: view.getUint16(at + 7), height: view.getUint16(at + 5) }
    // From the first scan on it is data to the end.
    if (marker === 0xda) {
      if (!size || size.width === 0 || size.height === 0 || !endsIn(bytes, at)) return fail(CUT_OFF)
      if (size.width * size.height > (bytes.length - at) * JPEG_MOST) return fail(TOO_FEW)
      return { ok: true, mediaType: 'image/jpeg', ...size }
    }
    at += 2 + view.getUint16(at + 2)
  }
  return fail(CUT_OFF)
}

/** Whether the marker of a JPEG's end comes behind a place; programs put all sorts of things after it. */
const endsIn = (bytes: Uint8Array, from: number): boolean =>
  Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).indexOf(Buffer.from([0xff, 0xd9]), from) >= 0

function svg(bytes: Uint8Array): ReadPicture | null {
  const read = readSvg(new TextDecoder('utf-8').decode(bytes))
  return read && (read.ok ? { ...read, mediaType: 'image/svg+xml' } : read)
}

/** What has the head of a picture and cannot be drawn all the same. */
export const undrawable: ReadPicture = fail(
  'The picture is damaged or of a kind that cannot be drawn. Open it in a picture program and save it again.',
)
