import {
  type ColumnDef,
  flexRender,
  getCoreRowModel,
  getSortedRowModel,
  type Header,
  type Row,
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

/** The rows in their order, of which those in view are drawn. */
function useOrderedRows<T>({ rows, columns, idOf, order, onOrder, onEnd }: Props<T>) {
  const [ownSorting, setSorting] = useState<SortingState>([])
  const sorting = onOrder ? (order ? [{ id: order.by, desc: order.down }] : []) : ownSorting
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
  return { table, shown, virtual, scroller }
}

/** The row one is at, moved by keys: j and k from anywhere on the page, where nobody is typing. */
function useCurrentRow<T>(
  { onOpen, onEdit }: Props<T>,
  { shown, virtual, scroller }: ReturnType<typeof useOrderedRows<T>>,
  toggle: (row: T) => void,
) {
  const [at, setAt] = useState(0)
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
  }, [scroller])
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
  return { current, setAt, onKey }
}

/** A dense table that draws only the rows in view; j/k or arrows move, Enter opens, x selects. */
export function Table<T>(props: Props<T>) {
  const { label, columns, idOf, selected, onSelect, maySelect } = props
  const ordered = useOrderedRows(props)
  const { table, shown, virtual, scroller } = ordered
  const toggle = (row: T) => {
    if (!onSelect || !selected || maySelect?.(row) === false) return
    const next = new Set(selected)
    if (!next.delete(idOf(row))) next.add(idOf(row))
    onSelect(next)
  }
  const { current, setAt, onKey } = useCurrentRow(props, ordered, toggle)
  const template = `${onSelect ? '30px ' : ''}${columns.map(({ width }) => width).join(' ')}`
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
      <Head props={props} headers={table.getHeaderGroups()[0]?.headers ?? []} template={template} />
      <div role="rowgroup" className="relative min-w-fit" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map(({ index, start }) => {
          const row = shown[index]
          return (
            row && (
              <Line
                key={row.id}
                {...{ props, row, index, start, template, toggle }}
                current={index === current}
                onAt={() => setAt(index)}
              />
            )
          )
        })}
      </div>
    </div>
  )
}

function Head<T>({
  props: { rows, idOf, selected, onSelect, maySelect, onSelectAll },
  headers,
  template,
}: {
  readonly props: Props<T>
  readonly headers: readonly Header<T, unknown>[]
  readonly template: string
}) {
  const selectable = rows.filter((row) => maySelect?.(row) !== false)
  const allSelected = selectable.length > 0 && selectable.every((row) => selected?.has(idOf(row)))
  return (
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
      {headers.map((header) => {
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
  )
}

function Line<T>({
  props: { nameOf, onOpen, openId, selected, onSelect, maySelect },
  row,
  index,
  start,
  template,
  current,
  toggle,
  onAt,
}: {
  readonly props: Props<T>
  readonly row: Row<T>
  readonly index: number
  /** Pixels from the first row's top. */
  readonly start: number
  readonly template: string
  readonly current: boolean
  readonly toggle: (row: T) => void
  readonly onAt: () => void
}) {
  const { id } = row
  return (
    <div
      role="row"
      aria-rowindex={index + 1}
      aria-selected={selected?.has(id) ?? id === openId}
      onClick={() => {
        onAt()
        onOpen?.(row.original)
      }}
      className={`absolute grid w-full items-center border-b border-hair/60 ${onOpen ? 'cursor-pointer hover:bg-wash' : ''} ${id === openId ? 'bg-petrol-wash' : ''} ${current ? 'group-focus-within/table:shadow-[inset_2px_0_0_var(--color-petrol)]' : ''}`}
      style={{ gridTemplateColumns: template, height: ROW, transform: `translateY(${start}px)` }}
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
}
