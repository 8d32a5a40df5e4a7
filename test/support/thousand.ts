import Papa from 'papaparse'
import { HEADINGS, soundRows } from '#demo/bookings.ts'

export const ROWS = 1000

/** As CSV, the sound bookings over and over, each customer under a name of their own. */
export function thousand(): Uint8Array<ArrayBuffer> {
  const rows = soundRows()
  const data = Array.from({ length: ROWS }, (_, i) =>
    rows[i % rows.length]!.map((cell, column) =>
      column === HEADINGS.indexOf('Orchard')
        ? `${String(cell)} ${i}`
        : cell !== null && typeof cell === 'object'
          ? cell.date
          : cell,
    ),
  )
  return new TextEncoder().encode(Papa.unparse({ fields: [...HEADINGS], data }))
}
