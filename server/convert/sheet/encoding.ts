import { analyse } from 'chardet'
import iconv from 'iconv-lite'
import type { Encoding } from '#core/sheet/encodings.ts'

/** A text file’s text, and the encoding it was read in. */
export interface Decoded {
  readonly text: string
  readonly encoding: Encoding
  /** False where the encoding is a guess that another reading could be as good as. */
  readonly sure: boolean
}

/** Whether a file begins with these bytes. */
export const startsWith = (bytes: Uint8Array, ...head: number[]) => head.every((byte, i) => bytes[i] === byte)

/** What the detector looks at: enough letters to tell a language by, and no more time for a large file. */
const LOOKED_AT = 100_000

/** The detector's names for what can be read here. */
const DETECTED: Readonly<Record<string, Encoding>> = {
  Shift_JIS: 'shift_jis',
  'EUC-JP': 'euc-jp',
  GB18030: 'gb18030',
  Big5: 'big5',
  'EUC-KR': 'euc-kr',
  'windows-1250': 'windows-1250',
  'windows-1251': 'windows-1251',
  'windows-1253': 'windows-1253',
  'windows-1254': 'windows-1254',
  'ISO-8859-2': 'iso-8859-2',
  'ISO-8859-5': 'iso-8859-5',
  'ISO-8859-7': 'iso-8859-7',
  'ISO-8859-9': 'windows-1254',
  'KOI8-R': 'koi8-r',
}
const SEVERAL_BYTES: readonly Encoding[] = ['shift_jis', 'euc-jp', 'gb18030', 'big5', 'euc-kr']

/**
 * Confidence, of a hundred, from which the detector is believed rather than the usual Windows-1252. Letters of which most
 * are beyond ASCII are of no Latin language, whatever is found.
 */
const BELIEVED = { several: 60, latin: 30, other: 8 } as const

/**
 * Decodes a text file: by its mark (Unicode 15, 2.6), as UTF-16 where there are zero bytes, as UTF-8 where it is valid as
 * such; else by the letters it would have. What nothing else fits is Windows-1252, which can be read whatever the bytes.
 * Not by this Node's own decoder, which reads Windows-1252 as Latin-1.
 */
export function decodeText(bytes: Uint8Array, said: Encoding | null = null): Decoded {
  const buffer = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const as = (encoding: Encoding, sure = true): Decoded => ({
    // The package has the table of Macintosh Roman from before the euro.
    text:
      encoding === 'macintosh'
        ? new TextDecoder(encoding).decode(bytes)
        : iconv.decode(buffer, encoding, { stripBOM: true }),
    encoding,
    sure,
  })
  if (said) return as(said)
  if (startsWith(bytes, 0xff, 0xfe)) return as('utf-16le')
  if (startsWith(bytes, 0xfe, 0xff)) return as('utf-16be')
  const zeros = zeroBytes(bytes)
  // No other encoding of text has a zero byte in it; in this one every line break and every comma has.
  if (bytes.length % 2 === 0 && zeros.even + zeros.odd > 0 && zeros.even !== zeros.odd)
    return as(zeros.odd > zeros.even ? 'utf-16le' : 'utf-16be')
  try {
    return { text: new TextDecoder('utf-8', { fatal: true }).decode(bytes), encoding: 'utf-8', sure: true }
  } catch {
    return as(guessed(buffer.subarray(0, LOOKED_AT)), false)
  }
}

function zeroBytes(bytes: Uint8Array): { even: number; odd: number } {
  const zeros = { even: 0, odd: 0 }
  const looked = Math.min(bytes.length, LOOKED_AT)
  for (let i = 0; i < looked; i++) if (bytes[i] === 0) zeros[i % 2 ? 'odd' : 'even']++
  return zeros
}

function guessed(head: Buffer): Encoding {
  const high = head.filter((byte) => byte >= 0x80).length
  const letters = head.filter(
    (byte) => (byte >= 0x41 && byte <= 0x5a) || (byte >= 0x61 && byte <= 0x7a),
  ).length
  const least = high > letters ? BELIEVED.other : BELIEVED.latin
  for (const { name, confidence } of analyse(lettersOf(head))) {
    const found = DETECTED[name]
    // The detector's names for what Windows-1252 reads as well, or better.
    if (/^(ISO-8859-1|windows-1252)$/.test(name)) return 'windows-1252'
    if (!found) continue
    if (SEVERAL_BYTES.includes(found)) {
      if (confidence >= BELIEVED.several && readsWhole(head, found)) return found
    } else if (confidence >= least) return found
  }
  return 'windows-1252'
}

/** Figures and delimiters say nothing of a language, and tables are full of them. */
const lettersOf = (head: Buffer): Buffer =>
  Buffer.from(head.map((byte) => (byte < 0x40 && byte !== 0x0a ? 0x20 : byte)))

/** Whether bytes are all characters of an encoding; the last may be cut off. */
const readsWhole = (head: Buffer, encoding: Encoding): boolean =>
  !iconv.decode(head, encoding).slice(0, -2).includes('\ufffd')
