import Papa from 'papaparse'
import type { Cell } from '#core/outline/cell.ts'
import { type Encoding, ENCODING_NAMES } from '#core/sheet/encodings.ts'
import type { Book } from '#core/sheet/book.ts'
import { RowCollector, SheetFault } from './book.ts'
import { decodeText } from './encoding.ts'

/** Signs that may stand between the cells of a text file; the likelier first. */
export const DELIMITERS = [',', ';', '\t', '|', '^', '~', '\u001f'] as const
/** A text file with delimiters (RFC 4180 and what people make of it). */
export function readText(
  name: string,
  bytes: Uint8Array,
  said: { readonly delimiter?: string | null; readonly encoding?: Encoding | null } = {},
): Book {
  const { text, encoding, sure } = decodeText(bytes, said.encoding ?? null)
  if (text.includes('\0'))
    throw new SheetFault('This is neither a text file nor a workbook. CSV, XLSX, ODS and JSON can be read.')
  if (text.trim() === '') throw new SheetFault('The file is empty.')
  const collector = new RowCollector()
  // Without the last line break: the empty line after it would count against a delimiter of few columns.
  // Files that went through a program of text mode twice end their lines with two returns.
  const lines = text.includes('\r\r\n') ? text.replace(/\r{2,8}\n/g, '\n') : text
  const parsed = Papa.parse<string[]>(lines.slice(0, endOf(lines)), {
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
    notes: sure
      ? []
      : [
          `Read as ${ENCODING_NAMES[encoding]}, which is a guess: look at the letters beyond A to Z. Another encoding can be chosen.`,
        ],
  }
}

/** Where a text ends without its last line breaks. */
function endOf(text: string): number {
  let end = text.length
  while (end > 0 && (text[end - 1] === '\n' || text[end - 1] === '\r')) end--
  return end
}
