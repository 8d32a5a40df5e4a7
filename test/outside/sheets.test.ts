import { createRequire } from 'node:module'
import { expect } from 'chai'
import ExcelJS from 'exceljs'
import JSZip from 'jszip'
import { read, utils, write } from 'xlsx'
import spectrum from 'csv-spectrum'
import { serialDate } from '#core/sheet/serial-date.ts'
import { cellText } from '#core/outline/cell.ts'
import { ASKED_NOTHING } from '#core/sheet/book.ts'
import { openBook, readSheetFile } from '#server/convert/sheet/read-sheet.ts'

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

describe('spreadsheets of the OpenDocument format (OASIS OpenDocument 1.3, part 3), written by SheetJS', () => {
  it('have their cells by type: dates, percentages, truth, text with breaks, and gaps', async () => {
    const sheet = utils.aoa_to_sheet([
      ['Orchard', 'Bloom', 'Share', 'Organic', 'Acres', 'Note'],
      ['Brightwater', null, 0.125, true, 120.5, 'two\nlines'],
      [],
      ['Foxford', null, null, false, 40, null],
    ])
    sheet['B2'] = { t: 'd', v: new Date(Date.UTC(2027, 2, 28)), z: 'yyyy-mm-dd' }
    sheet['C2'] = { t: 'n', v: 0.125, z: '0.0%' }
    const workbook = utils.book_new()
    utils.book_append_sheet(workbook, sheet, 'Bookings')
    const bytes = new Uint8Array(write(workbook, { type: 'array', bookType: 'ods' }) as ArrayBuffer)
    const { tables, kind } = await openBook('a.ods', bytes)
    expect(kind).to.equal('ods')
    const [head, first, gap, second] = tables[0]!.rows
    expect(head).to.have.length(6)
    expect(first!.slice(0, 2)).to.deep.equal(['Brightwater', { date: '2027-03-28' }])
    expect(first!.slice(3)).to.deep.equal([true, 120.5, 'two\nlines'])
    expect(gap).to.deep.equal([])
    expect(second).to.deep.equal(['Foxford', null, null, false, 40])
  })

  it('by hand: joined cells, repeats, errors, notes, hidden sheets and named ranges', async () => {
    const content = (body: string) =>
      `<?xml version="1.0" encoding="UTF-8"?><office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" xmlns:style="urn:oasis:names:tc:opendocument:xmlns:style:1.0"><office:automatic-styles><style:style style:name="h"><style:table-properties table:display="false"/></style:style></office:automatic-styles><office:body><office:spreadsheet>${body}</office:spreadsheet></office:body></office:document-content>`
    const bytes = await odsOf(
      content(`<table:table table:name="Secret" table:style-name="h"><table:table-row><table:table-cell office:value-type="string"><text:p>x</text:p></table:table-cell></table:table-row></table:table>
<table:table table:name="Price list"><table:table-row><table:table-cell office:value-type="string"><text:p>Item</text:p></table:table-cell><table:table-cell table:number-columns-spanned="2" office:value-type="string"><text:p>Bloom</text:p></table:table-cell><table:covered-table-cell/></table:table-row>
<table:table-row table:number-rows-repeated="2"><table:table-cell office:value-type="string"><office:annotation><text:p>a note</text:p></office:annotation><text:p>Colony</text:p></table:table-cell><table:table-cell office:value-type="percentage" office:value="0.06"/><table:table-cell office:value-type="string"><text:p>#REF!</text:p></table:table-cell></table:table-row>
<table:table-row table:number-rows-repeated="1048570"><table:table-cell table:number-columns-repeated="16384"/></table:table-row></table:table>
<table:named-expressions><table:named-range table:name="prices" table:cell-range-address="$'Price list'.$A$1:.$C$3"/></table:named-expressions>`),
    )
    const book = await openBook('a.ods', bytes)
    expect(book.tables.map(({ name }) => name)).to.deep.equal(['Price list'])
    expect(book.tables[0]!.rows).to.deep.equal([
      ['Item', 'Bloom'],
      ['Colony', { fraction: 0.06 }, { error: '#REF!' }],
      ['Colony', { fraction: 0.06 }, { error: '#REF!' }],
    ])
    expect(book.tables[0]!.joined).to.deep.equal([{ row: 0, column: 1, rows: 1, columns: 2 }])
    expect(book.names).to.deep.equal([{ name: 'prices', table: 'Price list', range: 'A1:C3' }])
  })
})

