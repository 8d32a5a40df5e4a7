import { type ClipboardEvent, type KeyboardEvent, type RefObject, useState } from 'react'
import {
  cellText,
  type ColumnOf,
  insertRow,
  moveRow,
  pasteBlock,
  read,
  readBlock,
  type Reading,
  removeRows,
  setCell,
  writeBlock,
} from '#core/rules/edit.ts'
import type { RuleTable } from '#core/rules/table.ts'
import { useNotice } from '#web/api/notices.tsx'
import { type Chosen, newId, range } from './grid.ts'
import type { TableDraft } from './use-table.ts'

interface Grid {
  readonly table: RuleTable
  readonly draft: TableDraft
  readonly columns: readonly ColumnOf[]
  readonly reading: Reading
  readonly chosen: Chosen
  readonly onChoose: (chosen: Chosen) => void
  readonly editable: boolean
  /** Takes the focus back once a cell is left. */
  readonly sheet: RefObject<HTMLDivElement | null>
}

type Cell = { readonly row: number; readonly column: number }

/** Where one is in the grid, and the ways to another cell. */
function usePlace({ table, columns, chosen, onChoose }: Grid) {
  const at: Cell = {
    row: Math.min(chosen.row, table.rows.length - 1),
    column: Math.min(chosen.column, columns.length - 1),
  }
  const go = (row: number, to: number, more = false) => {
    const next = {
      row: Math.max(0, Math.min(table.rows.length - 1, row)),
      column: Math.max(0, Math.min(columns.length - 1, to)),
    }
    onChoose(
      more
        ? { ...chosen, toRow: next.row, toColumn: next.column }
        : { ...next, toRow: next.row, toColumn: next.column },
    )
  }
  /** Arrows, Tab, Home, End and pages; with Shift more is chosen. */
  const navigate = (event: KeyboardEvent) => {
    if (event.altKey) return
    const from = event.shiftKey ? { row: chosen.toRow, column: chosen.toColumn } : at
    const steps: Record<string, () => void> = {
      ArrowDown: () => go(from.row + 1, from.column, event.shiftKey),
      ArrowUp: () => go(from.row - 1, from.column, event.shiftKey),
      ArrowRight: () => go(from.row, from.column + 1, event.shiftKey),
      ArrowLeft: () => go(from.row, from.column - 1, event.shiftKey),
      Home: () => go(event.ctrlKey ? 0 : at.row, 0),
      End: () => go(event.ctrlKey ? table.rows.length - 1 : at.row, columns.length - 1),
      PageDown: () => go(at.row + 12, at.column),
      PageUp: () => go(at.row - 12, at.column),
    }
    const tab =
      event.key === 'Tab' ? stepFrom(at, event.shiftKey ? -1 : 1, columns.length, table.rows.length) : null
    if (tab) go(tab.row, tab.column)
    else if (steps[event.key]) steps[event.key]!()
    else return
    event.preventDefault()
  }
  return { at, go, navigate }
}

/** What is done to the rows and to the cells that are chosen, as a block. */
function useBlock(
  { table, draft, columns, reading, chosen, onChoose }: Grid,
  { at, go }: ReturnType<typeof usePlace>,
) {
  const say = useNotice()
  const change = draft.set
  const block = range(chosen, table.rows.length, columns.length)
  const copied = () =>
    writeBlock(
      block.rows.map((row) => block.columns.map((each) => cellText(table.rows[row]!, columns[each]!))),
    )
  const empty = () => {
    let made = table
    for (const row of block.rows)
      for (const each of block.columns)
        made = setCell(made, row, columns[each]!, columns[each]!.kind === 'input' ? '-' : '')
    change(made)
  }
  const paste = (text: string) => {
    const pasted = pasteBlock(
      table,
      { row: Math.max(0, at.row), column: at.column },
      readBlock(text),
      reading,
      newId,
    )
    if (!pasted.ok) return say(pasted.problem, 'fault')
    change(pasted.table)
    onChoose({
      ...at,
      row: Math.max(0, at.row),
      toRow: at.row + pasted.rows - 1,
      toColumn: at.column + Math.max(1, pasted.columns) - 1,
    })
  }
  const insert = (place: number) => {
    change(insertRow(table, place, newId()))
    onChoose({ row: place, column: 0, toRow: place, toColumn: 0 })
  }
  const remove = () => {
    change(removeRows(table, block.rows))
    go(Math.min(block.rows[0] ?? 0, table.rows.length - block.rows.length - 1), at.column)
  }
  const move = (from: number, to: number) => {
    if (to < 0 || to >= table.rows.length) return
    change(moveRow(table, from, to), 'move')
    onChoose({ row: to, column: at.column, toRow: to, toColumn: at.column })
  }
  return { copied, empty, paste, insert, remove, move }
}

