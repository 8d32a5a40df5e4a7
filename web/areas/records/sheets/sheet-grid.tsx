import { useQueries } from '@tanstack/react-query'
import { useVirtualizer } from '@tanstack/react-virtual'
import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from 'react'
import { columnLetters } from '#core/sheet/header.ts'
import { call } from '#web/api/client.ts'
import { count, readingText } from '#web/parts/signs/when.tsx'
import { type GridRow, HEAD, ROW, type Rows, type Sheet } from './grid.ts'
import { type Acts, ColumnHead, GridLine, NUMBERS } from './grid-line.tsx'

/** Which rows are shown. */
export interface GridFilter {
  readonly search: string
  readonly odd: boolean
}

interface Props {
  readonly sheet: Sheet
  readonly filter: GridFilter
  readonly editable: boolean
  readonly onMend: (row: number, column: string, value: string | null) => void
}

/** Rows asked for at once. */
const CHUNK = 200

const widthOf = (column: Sheet['columns'][number]): number =>
  column.type === 'number' || column.type === 'yes/no' || column.type === 'percent'
    ? 104
    : Math.min(
        260,
        Math.max(
          column.type.startsWith('date') ? 176 : 120,
          ...column.samples.map((sample) => sample.length * 8),
        ),
      )

type Cell = { readonly row: number; readonly column: number }

/** What is in view of a sheet, in both directions. */
function useInView(sheet: Sheet, total: number) {
  const scroller = useRef<HTMLDivElement>(null)
  const widths = useMemo(() => sheet.columns.map(widthOf), [sheet.columns])
  const rows = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 10,
    scrollPaddingStart: HEAD,
  })
  const columns = useVirtualizer({
    horizontal: true,
    count: sheet.columns.length,
    getScrollElement: () => scroller.current,
    estimateSize: (column) => widths[column] ?? ROW,
    overscan: 3,
    scrollPaddingStart: NUMBERS,
  })
  return { scroller, rows, columns }
}

/** The rows from the first to the last that are in view, in pieces; `total`: how many match the filter, once that is known. */
function useRows(sheet: Sheet, filter: GridFilter, from: number, to: number) {
  const first = Math.floor(from / CHUNK)
  const last = Math.floor(to / CHUNK)
  const answers = useQueries({
    queries: Array.from({ length: last - first + 1 }, (_, i) => {
      const query = {
        offset: String((first + i) * CHUNK),
        limit: String(CHUNK),
        ...(filter.search ? { search: filter.search } : {}),
        ...(filter.odd ? { odd: 'yes' } : {}),
      }
      return {
        queryKey: ['sheetRows', { id: sheet.id }, query],
        queryFn: ({ signal }: { signal: AbortSignal }) =>
          call('sheetRows', { params: { id: sheet.id }, query, signal }),
        placeholderData: (before: Rows | undefined) => (before ? undefined : before),
      }
    }),
  })
  const known = answers.find(({ data }) => data)?.data?.total
  const rowAt = (index: number): GridRow | undefined =>
    answers[Math.floor(index / CHUNK) - first]?.data?.rows[index % CHUNK]
  return { known, rowAt }
}

/** Going about in the grid, and writing in a cell. */
function useHands(
  { sheet, editable, onMend }: Props,
  { scroller, rows, columns }: ReturnType<typeof useInView>,
  total: number,
  rowAt: (index: number) => GridRow | undefined,
) {
  const [at, setAt] = useState<Cell>({ row: 0, column: 0 })
  const [editing, setEditing] = useState<string | null>(null)
  const current = rowAt(at.row)
  const column = sheet.columns[at.column]
  const move = (row: number, to: number) => {
    const next = {
      row: Math.max(0, Math.min(total - 1, row)),
      column: Math.max(0, Math.min(sheet.columns.length - 1, to)),
    }
    setAt(next)
    rows.scrollToIndex(next.row)
    columns.scrollToIndex(next.column)
  }
  const begin = (text: string) => editable && current && column && setEditing(text)
  const keep = () => {
    if (current && column && editing !== null && editing !== current.cells[at.column])
      onMend(current.row, column.name, editing)
    setEditing(null)
    scroller.current?.focus()
  }
  const latest = useRef({ begin, keep })
  useEffect(() => {
    latest.current = { begin, keep }
  })
  const acts = useMemo<Acts>(
    () => ({
      choose: (row, column) => {
        setAt({ row, column })
        setEditing(null)
      },
      begin: (text) => void latest.current.begin(text),
      edit: setEditing,
      keep: () => latest.current.keep(),
      leave: () => {
        setEditing(null)
        scroller.current?.focus()
      },
    }),
    [scroller],
  )
  const onKey = (event: KeyboardEvent) => {
    if (editing !== null) return
    const steps: Record<string, () => void> = {
      ArrowDown: () => move(at.row + 1, at.column),
      ArrowUp: () => move(at.row - 1, at.column),
      ArrowRight: () => move(at.row, at.column + 1),
      ArrowLeft: () => move(at.row, at.column - 1),
      PageDown: () => move(at.row + 20, at.column),
      PageUp: () => move(at.row - 20, at.column),
      Home: () => move(event.ctrlKey ? 0 : at.row, 0),
      End: () => move(event.ctrlKey ? total - 1 : at.row, sheet.columns.length - 1),
      Enter: () => begin(current?.cells[at.column] ?? ''),
      F2: () => begin(current?.cells[at.column] ?? ''),
      Delete: () => begin(''),
    }
    const step = steps[event.key]
    if (step) step()
    else if (event.key.length === 1 && !event.ctrlKey && !event.metaKey && event.key !== '/') begin(event.key)
    else return
    event.preventDefault()
  }
  return { at, editing, acts, onKey, current }
}

