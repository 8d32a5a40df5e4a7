import { apart } from '../apart.ts'
import { sizeOfPicture } from '../read-picture.ts'
import { type DrawnEnd, type DrawnPage, SCAN_LIMITS, type ScannedCode } from './scan-limits.ts'

/** A page that came back from paper: its picture (JPEG), its size in pixels, and the codes that stand on it. */
export interface ScannedPage {
  readonly picture: Uint8Array
  readonly width: number
  readonly height: number
  readonly codes: readonly ScannedCode[]
}
/** The pages of a scan, or why it is none. */
export type ReadScan =
  | { readonly ok: true; readonly pages: readonly ScannedPage[] }
  | { readonly ok: false; readonly problem: string }

const fail = (problem: string): ReadScan => ({ ok: false, problem })
const DAMAGED = 'The file is damaged: its pages cannot be drawn.'

/** Reads what was scanned or photographed: a PDF, a PNG or a JPEG. Told by its own words, never by a file's name. */
export async function readScan(bytes: Uint8Array): Promise<ReadScan> {
  if (bytes.length > SCAN_LIMITS.bytes)
    return fail(`The file is larger than ${SCAN_LIMITS.bytes / 1_000_000} MB. Put it back in several files.`)
  if (!Buffer.from(bytes.subarray(0, 1024)).includes('%PDF-')) {
    const size = sizeOfPicture(bytes)
    if (!size) return fail('This is no PDF, PNG or JPEG.')
    if (!size.ok) return fail(size.problem)
    const { width, height } = size
    if (width * height > SCAN_LIMITS.pixels || Math.max(width, height) > SCAN_LIMITS.side)
      return fail('The picture has more than 60 million pixels. Scan it with 300 dots per inch.')
  }
  return draw(bytes)
}

/** Draws in a process of its own, which alone ends where a file brings down the decoder, or takes too long. */
const draw = async (bytes: Uint8Array): Promise<ReadScan> =>
  told(await apart('server/convert/scan/draw-pages', bytes, { seconds: 100, heap: 512, answer: 150_000_000 }))

/** What the program told: pages, then that this was all. Without its last word something ended it. */
function told(answer: Buffer): ReadScan {
  const pages: ScannedPage[] = []
  for (let at = 0; at + 4 <= answer.length;) {
    const length = answer.readUInt32BE(at)
    const head = JSON.parse(answer.toString('utf8', at + 4, at + 4 + length)) as DrawnPage | DrawnEnd
    at += 4 + length
    if ('problem' in head) return fail(head.problem)
    if ('end' in head) return { ok: true, pages }
    const { bytes, width, height, codes } = head
    if (at + bytes > answer.length) break
    pages.push({ picture: Uint8Array.from(answer.subarray(at, at + bytes)), width, height, codes })
    at += bytes
  }
  return fail(DAMAGED)
}
