import type { FinishedRow } from './finished.ts'

type Cell = FinishedRow['cells'][number]

/**
 * The rows of a table with every cell in a place of its own and no place left open, as the page engine needs them: cells
 * that would run into one from the row above are as wide as there is room, rows that are too short get empty cells, and no
 * cell reaches past the last row or out of the heading rows. `columns` is how wide the table comes to be.
 */
export function evenRows(rows: readonly FinishedRow[]): {
  readonly columns: number
  readonly rows: readonly FinishedRow[]
} {
  const heads = rows.findIndex(({ head }) => !head)
  const headRows = heads < 0 ? rows.length : heads
  const columns = Math.max(1, ...place(rows, headRows, Number.POSITIVE_INFINITY).map(({ width }) => width))
  return { columns, rows: place(rows, headRows, columns).map(({ row }) => row) }
}

function place(rows: readonly FinishedRow[], headRows: number, columns: number) {
  /** For each column, the row up to which a cell from above fills it (exclusive). */
  const filledTo: number[] = []
  const isFree = (column: number, at: number) => column < columns && (filledTo[column] ?? 0) <= at
  return rows.map((row, at) => {
    const last = at < headRows ? headRows : rows.length
    const cells: Cell[] = []
    let column = 0
    for (const cell of row.cells) {
      while (column < columns && !isFree(column, at)) column++
      if (column >= columns) break
      let colspan = 1
      while (colspan < cell.colspan && isFree(column + colspan, at)) colspan++
      const rowspan = Math.max(1, Math.min(cell.rowspan, last - at))
      for (let i = 0; i < colspan; i++) filledTo[column + i] = at + rowspan
      cells.push(colspan === cell.colspan && rowspan === cell.rowspan ? cell : { ...cell, colspan, rowspan })
      column += colspan
    }
    if (Number.isFinite(columns))
      for (let free = column; free < columns; free++) if (isFree(free, at)) cells.push(empty(row.head))
    const width = filledTo.findLastIndex((to) => to > at) + 1
    return {
      width,
      row:
        cells.length === row.cells.length && cells.every((cell, i) => cell === row.cells[i])
          ? row
          : { ...row, cells },
    }
  })
}

const empty = (head: boolean): Cell => ({ blocks: [], colspan: 1, rowspan: 1, align: 'left', head })
