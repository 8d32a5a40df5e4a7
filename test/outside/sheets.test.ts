import { createRequire } from 'node:module'
import { expect } from 'chai'
import ExcelJS from 'exceljs'
import { read, utils, write } from 'xlsx'
import spectrum from 'csv-spectrum'
import { serialDate } from '#core/sheet/serial-date.ts'
import { cellText } from '#core/sheet/cell.ts'
import { openBook } from '#server/convert/sheet/read-sheet.ts'

interface SpectrumCase {
  readonly name: string
  readonly csv: Buffer
  readonly json: Buffer
}

const cases = await new Promise<readonly SpectrumCase[]>((resolve, reject) =>
  spectrum((error: Error | null, found: SpectrumCase[]) => (error ? reject(error) : resolve(found))),
)

async function rowsOf(name: string, bytes: Uint8Array): Promise<string[][]> {
  const { rows } = (await openBook(name, bytes)).tables[0]!
  const width = rows[0]!.length
  return rows.map((row) => Array.from({ length: width }, (_, i) => cellText(row[i] ?? null)))
}

describe('CSV as csv-spectrum has it (RFC 4180 and its edges)', () => {
  for (const { name, csv, json } of cases)
    it(name, async () => {
      // One of its cases gives its only row bare, outside a list.
      const expected = [JSON.parse(json.toString()) as Record<string, string>[]].flat()
      const [header, ...rows] = await rowsOf('a.csv', csv)
      const found = rows.map((row) => Object.fromEntries(header!.map((column, i) => [column, row[i]])))
      // In csv-spectrum 2.0 this case's two files have different telephone numbers; the rest must agree.
      if (name === 'location_coordinates')
        [...found, ...expected].forEach((row) => delete row['Contact Phone Number'])
      expect(found).to.deep.equal(expected)
    })
})

describe('text files in other encodings', () => {
  const text = 'Orchard;Contact\r\nMañana;José Núñez\r\n'
  it('UTF-16 with its mark (Unicode 15, 2.6)', async () => {
    expect(await rowsOf('a.csv', Buffer.from(`\ufeff${text}`, 'utf16le'))).to.deep.equal([
      ['Orchard', 'Contact'],
      ['Mañana', 'José Núñez'],
    ])
  })
  it('Windows-1252 (WHATWG Encoding), which is no valid UTF-8', async () => {
    expect(await rowsOf('a.csv', Buffer.from(text, 'latin1'))).to.deep.equal([
      ['Orchard', 'Contact'],
      ['Mañana', 'José Núñez'],
    ])
  })
})

describe('serial dates (ECMA-376 part 1, 18.17.4.1)', () => {
  // The specification's own examples: 1900 system 1 = 1900-01-01, 2958465 = 9999-12-31; 1904 system 0 = 1904-01-01.
  it('gives the specification’s examples', () => {
    expect(serialDate(1)?.toString()).to.equal('1900-01-01')
    expect(serialDate(59)?.toString()).to.equal('1900-02-28')
    expect(serialDate(60)).to.equal(null)
    expect(serialDate(61)?.toString()).to.equal('1900-03-01')
    expect(serialDate(2_958_465)?.toString()).to.equal('9999-12-31')
    expect(serialDate(0, 1904)?.toString()).to.equal('1904-01-01')
  })

  // SheetJS writes the file and computes the serial numbers; exceljs, our reader, has no part in that.
  for (const date1904 of [false, true])
    it(`reads back a file of the ${date1904 ? 1904 : 1900} system written by a second library`, async () => {
      const days = ['1904-01-02', '1999-12-31', '2000-02-29', '2027-03-28', '2100-03-01']
      const epoch = Date.UTC(date1904 ? 1904 : 1899, date1904 ? 0 : 11, date1904 ? 1 : 30)
      const sheet = utils.aoa_to_sheet([['Name', 'Bloom']])
      days.forEach((day, i) => {
        const serial = (Date.parse(day) - epoch) / 86_400_000
        utils.sheet_add_aoa(sheet, [[`r${i}`, null]], { origin: -1 })
        sheet[`B${i + 2}`] = { t: 'n', v: serial, z: 'm/d/yyyy' }
      })
      sheet['!ref'] = `A1:B${days.length + 1}`
      const workbook = utils.book_new()
      utils.book_append_sheet(workbook, sheet, 'Bookings')
      workbook.Workbook = { WBProps: { date1904 } }
      const bytes = new Uint8Array(write(workbook, { type: 'array', bookType: 'xlsx' }) as ArrayBuffer)
      expect((await rowsOf('a.xlsx', bytes)).slice(1).map(([, day]) => day)).to.deep.equal(days)
      // What SheetJS itself shows of its file, as the third witness.
      const again = utils.sheet_to_json<string[]>(read(bytes).Sheets['Bookings']!, {
        header: 1,
        raw: false,
        dateNF: 'yyyy-mm-dd',
      })
      expect(again.slice(1).map((row) => row[1])).to.have.length(days.length)
    })

  it('agrees with SheetJS’s own date code for every 97th day of the 1900 system', () => {
    const { SSF } = createRequire(import.meta.url)('xlsx') as {
      SSF: { parse_date_code(serial: number): { y: number; m: number; d: number } }
    }
    for (let serial = 61; serial < 2_958_465; serial += 97) {
      const { y, m, d } = SSF.parse_date_code(serial)
      expect(serialDate(serial)?.toString()).to.equal(
        `${String(y).padStart(4, '0')}-${String(m).padStart(2, '0')}-${String(d).padStart(2, '0')}`,
      )
    }
  })
})

describe('workbooks by two libraries', () => {
  it('cells of every kind: numbers, percentages, formulas by their stored value, rich text, errors, merged names', async () => {
    const workbook = new ExcelJS.Workbook()
    const sheet = workbook.addWorksheet('A')
    sheet.addRow(['Name', 'Share', 'Sum', 'Rich', 'Wrong', 'Yes'])
    sheet.addRow([
      'Brightwater',
      0.12,
      { formula: '1+1', result: 2 },
      { richText: [{ text: 'a' }, { text: 'b', font: { bold: true } }] },
      { error: '#REF!' },
      true,
    ])
    sheet.getCell('B2').numFmt = '0.0%'
    sheet.mergeCells('A3:B3')
    sheet.getCell('A3').value = 'merged'
    const { rows } = (await openBook('a.xlsx', new Uint8Array(await workbook.xlsx.writeBuffer()))).tables[0]!
    expect(rows[1]).to.deep.equal(['Brightwater', { fraction: 0.12 }, 2, 'ab', { error: '#REF!' }, true])
    expect(rows[2]).to.deep.equal(['merged'])
  })
})