async function odsOf(content: string, manifest = ''): Promise<Uint8Array> {
  const zip = new JSZip()
  zip.file('mimetype', 'application/vnd.oasis.opendocument.spreadsheet', { compression: 'STORE' })
  zip.file('content.xml', content)
  zip.file('META-INF/manifest.xml', `<manifest>${manifest}</manifest>`)
  return zip.generateAsync({ type: 'uint8array' })
}

describe('number formats of their own (ECMA-376 part 1, 18.8.31), by both libraries', () => {
  it('tell dates and percentages from numbers, and words with a percent sign from either', async () => {
    const workbook = new ExcelJS.Workbook()
    const sheet = workbook.addWorksheet('A')
    sheet.addRow(['Bloom', 'Share', 'Words', 'Price', 'Sum'])
    sheet.addRow([new Date(Date.UTC(2027, 2, 28)), 0.125, 12, 195, 0.1 + 0.2])
    sheet.getCell('A2').numFmt = '[$-409]dddd, mmmm d, yyyy'
    sheet.getCell('B2').numFmt = '0.0 %'
    sheet.getCell('C2').numFmt = '0" % of colonies"'
    sheet.getCell('D2').numFmt = '[$$-409]#,##0.00;[Red]-[$$-409]#,##0.00'
    const byExceljs = await openBook('a.xlsx', new Uint8Array(await workbook.xlsx.writeBuffer()))
    expect(byExceljs.tables[0]!.rows[1]).to.deep.equal([
      { date: '2027-03-28' },
      { fraction: 0.125 },
      12,
      195,
      0.3,
    ])
    const second = utils.aoa_to_sheet([
      ['Bloom', 'Share'],
      [46474, 0.5],
    ])
    second['A2'].z = 'd. mmm yy'
    second['B2'].z = '0%'
    const book = utils.book_new()
    utils.book_append_sheet(book, second, 'A')
    const bySheetjs = await openBook(
      'a.xlsx',
      new Uint8Array(write(book, { type: 'array', bookType: 'xlsx' }) as ArrayBuffer),
    )
    expect(bySheetjs.tables[0]!.rows[1]).to.deep.equal([{ date: '2027-03-28' }, { fraction: 0.5 }])
  })

  it('tell times of day and dates with times, and keep codes with their zeros', async () => {
    const workbook = new ExcelJS.Workbook()
    const sheet = workbook.addWorksheet('A')
    sheet.addRow(['From', 'At', 'Long', 'Code', 'Day'])
    sheet.addRow([0.2708333333, 46474.75, 1.5, 417, 46474])
    for (const [cell, format] of [
      ['A2', 'h:mm'],
      ['B2', 'yyyy-mm-dd hh:mm'],
      ['C2', '[h]:mm'],
      ['D2', '00000'],
      ['E2', 'd/m/yy h:mm'],
    ] as const)
      sheet.getCell(cell).numFmt = format
    sheet.getRow(2).hidden = true
    const book = await openBook('a.xlsx', new Uint8Array(await workbook.xlsx.writeBuffer()))
    expect(book.tables[0]!.rows[1]).to.deep.equal([
      { time: '06:30' },
      { dateTime: '2027-03-28T18:00' },
      // Longer than a day: no time of day, and no date that anybody wrote.
      '36:00',
      '00417',
      { date: '2027-03-28' },
    ])
    expect([...book.tables[0]!.hidden!]).to.deep.equal([1])
  })

  it('read a number by the section of its format that is its own, and times to tenths (ECMA-376 part 1, 18.8.31)', async () => {
    const workbook = new ExcelJS.Workbook()
    const sheet = workbook.addWorksheet('A')
    const cells = [
      // Zero is shown as a stroke: it is none, and no midnight.
      ['h:mm;;"–"', 0, 0],
      ['h:mm;;"–"', 0.25, { time: '06:00' }],
      ['[=0]"none";h:mm', 0, 0],
      ['[=0]"none";h:mm', 0.5, { time: '12:00' }],
      ['[<1]h:mm;yyyy-mm-dd', 46474, { date: '2027-03-28' }],
      ['[<1]h:mm;yyyy-mm-dd', 0.75, { time: '18:00' }],
      ['0.0%;-0.0%;0', 0.12, { fraction: 0.12 }],
      ['"a;b"h:mm', 0.25, { time: '06:00' }],
      ['h:mm', 0, { time: '00:00' }],
      ['mm:ss.0', (12 * 60 + 45.5) / 86_400, { time: '00:12:45.5' }],
      ['hh:mm:ss.000', 0.5 + 0.25 / 86_400, { time: '12:00:00.25' }],
    ] as const
    sheet.addRow(cells.map((_, i) => `C${i}`))
    sheet.addRow(cells.map(([, value]) => value))
    cells.forEach(([format], i) => (sheet.getCell(2, i + 1).numFmt = format))
    const book = await openBook('a.xlsx', new Uint8Array(await workbook.xlsx.writeBuffer()))
    expect(book.tables[0]!.rows[1]).to.deep.equal(cells.map(([, , read]) => read))
  })

  it('have their parts wherever the package says, whatever they are called (ECMA-376 part 2, 9.3)', async () => {
    const workbook = new ExcelJS.Workbook()
    const sheet = workbook.addWorksheet('Bookings')
    sheet.addRow(['Orchard', 'Day'])
    sheet.addRow(['Brightwater', new Date(Date.UTC(2027, 2, 28))])
    const usual = await JSZip.loadAsync(await workbook.xlsx.writeBuffer())
    const moved = new JSZip()
    const names: Readonly<Record<string, string>> = {
      'xl/workbook.xml': 'content/Book.xml',
      'xl/_rels/workbook.xml.rels': 'content/_rels/Book.xml.rels',
      'xl/worksheets/sheet1.xml': 'content/pages/first.xml',
      'xl/sharedStrings.xml': 'words.xml',
      'xl/styles.xml': 'content/looks.xml',
    }
    for (const [name, file] of Object.entries(usual.files)) {
      const text = await file.async('string')
      moved.file(
        names[name] ?? name,
        text
          .replace('xl/workbook.xml', 'CONTENT/book.XML')
          .replace('worksheets/sheet1.xml', 'pages/first.xml')
          .replace('"sharedStrings.xml', '"../words.xml')
          .replace('"styles.xml', '"/content/looks.xml'),
      )
    }
    const book = await openBook('a.xlsx', await moved.generateAsync({ type: 'uint8array' }))
    expect(book.tables.map(({ name, rows }) => [name, rows])).to.deep.equal([
      [
        'Bookings',
        [
          ['Orchard', 'Day'],
          ['Brightwater', { date: '2027-03-28' }],
        ],
      ],
    ])
  })

  it('offer the tables that a workbook defines as ranges', async () => {
    const workbook = new ExcelJS.Workbook()
    const sheet = workbook.addWorksheet('The list')
    sheet.addTable({
      name: 'Bookings',
      ref: 'B3',
      columns: [{ name: 'Orchard' }, { name: 'Acres' }],
      rows: [
        ['Brightwater', 12],
        ['Foxford', 30],
      ],
    })
    const book = await openBook('a.xlsx', new Uint8Array(await workbook.xlsx.writeBuffer()))
    expect(book.names).to.deep.equal([{ name: 'Bookings', table: 'The list', range: 'B3:C5' }])
  })

  it('and named ranges, joined names and several sheets are found', async () => {
    const workbook = new ExcelJS.Workbook()
    workbook.addWorksheet('Cover').addRow(['Bookings of 2027'])
    const sheet = workbook.addWorksheet('The list')
    sheet.addRow(['Orchard', 'Bloom', null])
    sheet.addRow([null, 'from', 'until'])
    sheet.mergeCells('B1:C1')
    for (let i = 0; i < 5; i++) sheet.addRow([`Orchard ${i}`, 'a', 'b'])
    workbook.definedNames.add("'The list'!$A$1:$C$4", 'first_two')
    const bytes = new Uint8Array(await workbook.xlsx.writeBuffer())
    const whole = await readSheetFile('a.xlsx', bytes)
    expect(whole.ok && whole.columns.map(({ name }) => name)).to.deep.equal([
      'Orchard',
      'Bloom from',
      'Bloom until',
    ])
    expect(whole.ok && whole.reading.table).to.equal('The list')
    const ranged = await readSheetFile('a.xlsx', bytes, { ...ASKED_NOTHING, range: 'first_two' })
    expect(ranged.ok && ranged.rows.map(({ row }) => row)).to.deep.equal([3, 4])
  })
})

