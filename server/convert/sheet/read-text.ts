import Papa from 'papaparse'
import type { Cell } from '#core/sheet/cell.ts'
import { RowCollector, SheetFault } from './book.ts'
import type { Book } from './book.ts'

/** Signs that may stand between the cells of a text file; the likelier first. */
export const DELIMITERS = [',', ';', '\t', '|', '^', '~', '\u001f'] as const
export const ENCODINGS = ['utf-8', 'utf-16le', 'utf-16be', 'windows-1252'] as const
export type Encoding = (typeof ENCODINGS)[number]

const startsWith = (bytes: Uint8Array, ...head: number[]) => head.every((byte, i) => bytes[i] === byte)

/** By their marks (Unicode 15, 2.6); else UTF-16 where every other byte is zero, UTF-8 where valid as such, else Windows-1252. */
export function decodeText(
  bytes: Uint8Array,
  said: Encoding | null = null,
): { text: string; encoding: Encoding } {
  const as = (encoding: Encoding) => ({ text: new TextDecoder(encoding).decode(bytes), encoding })
  if (said) return as(said)
  if (startsWith(bytes, 0xff, 0xfe)) return as('utf-16le')
  if (startsWith(bytes, 0xfe, 0xff)) return as('utf-16be')
  const zeros = [0, 0]
  const looked = Math.min(bytes.length, 2000)
  for (let i = 0; i < looked; i++) if (bytes[i] === 0) zeros[i % 2]!++
  if (zeros[1]! > looked * 0.3) return as('utf-16le')
  if (zeros[0]! > looked * 0.3) return as('utf-16be')
  try {
    return { text: new TextDecoder('utf-8', { fatal: true }).decode(bytes), encoding: 'utf-8' }
  } catch {
    return as('windows-1252')
  }
}

/** A text file with delimiters (RFC 4180 and what people make of it). */
export function readText(
  name: string,
  bytes: Uint8Array,
  said: { readonly delimiter?: string | null; readonly encoding?: Encoding | null } = {},
): Book {
  const { text, encoding } = decodeText(bytes, said.encoding ?? null)
  if (text.includes('\0'))
    throw new SheetFault('This is neither a text file nor a workbook. CSV, XLSX, ODS and JSON can be read.')
  if (text.trim() === '') throw new SheetFault('The file is empty.')
  const collector = new RowCollector()
  // Without the last line break: the empty line after it would count against a delimiter of few columns.
  const parsed = Papa.parse<string[]>(text.replace(/[\r\n]+$/, ''), {
    delimitersToGuess: [...DELIMITERS],
    ...(said.delimiter ? { delimiter: said.delimiter } : {}),
  })
  const quotes = parsed.errors.find((error) => error.type === 'Quotes')
  if (quotes)
    throw new SheetFault(
      `Row ${(quotes.row ?? 0) + 1}: a quotation mark is opened and never closed, or text follows a closed one.`,
    )
  parsed.data.forEach((row, i) =>
    collector.put(
      i,
      row.map((cell): Cell => (cell === '' ? null : cell)),
    ),
  )
  return {
    kind: 'text',
    tables: [{ name, rows: collector.rows, joined: [] }],
    names: [],
    delimiter: parsed.meta.delimiter,
    encoding,
  }
}
