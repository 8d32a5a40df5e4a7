import ExcelJS from 'exceljs'
import type { Cell } from '#core/outline/cell.ts'

/** Rows as an XLSX workbook with one sheet; the first row names the columns. Texts stay texts: none becomes a formula. */
export async function writeXlsx(
  title: string,
  rows: readonly (readonly Cell[])[],
  at: Date,
): Promise<Uint8Array> {
  const workbook = new ExcelJS.Workbook()
  workbook.creator = 'Brevan'
  workbook.created = workbook.modified = at
  const sheet = workbook.addWorksheet(title.replace(/[\\/*?:[\]]/g, ' ').slice(0, 31) || 'Sheet', {
    views: [{ state: 'frozen', ySplit: 1 }],
  })
  for (const [i, row] of rows.entries()) {
    const added = sheet.addRow(row.map(valueOf))
    if (i === 0) added.font = { bold: true }
    else
      row.forEach((cell, column) => {
        if (typeof cell !== 'object' || cell === null) return
        if ('date' in cell) added.getCell(column + 1).numFmt = 'yyyy-mm-dd'
        if ('time' in cell) added.getCell(column + 1).numFmt = 'hh:mm'
        if ('dateTime' in cell) added.getCell(column + 1).numFmt = 'yyyy-mm-dd hh:mm'
        if ('fraction' in cell) added.getCell(column + 1).numFmt = '0.##%'
      })
  }
  for (const [i, column] of sheet.columns.entries())
    column.width = Math.min(
      40,
      Math.max(8, ...rows.slice(0, 50).map((row) => String(valueOf(row[i] ?? null) ?? '').length + 2)),
    )
  return new Uint8Array(await workbook.xlsx.writeBuffer())
}

function valueOf(cell: Cell): ExcelJS.CellValue {
  if (cell === null || typeof cell !== 'object') return cell
  if ('date' in cell) return new Date(`${cell.date}T00:00:00Z`)
  if ('dateTime' in cell) return new Date(`${cell.dateTime}Z`)
  // A time of day is the part of a day.
  if ('time' in cell) {
    const [hours = 0, minutes = 0, seconds = 0] = cell.time.split(':').map(Number)
    return (hours * 3600 + minutes * 60 + seconds) / 86_400
  }
  return 'fraction' in cell ? cell.fraction : cell.error
}
