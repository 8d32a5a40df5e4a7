import ExcelJS from 'exceljs'
import { ods } from '#test/support/hostile-files.ts'
import type { AwkwardSheet } from './awkward.ts'

type Fill = (sheet: ExcelJS.Worksheet, workbook: ExcelJS.Workbook) => void

const workbook = (fill: Fill) => async () => {
  const made = new ExcelJS.Workbook()
  fill(made.addWorksheet('Bookings'), made)
  return new Uint8Array(await made.xlsx.writeBuffer())
}

const ORCHARDS = ['Brightwater', 'Foxford', 'Alder Bend', 'Sedge Harbor', 'Tansy Falls']
const many = (row: (orchard: string, i: number) => unknown[]) => ORCHARDS.map(row)

const odsCell = (text: string, more = '') =>
  `<table:table-cell office:value-type="string"${more}><text:p>${text}</text:p></table:table-cell>`
const odsRow = (...cells: readonly string[]) => `<table:table-row>${cells.join('')}</table:table-row>`

export const workbooks: readonly AwkwardSheet[] = [
  {
    file: 'title-above.xlsx',
    fault: 'A title, a date and an empty row stand above the row of names.',
    bytes: workbook((sheet) => {
      sheet.addRow(['Bookings of the season 2027'])
      sheet.addRow(['As of', new Date(Date.UTC(2026, 10, 2))])
      sheet.addRow([])
      sheet.addRow(['Orchard', 'Acres'])
      sheet.addRows(many((name, i) => [name, 10 + i]))
    }),
    names: ['Orchard', 'Acres'],
    rows: 5,
    types: { Acres: 'number' },
  },
  {
    file: 'years-as-names.xlsx',
    fault: 'Columns are named by years, which look like figures.',
    bytes: workbook((sheet) => {
      sheet.addRow(['Orchard', 2025, 2026, 2027])
      sheet.addRows(many((name, i) => [name, 100 + i, 110 + i, 120 + i]))
    }),
    names: ['Orchard', '2025', '2026', '2027'],
    rows: 5,
    types: { '2026': 'number' },
  },
  {
    file: 'names-in-two-rows.xlsx',
    fault: 'A name is joined over two columns, which have names of their own below it.',
    bytes: workbook((sheet) => {
      sheet.addRow(['Orchard', 'Bloom', null])
      sheet.addRow([null, 'from', 'until'])
      sheet.mergeCells('B1:C1')
      sheet.addRows(many((name) => [name, 'March', 'April']))
    }),
    names: ['Orchard', 'Bloom from', 'Bloom until'],
    rows: 5,
  },
  {
    file: 'joined-downwards.xlsx',
    fault: 'A customer stands once, joined down over the rows that are theirs.',
    bytes: workbook((sheet) => {
      sheet.addRow(['Orchard', 'Lot', 'Price'])
      sheet.addRow(['Brightwater', 'north', 10])
      sheet.addRow([null, 'south', 12])
      sheet.addRow(['Foxford', 'east', 9])
      sheet.mergeCells('A2:A3')
    }),
    names: ['Orchard', 'Lot', 'Price'],
    rows: 3,
    first: { Orchard: 'Brightwater', Lot: 'north' },
    alone: 'the value of joined cells is in each of them here, in the first alone there',
  },
  {
    file: 'codes-by-format.xlsx',
    fault: 'Codes are numbers that get their leading zeros from the format 00000.',
    bytes: workbook((sheet) => {
      sheet.addRow(['Orchard', 'Postal code'])
      sheet.addRows(many((name, i) => [name, 812 + i]))
      sheet.getColumn(2).numFmt = '00000'
    }),
    names: ['Orchard', 'Postal code'],
    rows: 5,
    first: { 'Postal code': '00812' },
  },
  {
    file: 'hidden-rows.xlsx',
    fault: 'Rows are hidden by a filter: whoever looks does not see them.',
    bytes: workbook((sheet) => {
      sheet.addRow(['Orchard', 'Status'])
      sheet.addRows(many((name, i) => [name, i % 2 ? 'lost' : 'agreed']))
      for (const row of [3, 5]) sheet.getRow(row).hidden = true
    }),
    names: ['Orchard', 'Status'],
    rows: 3,
    aside: 2,
  },
  {
    file: 'total-below.xlsx',
    fault: 'The last row adds the others up, and would become somebody’s agreement.',
    bytes: workbook((sheet) => {
      sheet.addRow(['Orchard', 'Colonies', 'Rent'])
      sheet.addRows(many((name, i) => [name, 10 * (i + 1), 100 * (i + 1)]))
      sheet.addRow(['Total', 150, 1500])
    }),
    names: ['Orchard', 'Colonies', 'Rent'],
    rows: 5,
    aside: 1,
  },
  {
    file: 'names-repeated.xlsx',
    fault: 'The row of names stands again in the middle, as printed lists have it on each page.',
    bytes: workbook((sheet) => {
      sheet.addRow(['Orchard', 'Crop'])
      sheet.addRows(many((name) => [name, 'cherry']).slice(0, 3))
      sheet.addRow(['Orchard', 'Crop'])
      sheet.addRows(many((name) => [name, 'apple']).slice(3))
    }),
    names: ['Orchard', 'Crop'],
    rows: 5,
    aside: 1,
  },
  {
    file: 'formulas.xlsx',
    fault: 'Cells are formulas, one of them with an error for its value.',
    bytes: workbook((sheet) => {
      sheet.addRow(['Orchard', 'Colonies', 'Rent'])
      sheet.addRows(
        many((name, i) => [
          name,
          i + 1,
          { formula: `B${i + 2}*195`, result: 195 * (i + 1), date1904: false },
        ]),
      )
      sheet.getCell('C4').value = { formula: '1/0', result: { error: '#DIV/0!' } } as ExcelJS.CellFormulaValue
    }),
    names: ['Orchard', 'Colonies', 'Rent'],
    rows: 5,
    types: { Rent: 'number' },
    first: { Rent: '195' },
    alone: 'an error is told here and left out there',
  },
  {
    file: 'texts-with-spaces.xlsx',
    fault: 'Values have blanks around them, hard ones among them, and rich text.',
    bytes: workbook((sheet) => {
      sheet.addRow([' Orchard', 'Acres\u00a0'])
      sheet.addRow(['Brightwater \u00a0', '\u00a0120 '])
      sheet.addRow([{ richText: [{ text: 'Fox' }, { font: { bold: true }, text: 'ford' }] }, ' 80'])
    }),
    names: ['Orchard', 'Acres'],
    rows: 2,
    types: { Acres: 'number' },
  },
  {
    file: 'another-sheet.xlsx',
    fault: 'The first sheet is a cover; the table stands on the second.',
    bytes: workbook((sheet, made) => {
      sheet.addRow(['Bookings of 2027'])
      const list = made.addWorksheet('List')
      list.addRow(['Orchard', 'Acres'])
      list.addRows(many((name, i) => [name, i + 1]))
    }),
    names: ['Orchard', 'Acres'],
    rows: 5,
  },
  {
    file: 'percent-two-ways.xlsx',
    fault: 'A discount is 0.05 shown as 5 %, as spreadsheets keep it.',
    bytes: workbook((sheet) => {
      sheet.addRow(['Orchard', 'Discount'])
      sheet.addRows(many((name, i) => [name, 0.05 * (i + 1)]))
      sheet.getColumn(2).numFmt = '0%'
    }),
    names: ['Orchard', 'Discount'],
    rows: 5,
    types: { Discount: 'percent' },
  },
  {
    file: 'dates-and-times.xlsx',
    fault:
      'Days, times of day and both stand as serial numbers, told apart by their formats alone (ECMA-376 part 1, 18.17.4).',
    bytes: workbook((sheet) => {
      sheet.addRow(['Orchard', 'Day', 'Time', 'Both'])
      sheet.addRows(many((name) => [name, 46_466, 0.25, 46_466.75]))
      sheet.getColumn(2).numFmt = 'yyyy-mm-dd'
      sheet.getColumn(3).numFmt = 'hh:mm'
      sheet.getColumn(4).numFmt = 'yyyy-mm-dd hh:mm'
    }),
    names: ['Orchard', 'Day', 'Time', 'Both'],
    rows: 5,
    types: { Day: 'date', Time: 'time', Both: 'date and time' },
    first: { Day: '2027-03-20' },
  },
  {
    file: 'repeated-cells.ods',
    fault: 'Equal cells and rows are written once with a count (ODF 1.3, 19.675 and 19.679).',
    bytes: () =>
      ods(
        odsRow(odsCell('Orchard'), odsCell('Crop'), odsCell('Soil')) +
          `<table:table-row table:number-rows-repeated="3">${odsCell('Brightwater')}${odsCell('cherry', ' table:number-columns-repeated="2"')}</table:table-row>` +
          odsRow(odsCell('Foxford'), odsCell('apple'), odsCell('loam')) +
          '<table:table-row table:number-rows-repeated="1048000"><table:table-cell table:number-columns-repeated="1000"/></table:table-row>',
      ),
    names: ['Orchard', 'Crop', 'Soil'],
    rows: 4,
    first: { Soil: 'cherry' },
  },
  {
    file: 'notes-and-breaks.ods',
    fault:
      'Cells hold several paragraphs, spaces that are counted, and a note that is not their value (ODF 1.3, 6.1.3, 14.1).',
    bytes: () =>
      ods(
        odsRow(odsCell('Orchard'), odsCell('Address')) +
          odsRow(
            odsCell('Brightwater'),
            `<table:table-cell office:value-type="string"><office:annotation><text:p>ask again</text:p></office:annotation><text:p>14 Weir<text:s text:c="2"/>Road</text:p><text:p>Tansy Falls</text:p></table:table-cell>`,
          ) +
          odsRow(odsCell('Foxford'), odsCell('2 Mill Lane')),
      ),
    names: ['Orchard', 'Address'],
    rows: 2,
    first: { Address: '14 Weir  Road\nTansy Falls' },
  },
]
