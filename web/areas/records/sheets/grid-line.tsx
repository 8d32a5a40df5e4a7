import type { VirtualItem } from '@tanstack/react-virtual'
import { memo } from 'react'
import { evidence } from '#core/sheet/columns.ts'
import { readingText } from '#web/parts/signs/when.tsx'
import { ColumnMenu } from './column-menu.tsx'
import { type GridRow, HEAD, ROW, type Sheet } from './grid.ts'

export const NUMBERS = 56

/** What cells do; the same for as long as the grid is there, so that rows in view are not drawn anew while it scrolls. */
export interface Acts {
  readonly choose: (row: number, column: number) => void
  readonly begin: (text: string) => void
  readonly edit: (text: string) => void
  readonly keep: () => void
  readonly leave: () => void
}

export const GridLine = memo(function GridLine({
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
          type={columns[item.index]!.type}
          line={index}
          chosen={chosen === item.index}
          editing={chosen === item.index ? editing : null}
          acts={acts}
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

export const ColumnHead = memo(function ColumnHead({
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
  type,
  line,
  chosen,
  editing,
  acts,
}: {
  readonly row: GridRow | undefined
  readonly at: number
  readonly left: number
  readonly width: number
  readonly type: Sheet['columns'][number]['type']
  readonly line: number
  readonly chosen: boolean
  readonly editing: string | null
  readonly acts: Acts
}) {
  const fault = row?.faults.find((each) => each.at === at)
  const as = row?.read.find((each) => each.at === at)?.as
  const read = as === undefined ? null : readingText(type, as)
  const mended = row?.mended.some((each) => each.at === at)
  return (
    <div
      role="gridcell"
      aria-selected={chosen}
      aria-invalid={fault !== undefined}
      title={fault?.message}
      className={`absolute top-0 flex items-center border-r border-hair/60 px-2 ${type === 'number' ? 'justify-end tabular-nums' : ''} ${fault ? 'bg-ochre-wash text-ochre' : ''} ${mended ? 'font-semibold' : ''} ${chosen ? 'shadow-[inset_0_0_0_2px_var(--color-petrol)]' : ''}`}
      style={{ left, width, height: ROW - 1 }}
      onClick={() => acts.choose(line, at)}
      onDoubleClick={() => acts.begin(row?.cells[at] ?? '')}
    >
      {editing !== null ? (
        <input
          aria-label="Cell"
          className="absolute inset-0 z-10 bg-sheet px-2 text-ink outline-2 outline-petrol"
          autoFocus
          value={editing}
          onChange={(event) => acts.edit(event.target.value)}
          onBlur={acts.keep}
          onKeyDown={(event) => {
            event.stopPropagation()
            if (event.key === 'Enter') acts.keep()
            if (event.key === 'Escape') acts.leave()
          }}
        />
      ) : row ? (
        <>
          <span className="truncate">{row.cells[at]}</span>
          {read && (
            <span className="ml-1.5 shrink-0 text-xs text-soft tabular-nums" aria-label={`read as ${read}`}>
              {read}
            </span>
          )}
        </>
      ) : (
        <span className="h-2 w-2/3 bg-wash" />
      )}
    </div>
  )
}
