import { expect } from 'chai'
import JSZip from 'jszip'
import mammoth from 'mammoth'
import { read, utils } from 'xlsx'
import { cellText } from '#core/outline/cell.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import { readDocx } from '#server/convert/docx/read.ts'
import { openBook, readSheetFile } from '#server/convert/sheet/read-sheet.ts'
import { documentBytes, documents } from './files/documents.ts'
import type { AwkwardSheet } from './files/awkward.ts'
import { texts } from './files/texts.ts'
import { workbooks } from './files/workbooks.ts'

/** Cells with anything in them, a table at a time. */
const filled = (rows: readonly (readonly unknown[])[]) =>
  rows.flat().filter((cell) => cell !== null && cell !== undefined && String(cell).trim() !== '').length

/** What SheetJS finds in the same bytes. */
async function bySheetJs(file: string, bytes: Uint8Array): Promise<number[]> {
  const whole = file.endsWith('.ods') ? await withManifest(bytes) : bytes
  const book = read(whole, { type: 'array', cellDates: false, raw: true })
  return book.SheetNames.map((name) =>
    filled(utils.sheet_to_json<unknown[]>(book.Sheets[name]!, { header: 1, raw: false, blankrows: true })),
  )
}

/** SheetJS takes no OpenDocument file without its list of parts (ODF 1.3 part 2, 3.2), which ours can do without. */
async function withManifest(bytes: Uint8Array): Promise<Uint8Array> {
  const zip = await JSZip.loadAsync(bytes)
  zip.file(
    'META-INF/manifest.xml',
    '<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"/>',
  )
  return zip.generateAsync({ type: 'uint8array' })
}

describe('awkward sheets', () => {
  for (const awkward of [...workbooks, ...texts] satisfies readonly AwkwardSheet[])
    it(`${awkward.file}: ${awkward.fault}`, async () => {
      const bytes = await awkward.bytes()
      const found = await readSheetFile(awkward.file, bytes)
      if (!found.ok) throw new Error(found.problem)
      const { columns, rows } = found
      expect(columns.map(({ name }) => name)).to.deep.equal(awkward.names)
      const taken = rows.filter(({ aside }) => aside === null)
      expect(taken, 'rows of data').to.have.length(awkward.rows)
      expect(rows.length - taken.length, 'rows set aside').to.equal(awkward.aside ?? 0)
      for (const [name, type] of Object.entries(awkward.types ?? {}))
        expect(columns.find((column) => column.name === name)!.type, name).to.equal(type)
      for (const [name, text] of Object.entries(awkward.first ?? {}))
        expect(cellText(taken[0]!.cells[awkward.names.indexOf(name)] ?? null).trim(), name).to.equal(text)
      if (awkward.alone) return
      const ours = (await openBook(awkward.file, bytes)).tables.map((table) =>
        filled(table.rows.map((row) => row.map((cell) => cellText(cell)))),
      )
      expect(ours, 'filled cells, as SheetJS counts them').to.deep.equal(await bySheetJs(awkward.file, bytes))
    })
})

/** All texts of a template's document, in order, whatever they stand in. */
function textsOf(node: unknown): string[] {
  if (Array.isArray(node)) return node.flatMap(textsOf)
  if (typeof node !== 'object' || node === null) return []
  const { text, content } = node as { text?: unknown; content?: unknown }
  return typeof text === 'string' ? [text] : textsOf(content)
}

/** Letters and figures alone: what a second reader calls a field, and how it spaces, is its own matter. */
const bare = (text: string) => text.replace(/[^\p{L}\p{N}]/gu, '')

describe('awkward documents', () => {
  for (const awkward of documents)
    it(`${awkward.file}: ${awkward.fault}`, async () => {
      const bytes = await documentBytes(awkward)
      const found = await readDocx(awkward.file, bytes, () => true)
      if (!found.ok) throw new Error(found.problem)
      const text = textsOf(found.content.document).join('')
      let from = 0
      for (const words of awkward.keeps) {
        const at = text.indexOf(words.trim(), from)
        expect(at, `“${words}” in “${text}”`).to.be.at.least(0)
        from = at + words.trim().length
      }
      const names = found.content.outline.map(({ name }) => name)
      for (const name of awkward.fields ?? []) expect(names).to.include(name)
      const told = found.report.map(({ what }) => what).join(' | ')
      if (awkward.tells) expect(told).to.match(awkward.tells)
      expect(prepareTemplate(found.content).ok, 'a template that can be merged').to.equal(true)
      // Nothing that a second reader finds is lost without a word: a note or box that was left out is told.
      if (awkward.tells || awkward.alone) return
      const { value } = await mammoth.extractRawText({ buffer: Buffer.from(bytes) })
      const whole = bare(JSON.stringify(found.content.document) + text)
      for (const word of value
        .replaceAll(/[«»{}]/g, ' ')
        .split(/\s+/)
        .filter(Boolean))
        expect(whole, `“${word}”, which mammoth finds`).to.contain(bare(word))
    })
})
