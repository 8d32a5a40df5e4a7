import { flexRender, getCoreRowModel, getSortedRowModel, useReactTable } from '@tanstack/react-table'
import type { ColumnDef, SortingState } from '@tanstack/react-table'
import { useVirtualizer } from '@tanstack/react-virtual'
import { useEffect, useRef, useState } from 'react'
import type { KeyboardEvent } from 'react'
import { isTyping } from '#web/frame/key-help.tsx'

export type Column<T> = ColumnDef<T, unknown> & { readonly width: string; readonly align?: 'right' }

interface Props<T> {
  readonly label: string
  readonly rows: readonly T[]
  readonly columns: readonly Column<T>[]
  readonly idOf: (row: T) => string
  readonly onOpen?: ((row: T) => void) | undefined
  /** The row whose detail stands beside the list. */
  readonly openId?: string | undefined
  readonly selected?: ReadonlySet<string> | undefined
  readonly onSelect?: ((selected: ReadonlySet<string>) => void) | undefined
  readonly maySelect?: ((row: T) => boolean) | undefined
}

const ROW = 30

/** A dense table that draws only the rows in view; j/k or arrows move, Enter opens, x selects. */
export function Table<T>({
  label,
  rows,
  columns,
  idOf,
  onOpen,
  openId,
  selected,
  onSelect,
  maySelect,
}: Props<T>) {
  const [sorting, setSorting] = useState<SortingState>([])
  const [at, setAt] = useState(0)
  const scroller = useRef<HTMLDivElement>(null)
  const table = useReactTable({
    data: rows as T[],
    columns: columns as Column<T>[],
    state: { sorting },
    onSortingChange: setSorting,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    getRowId: idOf,
  })
  const shown = table.getRowModel().rows
  const virtual = useVirtualizer({
    count: shown.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 12,
  })
  const template = `${onSelect ? '30px ' : ''}${columns.map(({ width }) => width).join(' ')}`
  const current = Math.min(at, shown.length - 1)
  useEffect(() => {
    const focus = (event: globalThis.KeyboardEvent) => {
      if (
        !isTyping(event.target) &&
        (event.key === 'j' || event.key === 'k') &&
        !scroller.current?.contains(document.activeElement)
      )
        scroller.current?.focus()
    }
    window.addEventListener('keydown', focus)
    return () => window.removeEventListener('keydown', focus)
  }, [])
  const toggle = (row: T) => {
    if (!onSelect || !selected || maySelect?.(row) === false) return
    const next = new Set(selected)
    if (!next.delete(idOf(row))) next.add(idOf(row))
    onSelect(next)
  }
  const move = (to: number) => {
    const next = Math.max(0, Math.min(shown.length - 1, to))
    setAt(next)
    virtual.scrollToIndex(next)
  }
  const onKey = (event: KeyboardEvent) => {
    const row = shown[current]?.original
    if (event.key === 'j' || event.key === 'ArrowDown') move(current + 1)
    else if (event.key === 'k' || event.key === 'ArrowUp') move(current - 1)
    else if (event.key === 'Home') move(0)
    else if (event.key === 'End') move(shown.length - 1)
    else if (event.key === 'Enter' && row) onOpen?.(row)
    else if (event.key === 'x' && row) toggle(row)
    else return
    event.preventDefault()
  }
  const selectable = rows.filter((row) => maySelect?.(row) !== false)
  const allSelected = selectable.length > 0 && selectable.every((row) => selected?.has(idOf(row)))
  return (
    <div
      ref={scroller}
      role="table"
      aria-label={label}
      aria-rowcount={shown.length}
      tabIndex={0}
      onKeyDown={onKey}
      className="group/table h-full overflow-auto text-sm outline-none"
    >
      <div
        role="row"
        className="sticky top-0 z-10 grid min-w-fit items-center border-b border-hair bg-paper"
        style={{ gridTemplateColumns: template, height: ROW }}
      >
        {onSelect && (
          <span role="columnheader" className="px-2">
            <input
              type="checkbox"
              aria-label="Select all"
              checked={allSelected}
              disabled={selectable.length === 0}
              onChange={() => onSelect(allSelected ? new Set() : new Set(selectable.map(idOf)))}
            />
          </span>
        )}
        {table.getHeaderGroups()[0]!.headers.map((header) => {
          const column = header.column.columnDef as Column<T>
          const sorted = header.column.getIsSorted()
          return (
            <span
              key={header.id}
              role="columnheader"
              aria-sort={sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : 'none'}
              className={`truncate px-2 text-xs text-soft ${column.align === 'right' ? 'text-right' : ''}`}
            >
              {header.column.getCanSort() ? (
                <button className="hover:text-ink" onClick={header.column.getToggleSortingHandler()}>
                  {flexRender(column.header, header.getContext())}
                  {sorted && (sorted === 'asc' ? ' ↑' : ' ↓')}
                </button>
              ) : (
                flexRender(column.header, header.getContext())
              )}
            </span>
          )
        })}
      </div>
      <div role="rowgroup" className="relative min-w-fit" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map((item) => {
          const row = shown[item.index]!
          const id = row.id
          return (
            <div
              key={id}
              role="row"
              aria-rowindex={item.index + 1}
              aria-selected={selected?.has(id) ?? id === openId}
              onClick={() => {
                setAt(item.index)
                onOpen?.(row.original)
              }}
              className={`absolute grid w-full items-center border-b border-hair/60 ${onOpen ? 'cursor-pointer hover:bg-wash' : ''} ${id === openId ? 'bg-petrol-wash' : ''} ${item.index === current ? 'group-focus/table:shadow-[inset_2px_0_0_var(--color-petrol)]' : ''}`}
              style={{ gridTemplateColumns: template, height: ROW, transform: `translateY(${item.start}px)` }}
            >
              {onSelect && (
                <span role="cell" className="px-2" onClick={(event) => event.stopPropagation()}>
                  <input
                    type="checkbox"
                    aria-label={`Select ${id}`}
                    checked={selected?.has(id) ?? false}
                    disabled={maySelect?.(row.original) === false}
                    onChange={() => toggle(row.original)}
                  />
                </span>
              )}
              {row.getVisibleCells().map((cell) => (
                <span
                  key={cell.id}
                  role="cell"
                  className={`truncate px-2 ${(cell.column.columnDef as Column<T>).align === 'right' ? 'text-right' : ''}`}
                >
                  {flexRender(cell.column.columnDef.cell, cell.getContext())}
                </span>
              ))}
            </div>
          )
        })}
      </div>
    </div>
  )
}
