import { useQueries } from '@tanstack/react-query'
import { useVirtualizer } from '@tanstack/react-virtual'
import type { VirtualItem } from '@tanstack/react-virtual'
import { memo, useEffect, useMemo, useRef, useState } from 'react'
import type { KeyboardEvent } from 'react'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { evidence } from '#core/sheet/columns.ts'
import { columnLetters } from '#core/sheet/header.ts'
import { call } from '#web/frame/client.ts'
import { count } from '#web/parts/when.tsx'
import { ColumnMenu } from './column-menu.tsx'

export type Sheet = Answer<Api['sheet']>
type Rows = Answer<Api['sheetRows']>
type GridRow = Rows['rows'][number]

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

const ROW = 28
const HEAD = 46
const NUMBERS = 56
/** Rows asked for at once. */
const CHUNK = 200

const widthOf = (column: Sheet['columns'][number]): number =>
  column.type === 'number' || column.type === 'yes/no' || column.type === 'percent'
    ? 104
    : Math.min(260, Math.max(120, ...column.samples.map((sample) => sample.length * 8)))

/**
 * A sheet as it stands, however large: only what is in view is drawn, rows come in pieces. A cell at fault says so and is
 * mended in its place: Enter or a key begins, Enter keeps, Escape leaves it.
 */
export function SheetGrid({ sheet, filter, editable, onMend }: Props) {
  const scroller = useRef<HTMLDivElement>(null)
  const [at, setAt] = useState<{ row: number; column: number }>({ row: 0, column: 0 })
  const [editing, setEditing] = useState<string | null>(null)
  const widths = useMemo(() => sheet.columns.map(widthOf), [sheet.columns])
  const [total, setTotal] = useState(sheet.rowCount)
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
    estimateSize: (column) => widths[column]!,
    overscan: 3,
    scrollPaddingStart: NUMBERS,
  })
  const inView = rows.getVirtualItems()
  const first = Math.floor((inView[0]?.index ?? 0) / CHUNK)
  const last = Math.floor((inView.at(-1)?.index ?? 0) / CHUNK)
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
  useEffect(() => {
    if (known !== undefined) setTotal(known)
  }, [known])
  const rowAt = (index: number): GridRow | undefined =>
    answers[Math.floor(index / CHUNK) - first]?.data?.rows[index % CHUNK]
  const current = rowAt(at.row)
  const column = sheet.columns[at.column]
  const fault = current?.faults.find((each) => each.at === at.column)
  const mended = current?.mended.find((each) => each.at === at.column)
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
    [],
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
      <p
        className="flex h-8 shrink-0 items-center gap-3 border-t border-hair px-3 text-sm"
        aria-live="polite"
      >
        {current && column && (
          <>
            <span className="text-soft tabular-nums">
              {columnLetters(at.column)}
              {current.row}
            </span>
            {current.aside ? (
              <span className="text-soft">Set aside: {current.aside}</span>
            ) : fault ? (
              <span className="truncate text-ochre">{fault.message}</span>
            ) : (
              <span className="truncate">{current.cells[at.column]}</span>
            )}
            {mended && (
              <span className="ml-auto whitespace-nowrap text-soft">
                was “{mended.before || 'empty'}”{' '}
                {editable && (
                  <button
                    className="text-petrol underline"
                    onClick={() => onMend(current.row, column.name, null)}
                  >
                    bring it back
                  </button>
                )}
              </span>
            )}
          </>
        )}
        {!current && total === 0 && (
          <span className="text-soft">No row fits. {count(sheet.rowCount)} in all.</span>
        )}
      </p>
    </div>
  )
}

/** What cells do; the same for as long as the grid is there, so that rows in view are not drawn anew while it scrolls. */
interface Acts {
  readonly choose: (row: number, column: number) => void
  readonly begin: (text: string) => void
  readonly edit: (text: string) => void
  readonly keep: () => void
  readonly leave: () => void
}

