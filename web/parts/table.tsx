import {
  type ColumnDef,
  flexRender,
  getCoreRowModel,
  getSortedRowModel,
  type SortingState,
  useReactTable,
} from '@tanstack/react-table'
import { useVirtualizer } from '@tanstack/react-virtual'
import { type KeyboardEvent, useEffect, useRef, useState } from 'react'
import { isCombined, isTyping } from './keys.ts'

/** A column of a table with its width as a grid track. */
export type Column<T> = ColumnDef<T, unknown> & { readonly width: string; readonly align?: 'right' }

interface Props<T> {
  readonly label: string
  readonly rows: readonly T[]
  readonly columns: readonly Column<T>[]
  readonly idOf: (row: T) => string
  /** What a row is called where it is spoken of. */
  readonly nameOf?: ((row: T) => string) | undefined
  readonly onOpen?: ((row: T) => void) | undefined
  /** The row whose detail stands beside the list. */
  readonly openId?: string | undefined
  readonly selected?: ReadonlySet<string> | undefined
  readonly onSelect?: ((selected: ReadonlySet<string>) => void) | undefined
  readonly maySelect?: ((row: T) => boolean) | undefined
  /** Instead of selecting the rows that are here: where there are more than these. */
  readonly onSelectAll?: (() => void) | undefined
  /** `e`: changes a row in its place. */
  readonly onEdit?: ((row: T) => void) | undefined
  /** The last row came near: there may be more to fetch. */
  readonly onEnd?: (() => void) | undefined
  /** Where the order is not only that of the rows that are here. */
  readonly order?: { readonly by: string; readonly down: boolean } | null | undefined
  readonly onOrder?: ((order: { readonly by: string; readonly down: boolean } | null) => void) | undefined
}

const ROW = 30

/** A dense table that draws only the rows in view; j/k or arrows move, Enter opens, x selects. */
export function Table<T>({
  label,
  rows,
  columns,
  idOf,
  nameOf,
  onOpen,
  openId,
  selected,
  onSelect,
  maySelect,
  onSelectAll,
  onEdit,
  onEnd,
  order,
  onOrder,
}: Props<T>) {
  const [ownSorting, setSorting] = useState<SortingState>([])
  const sorting = onOrder ? (order ? [{ id: order.by, desc: order.down }] : []) : ownSorting
  const [at, setAt] = useState(0)
  const scroller = useRef<HTMLDivElement>(null)
  const table = useReactTable({
    data: rows as T[],
    columns: columns as Column<T>[],
    state: { sorting },
    manualSorting: onOrder !== undefined,
    onSortingChange: (change) => {
      if (!onOrder) return setSorting(change)
      const [first] = typeof change === 'function' ? change(sorting) : change
      onOrder(first ? { by: first.id, down: first.desc } : null)
    },
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
  const lastShown = virtual.range?.endIndex ?? 0
  useEffect(() => {
    if (shown.length > 0 && lastShown >= shown.length - 40) onEnd?.()
  }, [lastShown, shown.length, onEnd])
  const template = `${onSelect ? '30px ' : ''}${columns.map(({ width }) => width).join(' ')}`
  const current = Math.min(at, shown.length - 1)
  useEffect(() => {
    const focus = (event: globalThis.KeyboardEvent) => {
      if (
        !isTyping(event.target) &&
        !isCombined(event) &&
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
    if (isCombined(event)) return
    const row = shown[current]?.original
    if (event.key === 'j' || event.key === 'ArrowDown') move(current + 1)
    else if (event.key === 'k' || event.key === 'ArrowUp') move(current - 1)
    else if (event.key === 'Home') move(0)
    else if (event.key === 'End') move(shown.length - 1)
    else if (event.key === 'Enter' && row) onOpen?.(row)
    else if (event.key === 'x' && row) toggle(row)
    else if (event.key === 'e' && row && onEdit && !isTyping(event.target)) onEdit(row)
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
              onChange={() =>
                allSelected
                  ? onSelect(new Set())
                  : onSelectAll
                    ? onSelectAll()
                    : onSelect(new Set(selectable.map(idOf)))
              }
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
              className={`absolute grid w-full items-center border-b border-hair/60 ${onOpen ? 'cursor-pointer hover:bg-wash' : ''} ${id === openId ? 'bg-petrol-wash' : ''} ${item.index === current ? 'group-focus-within/table:shadow-[inset_2px_0_0_var(--color-petrol)]' : ''}`}
              style={{ gridTemplateColumns: template, height: ROW, transform: `translateY(${item.start}px)` }}
            >
              {onSelect && (
                <span role="cell" className="px-2" onClick={(event) => event.stopPropagation()}>
                  <input
                    type="checkbox"
                    aria-label={`Select ${nameOf?.(row.original) ?? id}`}
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
