// Writes the demo's bookings sheet as XLSX and CSV: `npx tsx demo/write-sheets.ts`. The same input gives the same rows.
import { writeFileSync } from 'node:fs'
import ExcelJS from 'exceljs'
import Papa from 'papaparse'
import { roomFile } from '#server/ground/room.ts'
import { type BookingCell, bookings, HEADINGS } from './bookings.ts'

const workbook = new ExcelJS.Workbook()
workbook.creator = 'Larkmere Pollination'
workbook.created = workbook.modified = new Date(Date.UTC(2026, 10, 2))
const sheet = workbook.addWorksheet('Bookings 2027')
sheet.getCell('A1').value = 'Bookings for the season 2027'
sheet.getCell('A1').font = { bold: true, size: 14 }
sheet.addRow([])
sheet.addRow([...HEADINGS]).font = { bold: true }
for (const row of bookings()) {
  const added = sheet.addRow(
    row.map((cell) =>
      cell !== null && typeof cell === 'object' ? new Date(`${cell.date}T00:00:00Z`) : cell,
    ),
  )
  added.eachCell((cell) => {
    if (cell.value instanceof Date) cell.numFmt = 'm/d/yyyy'
  })
}
sheet.columns.forEach((column, i) => (column.width = Math.max(10, (HEADINGS[i]?.length ?? 0) + 2)))
writeFileSync(roomFile('demo/sheets/bookings-2027.xlsx'), Buffer.from(await workbook.xlsx.writeBuffer()))

const usDate = (iso: string) => iso.replace(/^(\d+)-0?(\d+)-0?(\d+)$/, '$2/$3/$1')
const asText = (cell: BookingCell) => (cell !== null && typeof cell === 'object' ? usDate(cell.date) : cell)
const text = Papa.unparse({ fields: [...HEADINGS], data: bookings().map((row) => row.map(asText)) })
writeFileSync(roomFile('demo/sheets/bookings-2027.csv'), `\ufeff${text}\r\n`)