const GridLine = memo(function GridLine({
  row,
  index,
  top,
  width,
  cells,
  columns,
  chosen,
  editing,
  acts,
}: {
  readonly row: GridRow | undefined
  readonly index: number
  readonly top: number
  readonly width: number
  readonly cells: readonly VirtualItem[]
  readonly columns: Sheet['columns']
  readonly chosen: number | null
  readonly editing: string | null
  readonly acts: Acts
}) {
  return (
    <div
      role="row"
      aria-rowindex={index + 1}
      className={`absolute left-0 border-b border-hair/60 ${row?.aside ? 'text-soft italic' : ''}`}
      style={{ top, height: ROW, width }}
    >
      {cells.map((item) => (
        <Cell
          key={item.key}
          row={row}
          at={item.index}
          left={item.start + NUMBERS}
          width={item.size}
          right={columns[item.index]!.type === 'number'}
          chosen={chosen === item.index}
          editing={chosen === item.index ? editing : null}
          onChoose={() => acts.choose(index, item.index)}
          onBegin={() => acts.begin(row?.cells[item.index] ?? '')}
          onEdit={acts.edit}
          onKeep={acts.keep}
          onLeave={acts.leave}
        />
      ))}
      <span
        role="rowheader"
        title={row?.aside ?? undefined}
        className="sticky left-0 z-10 flex items-center justify-end border-r border-hair bg-paper px-2 text-xs text-soft tabular-nums"
        style={{ width: NUMBERS, height: ROW - 1 }}
      >
        {row?.row ?? ''}
      </span>
    </div>
  )
})

const ColumnHead = memo(function ColumnHead({
  sheet,
  at,
  left,
  width,
  editable,
}: {
  readonly sheet: Sheet
  readonly at: number
  readonly left: number
  readonly width: number
  readonly editable: boolean
}) {
  const column = sheet.columns[at]!
  const odd = column.filled > column.fitting || column.unsure.length > 0
  return (
    <div
      role="columnheader"
      className="absolute top-0 flex flex-col justify-center border-r border-hair/60 px-2 leading-tight"
      style={{ left, width, height: HEAD - 1 }}
    >
      <ColumnMenu sheet={sheet} column={column} editable={editable} />
      <span
        className={`truncate text-xs ${odd ? 'text-ochre' : 'text-soft'}`}
        title={column.unsure.length ? `${column.unsure.join(', ')}: day or month first?` : evidence(column)}
      >
        {column.unsure.length ? 'day or month first?' : evidence(column)}
      </span>
    </div>
  )
})

function Cell({
  row,
  at,
  left,
  width,
  right,
  chosen,
  editing,
  onChoose,
  onBegin,
  onEdit,
  onKeep,
  onLeave,
}: {
  readonly row: GridRow | undefined
  readonly at: number
  readonly left: number
  readonly width: number
  readonly right: boolean
  readonly chosen: boolean
  readonly editing: string | null
  readonly onChoose: () => void
  readonly onBegin: () => void
  readonly onEdit: (text: string) => void
  readonly onKeep: () => void
  readonly onLeave: () => void
}) {
  const fault = row?.faults.find((each) => each.at === at)
  const mended = row?.mended.some((each) => each.at === at)
  return (
    <div
      role="gridcell"
      aria-selected={chosen}
      aria-invalid={fault !== undefined}
      title={fault?.message}
      className={`absolute top-0 flex items-center border-r border-hair/60 px-2 ${right ? 'justify-end tabular-nums' : ''} ${fault ? 'bg-ochre-wash text-ochre' : ''} ${mended ? 'font-semibold' : ''} ${chosen ? 'shadow-[inset_0_0_0_2px_var(--color-petrol)]' : ''}`}
      style={{ left, width, height: ROW - 1 }}
      onClick={onChoose}
      onDoubleClick={onBegin}
    >
      {editing !== null ? (
        <input
          aria-label="Cell"
          className="absolute inset-0 z-10 bg-sheet px-2 text-ink outline-2 outline-petrol"
          autoFocus
          value={editing}
          onChange={(event) => onEdit(event.target.value)}
          onBlur={onKeep}
          onKeyDown={(event) => {
            event.stopPropagation()
            if (event.key === 'Enter') onKeep()
            if (event.key === 'Escape') onLeave()
          }}
        />
      ) : row ? (
        <span className="truncate">{row.cells[at]}</span>
      ) : (
        <span className="h-2 w-2/3 bg-wash" />
      )}
    </div>
  )
}