/** One cell while it is written. */
function useWriting(
  { table, draft, columns, reading, editable, sheet }: Grid,
  { at, go }: ReturnType<typeof usePlace>,
) {
  const [editing, setEditing] = useState<string | null>(null)
  const column = columns[at.column]
  const begin = (text?: string) => {
    if (editable && column && table.rows[at.row]) setEditing(text ?? cellText(table.rows[at.row]!, column))
  }
  const keep = () => {
    if (editing === null || !column) return
    const text = read(column, editing, reading)
    if (text !== cellText(table.rows[at.row]!, column)) draft.set(setCell(table, at.row, column, text))
    setEditing(null)
    sheet.current?.focus()
  }
  const leave = () => {
    setEditing(null)
    sheet.current?.focus()
  }
  const onEditKey = (event: KeyboardEvent) => {
    event.stopPropagation()
    if (event.key === 'Escape') leave()
    else if (event.key === 'Enter' || event.key === 'Tab') {
      keep()
      const next =
        event.key === 'Enter'
          ? { row: at.row + (event.shiftKey ? -1 : 1), column: at.column }
          : stepFrom(at, event.shiftKey ? -1 : 1, columns.length, table.rows.length)
      if (next) go(next.row, next.column)
    } else return
    event.preventDefault()
  }
  return { editing, setEditing, begin, keep, onEditKey }
}

/** A grid's hands: keys, clipboard, and what is being written. */
export function useGrid(grid: Grid) {
  const { table, draft, columns, editable } = grid
  const place = usePlace(grid)
  const { at, go, navigate } = place
  const writing = useWriting(grid, place)
  const { editing, begin } = writing
  const cells = useBlock(grid, place)
  const { copied, empty, insert, remove, move, paste } = cells
  const onKey = (event: KeyboardEvent) => {
    if (editing !== null || !editable) {
      if (editing === null) navigate(event)
      return
    }
    const command = event.ctrlKey || event.metaKey
    const acts: Record<string, (() => void) | undefined> = {
      F2: () => begin(),
      Delete: empty,
      Backspace: empty,
      ...(command
        ? {
            z: event.shiftKey ? draft.redo : draft.undo,
            Z: draft.redo,
            y: draft.redo,
            Enter: () => insert(at.row + 1),
            '-': remove,
            d: () =>
              draft.set(insertRow(table, at.row + 1, newId(), { ...table.rows[at.row]!, id: newId() })),
          }
        : event.altKey
          ? {
              ArrowUp: () => move(at.row, at.row - 1),
              ArrowDown: () => move(at.row, at.row + 1),
            }
          : { Enter: () => begin() }),
    }
    const act = acts[event.key]
    if (act) {
      act()
      event.preventDefault()
    } else if (event.key.length === 1 && !command && !event.altKey) {
      begin(event.key)
      event.preventDefault()
    } else navigate(event)
  }
  const onCopy = (event: ClipboardEvent, cut: boolean) => {
    if (editing !== null) return
    event.clipboardData.setData('text/plain', copied())
    event.preventDefault()
    if (cut && editable) empty()
  }
  const onPaste = (event: ClipboardEvent) => {
    if (editing !== null || !editable) return
    paste(event.clipboardData.getData('text/plain'))
    event.preventDefault()
  }
  return { ...writing, at, column: columns[at.column], go, insert, move, onKey, onCopy, onPaste }
}

/** The next cell, on to the next row at the end of one. */
function stepFrom(at: { row: number; column: number }, by: 1 | -1, columns: number, rows: number) {
  const place = at.row * columns + at.column + by
  return place < 0 || place >= rows * columns
    ? null
    : { row: Math.floor(place / columns), column: place % columns }
}