describe('files that sheets make hard', () => {
  const problem = async (name: string, bytes: Uint8Array, reading = ASKED_NOTHING) => {
    const read = await readSheetFile(name, bytes, reading)
    return read.ok ? `read ${read.rows.length}` : read.problem
  }
  const csv = (rows: readonly string[]) => Buffer.from(rows.join('\r\n'))

  it('with a million empty rows at the end are read to their last value', async () => {
    const workbook = new ExcelJS.Workbook()
    const sheet = workbook.addWorksheet('A')
    sheet.addRow(['Orchard', 'Acres'])
    sheet.addRow(['Brightwater', 12])
    const zip = await JSZip.loadAsync(await workbook.xlsx.writeBuffer())
    const part = 'xl/worksheets/sheet1.xml'
    const empty = Array.from({ length: 1_000_000 }, (_, i) => `<row r="${i + 3}" ht="15"/>`).join('')
    zip.file(part, (await zip.file(part)!.async('string')).replace('</sheetData>', `${empty}</sheetData>`))
    expect(
      await problem('a.xlsx', await zip.generateAsync({ type: 'uint8array', compression: 'DEFLATE' })),
    ).to.equal('read 1')
  }).timeout(240_000)

  it('with five hundred columns are taken, with more refused in words', async () => {
    const wide = (columns: number) =>
      csv(
        [0, 1].map((row) =>
          Array.from({ length: columns }, (_, i) => `${row ? 'v' : 'Column'} ${i}`).join(','),
        ),
      )
    expect(await problem('a.csv', wide(500))).to.equal('read 1')
    expect(await problem('a.csv', wide(501))).to.equal('Row 1 has 501 columns; 500 is the most.')
  })

  it('with a cell longer than a spreadsheet allows (32,767; common practice) say where it is', async () => {
    expect(await problem('a.csv', csv(['Orchard,Note', `Brightwater,${'x'.repeat(32_768)}`]))).to.equal(
      'Row 2, column 2 has 32768 characters; a cell may have 32767.',
    )
  })

  it('protected by a password are told as such, in either format', async () => {
    const ole = Buffer.concat([Buffer.from('d0cf11e0a1b11ae1', 'hex'), Buffer.alloc(600)])
    expect(await problem('a.xlsx', ole)).to.contain('protected by a password')
    expect(await problem('a.ods', await odsOf('<x/>', '<encryption-data/>'))).to.contain(
      'protected by a password',
    )
  })

  it('that mean harm are refused: entities, bombs, damage', async () => {
    const entities = '<!DOCTYPE x [<!ENTITY a "b">]><office:document-content/>'
    expect(await problem('a.ods', await odsOf(entities))).to.contain('not allowed to define entities')
    expect(await problem('a.ods', await odsOf('<office:document-content><a>'))).to.contain('damaged')
    const zip = new JSZip()
    zip.file('xl/workbook.xml', `<workbook>${' '.repeat(210_000_000)}</workbook>`)
    const bomb = await zip.generateAsync({ type: 'uint8array', compression: 'DEFLATE' })
    expect(bomb.length).to.be.lessThan(1_000_000)
    expect(await problem('a.xlsx', bomb)).to.contain('larger than any that is taken')
  }).timeout(60_000)

  it('with double names, mixed types and ragged rows lose nothing', async () => {
    const read = await readSheetFile('a.csv', csv(['Name;Name;Acres', 'a;b;12', 'c;d;twelve;and more', 'e']))
    if (!read.ok) throw new Error(read.problem)
    expect(read.columns.map(({ name }) => name)).to.deep.equal(['Name', 'Name (2)', 'Acres', 'Column D'])
    expect(read.columns[2]).to.include({ type: 'text' })
    expect(read.rows.map(({ cells }) => cells.length)).to.deep.equal([3, 4, 1])
    expect(read.notes[0]).to.contain('Row 3 has more cells')
  })

  it('are read as somebody says: delimiter, encoding, row of names', async () => {
    const bytes = Buffer.from('title\r\nOrchard|Acres\r\nMañana|1,5\r\n', 'latin1')
    const read = await readSheetFile('a.csv', bytes, {
      ...ASKED_NOTHING,
      delimiter: '|',
      encoding: 'windows-1252',
      headerRow: 2,
    })
    expect(read.ok && read.rows[0]!.cells).to.deep.equal(['Mañana', '1,5'])
    expect(await problem('a.csv', bytes, { ...ASKED_NOTHING, range: 'everything' })).to.contain('is no range')
    expect(await problem('a.csv', bytes, { ...ASKED_NOTHING, headerRow: 40 })).to.contain('Row 40 is empty')
  })
})