/**
 * A sheet as it stands, however large: only what is in view is drawn, rows come in pieces. A cell at fault says so and is
 * fixed in its place: Enter or a key begins, Enter saves, Escape leaves it.
 */
export function SheetGrid(props: Props) {
  const { sheet, filter, editable, onMend } = props
  const [total, setTotal] = useState(sheet.rowCount)
  const view = useInView(sheet, total)
  const { scroller, rows, columns } = view
  const inView = rows.getVirtualItems()
  const { known, rowAt } = useRows(sheet, filter, inView[0]?.index ?? 0, inView.at(-1)?.index ?? 0)
  useEffect(() => {
    if (known !== undefined) setTotal(known)
  }, [known])
  const { at, editing, acts, onKey, current } = useHands(props, view, total, rowAt)
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div
        ref={scroller}
        tabIndex={0}
        role="grid"
        aria-label="Rows of the sheet"
        aria-rowcount={total}
        aria-colcount={sheet.columns.length}
        className="group/grid relative min-h-0 flex-1 overflow-auto border-t border-hair bg-sheet text-sm outline-none"
        onKeyDown={onKey}
      >
        <div
          className="relative"
          style={{ height: rows.getTotalSize() + HEAD, width: columns.getTotalSize() + NUMBERS }}
        >
          <div
            role="row"
            className="sticky top-0 z-20 border-b border-hair bg-paper"
            style={{ height: HEAD, width: columns.getTotalSize() + NUMBERS }}
          >
            {columns.getVirtualItems().map((item) => (
              <ColumnHead
                key={item.key}
                sheet={sheet}
                at={item.index}
                left={item.start + NUMBERS}
                width={item.size}
                editable={editable}
              />
            ))}
            <span
              className="sticky left-0 z-10 block border-r border-hair bg-paper"
              style={{ width: NUMBERS, height: HEAD - 1 }}
            />
          </div>
          {inView.map((line) => (
            <GridLine
              key={line.key}
              row={rowAt(line.index)}
              index={line.index}
              top={line.start + HEAD}
              width={columns.getTotalSize() + NUMBERS}
              cells={columns.getVirtualItems()}
              columns={sheet.columns}
              chosen={at.row === line.index ? at.column : null}
              editing={at.row === line.index ? editing : null}
              acts={acts}
            />
          ))}
        </div>
      </div>
      <CellLine sheet={sheet} row={current} at={at.column} none={total === 0} {...{ editable, onMend }} />
    </div>
  )
}

/** What the cell says that one is at, how it is read, and what is wrong with it. */
function CellLine({
  sheet,
  row,
  at,
  none,
  editable,
  onMend,
}: Pick<Props, 'sheet' | 'editable' | 'onMend'> & {
  readonly row: GridRow | undefined
  readonly at: number
  readonly none: boolean
}) {
  const column = sheet.columns[at]
  const fault = row?.faults.find((each) => each.at === at)
  const reading = row?.read.find((each) => each.at === at)
  const mended = row?.mended.find((each) => each.at === at)
  return (
    <p className="flex h-8 shrink-0 items-center gap-3 border-t border-hair px-3 text-sm" aria-live="polite">
      {row && column && (
        <>
          <span className="text-soft tabular-nums">
            {columnLetters(at)}
            {row.row}
          </span>
          {row.aside ? (
            <span className="text-soft">Set aside: {row.aside}</span>
          ) : fault ? (
            <span className="truncate text-ochre">{fault.message}</span>
          ) : (
            <span className="truncate">
              {row.cells[at]}
              {reading && <span className="text-soft"> read as {readingText(column.type, reading.as)}</span>}
            </span>
          )}
          {mended && (
            <span className="ml-auto whitespace-nowrap text-soft">
              was “{mended.before || 'empty'}”{' '}
              {editable && (
                <button className="text-petrol underline" onClick={() => onMend(row.row, column.name, null)}>
                  Restore
                </button>
              )}
            </span>
          )}
        </>
      )}
      {!row && none && <span className="text-soft">No row matches. {count(sheet.rowCount)} in all.</span>}
    </p>
  )
}
