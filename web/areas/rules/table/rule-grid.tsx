import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core'
import { SortableContext, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { useVirtualizer } from '@tanstack/react-virtual'
import { type ClipboardEvent, type KeyboardEvent, useEffect, useMemo, useRef, useState } from 'react'
import { approverNames } from '#core/approvers/mention.ts'
import type { Directory } from '#core/approvers/directory.ts'
import type { TableFault } from '#core/rules/faults.ts'
import {
  cellText,
  columnsOf,
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
import type { RuleNames } from '#core/rules/names.ts'
import type { RuleTable } from '#core/rules/table.ts'
import { useNotice } from '#web/api/notices.tsx'
import { ColumnHeads } from './column-heads.tsx'
import { type Chosen, HANDLE, HEAD, newId, range, ROW, widthOf } from './grid.ts'
import { RuleRow } from './rule-row.tsx'
import type { TableDraft } from './use-table.ts'

interface Props {
  readonly table: RuleTable
  readonly draft: TableDraft
  readonly names: RuleNames
  readonly directory: Directory
  readonly reading: Reading
  readonly faults: readonly TableFault[]
  /** Rows that hold for the record in view. */
  readonly lit: ReadonlySet<number>
  readonly chosen: Chosen
  readonly onChoose: (chosen: Chosen) => void
  readonly editable: boolean
}

/**
 * A rule table as it is written: like any sheet. Arrows and Tab go about, a key or Enter writes, Enter and Tab keep, Escape leaves
 * it; Shift chooses more, and what is chosen is copied, emptied and pasted as a block.
 */
export function RuleGrid({
  table,
  draft,
  names,
  directory,
  reading,
  faults,
  lit,
  chosen,
  onChoose,
  editable,
}: Props) {
  const say = useNotice()
  const scroller = useRef<HTMLDivElement>(null)
  const sheet = useRef<HTMLDivElement>(null)
  const [editing, setEditing] = useState<string | null>(null)
  const columns = useMemo(() => columnsOf(table), [table])
  const widths = columns.map((column) => widthOf(table, column))
  const width = HANDLE + widths.reduce((sum, each) => sum + each, 0)
  const rows = useVirtualizer({
    count: table.rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 8,
    scrollPaddingStart: HEAD,
    paddingStart: HEAD,
  })
  const at = {
    row: Math.min(chosen.row, table.rows.length - 1),
    column: Math.min(chosen.column, columns.length - 1),
  }
  const column = columns[at.column]
  const change = draft.set
  useEffect(() => {
    if (chosen.row < table.rows.length) rows.scrollToIndex(chosen.row)
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only where one goes, not as rows come and go
  }, [chosen.row])
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
  const begin = (text?: string) => {
    if (editable && column && table.rows[at.row]) setEditing(text ?? cellText(table.rows[at.row]!, column))
  }
  const keep = () => {
    if (editing === null || !column) return
    const text = read(column, editing, reading)
    if (text !== cellText(table.rows[at.row]!, column)) change(setCell(table, at.row, column, text))
    setEditing(null)
    sheet.current?.focus()
  }
  const leave = () => {
    setEditing(null)
    sheet.current?.focus()
  }
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
            d: () => change(insertRow(table, at.row + 1, newId(), { ...table.rows[at.row]!, id: newId() })),
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
  const move = (from: number, to: number) => {
    if (to < 0 || to >= table.rows.length) return
    change(moveRow(table, from, to), 'move')
    onChoose({ row: to, column: at.column, toRow: to, toColumn: at.column })
  }
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }))
  const dropped = ({ active, over }: DragEndEvent) => {
    const [from, to] = [active.id, over?.id].map((id) => table.rows.findIndex((row) => row.id === id))
    if (from !== undefined && to !== undefined && from >= 0 && to >= 0 && from !== to) move(from, to)
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
  const faultsOf = useMemo(() => {
    const found = new Map<string, TableFault>()
    for (const fault of faults) {
      const key = `${fault.row ?? ''} ${fault.column ?? ''}`
      if (!found.has(key)) found.set(key, fault)
    }
    return found
  }, [faults])
  const onCopy = (event: ClipboardEvent, cut: boolean) => {
    if (editing !== null) return
    event.clipboardData.setData('text/plain', copied())
    event.preventDefault()
    if (cut && editable) empty()
  }
  return (
    <div ref={scroller} className="min-h-0 flex-1 overflow-auto bg-sheet text-sm">
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
        <SortableContext
          items={table.rows.map(({ id }) => id)}
          strategy={verticalListSortingStrategy}
          disabled={!editable}
        >
          <div
            ref={sheet}
            tabIndex={0}
            role="grid"
            aria-label="Rules"
            aria-rowcount={table.rows.length}
            aria-colcount={columns.length}
            aria-multiselectable
            className="group relative outline-none"
            style={{ height: rows.getTotalSize(), width }}
            onKeyDown={onKey}
            onCopy={(event) => onCopy(event, false)}
            onCut={(event) => onCopy(event, true)}
            onPaste={(event) => {
              if (editing !== null || !editable) return
              paste(event.clipboardData.getData('text/plain'))
              event.preventDefault()
            }}
          >
            <ColumnHeads
              table={table}
              draft={draft}
              names={names}
              columns={columns}
              widths={widths}
              faults={faultsOf}
              editable={editable}
            />
            {rows.getVirtualItems().map((item) => {
              const row = table.rows[item.index]!
              return (
                <RuleRow
                  key={row.id}
                  row={row}
                  index={item.index}
                  top={item.start}
                  width={width}
                  columns={columns}
                  widths={widths}
                  faults={faultsOf}
                  lit={lit.has(item.index)}
                  chosen={chosen}
                  editing={at.row === item.index ? editing : null}
                  names={names}
                  table={table}
                  suggestions={
                    column?.kind === 'output' && column.key === 'approver' ? 'approver-names' : undefined
                  }
                  onChoose={(place, more) => {
                    if (editing !== null) keep()
                    go(item.index, place, more)
                  }}
                  onBegin={() => begin()}
                  onEdit={setEditing}
                  onEditKey={onEditKey}
                  onKeep={keep}
                />
              )
            })}
          </div>
        </SortableContext>
      </DndContext>
      {editable && (
        <button
          className="h-9 px-3 text-left text-soft hover:text-ink"
          onClick={() => insert(table.rows.length)}
        >
          + Add a row
        </button>
      )}
      <datalist id="approver-names">
        {approverNames(directory).map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
    </div>
  )
}

/** The next cell, on to the next row at the end of one. */
function stepFrom(at: { row: number; column: number }, by: 1 | -1, columns: number, rows: number) {
  const place = at.row * columns + at.column + by
  return place < 0 || place >= rows * columns
    ? null
    : { row: Math.floor(place / columns), column: place % columns }
}