describe('JSON (RFC 8259)', () => {
  const read = async (value: unknown) => {
    const found = await readSheetFile('a.json', Buffer.from(JSON.stringify(value)))
    if (!found.ok) throw new Error(found.problem)
    return { names: found.columns.map(({ name }) => name), rows: found.rows.map(({ cells }) => cells) }
  }

  it('gives groups and lists as columns; what a row lacks is empty', async () => {
    const found = await read([
      {
        name: 'Brightwater',
        grower: { mail: 'a@b.example' },
        lots: [{ item: 'Queen', n: 2 }, { item: 'Frame' }],
      },
      { name: 'Foxford', acres: 12.5, organic: true, tags: ['a', 'b'] },
    ])
    expect(found.names).to.deep.equal([
      'name',
      'grower mail',
      'lots 1 item',
      'lots 1 n',
      'lots 2 item',
      'acres',
      'organic',
      'tags',
    ])
    expect(found.rows[1]).to.deep.equal(['Foxford', null, null, null, null, 12.5, true, 'a, b'])
  })

  it('finds the list inside an object, and says what is missing where there is none', async () => {
    expect((await read({ season: 2027, bookings: [{ a: 1 }, { a: 2 }] })).rows).to.deep.equal([[1], [2]])
    for (const bad of ['{"a": 1', '[1, 2]', '{"a": []}']) {
      const found = await readSheetFile('a.json', Buffer.from(bad))
      expect(found.ok).to.equal(false)
    }
  })

  it('with an object a line is a list of them, and a broken line is a fault', async () => {
    const lines = await readSheetFile('a.json', Buffer.from('{"a": 1, "b": "x"}\n\n{"a": 2}\r\n'))
    expect(lines.ok && lines.rows.map(({ cells }) => cells)).to.deep.equal([[1, 'x'], [2]])
    for (const bad of ['{"a": 1}\n{"a": ', '{"a": 1}\n[2]', '{"a": 1}\nwords'])
      expect((await readSheetFile('a.json', Buffer.from(bad))).ok, bad).to.equal(false)
  })

  it('loses the one character that nothing can keep, in names and in values', async () => {
    const found = await read([{ 'Orch\0ard': 'Fox\0ford', acres: 12 }, { acres: 13 }])
    expect(found).to.deep.equal({
      names: ['Orchard', 'acres'],
      rows: [
        ['Foxford', 12],
        [null, 13],
      ],
    })
  })

  it('names columns like parts of objects without harm', async () => {
    const found = await readSheetFile(
      'a.json',
      Buffer.from('[{"constructor": 1, "__proto__": {"polluted": "yes"}, "toString": "x"}]'),
    )
    expect(found.ok && found.columns.map(({ name }) => name)).to.include('constructor')
    expect(({} as Record<string, unknown>)['polluted']).to.equal(undefined)
  })
})
