import { useSortable } from '@dnd-kit/sortable'
import { GripVertical } from 'lucide-react'
import type { KeyboardEvent } from 'react'
import { plainTests } from '#core/rules/cell.ts'
import { cellText, type ColumnOf } from '#core/rules/edit.ts'
import type { TableFault } from '#core/rules/faults.ts'
import type { RuleNames } from '#core/rules/names.ts'
import { isAnything, type Row, type RuleTable } from '#core/rules/table.ts'
import { type Chosen, HANDLE, headOf, keyOf, ROW } from './grid.ts'

interface Props {
  readonly row: Row
  readonly index: number
  readonly top: number
  readonly width: number
  readonly table: RuleTable
  readonly columns: readonly ColumnOf[]
  readonly widths: readonly number[]
  readonly faults: ReadonlyMap<string, TableFault>
  readonly lit: boolean
  readonly chosen: Chosen
  readonly editing: string | null
  readonly names: RuleNames
  /** Id of the list of what may be written here. */
  readonly suggestions: string | undefined
  readonly onChoose: (column: number, more: boolean) => void
  readonly onBegin: () => void
  readonly onEdit: (text: string) => void
  readonly onEditKey: (event: KeyboardEvent) => void
  readonly onKeep: () => void
}

/** One row: its number to drag it by, its tests with their plain reading, what it says, a comment. */
export function RuleRow(props: Props) {
  const { row, index, top, width, columns, widths, faults, lit, chosen, editing, onChoose, onBegin } = props
  const sortable = useSortable({ id: row.id })
  const moved = sortable.transform ? `translate3d(0, ${sortable.transform.y}px, 0)` : undefined
  let left = HANDLE
  return (
    <div
      ref={sortable.setNodeRef}
      role="row"
      aria-rowindex={index + 1}
      aria-label={`Row ${index + 1}${lit ? ', holds for the record in view' : ''}`}
      className={`absolute left-0 border-b border-hair/70 ${lit ? 'bg-petrol-wash' : ''} ${sortable.isDragging ? 'z-30 bg-wash' : ''}`}
      style={{ top, height: ROW, width, transform: moved }}
    >
      <span
        {...sortable.attributes}
        {...sortable.listeners}
        tabIndex={-1}
        role="rowheader"
        aria-label={`Row ${index + 1}`}
        title={lit ? 'Holds for the record in view' : 'Drag to move the row'}
        className={`absolute left-0 flex h-full cursor-grab items-center gap-0.5 border-r border-hair pl-1 text-soft tabular-nums ${lit ? 'border-l-4 border-l-petrol font-semibold text-petrol' : ''}`}
        style={{ width: HANDLE }}
      >
        <GripVertical size={13} aria-hidden /> {index + 1}
      </span>
      {columns.map((column, at) => {
        const place = left
        left += widths[at]!
        const fault = faults.get(`${row.id} ${keyOf(column)}`)
        const current = chosen.row === index && chosen.column === at
        const within = between(index, chosen.row, chosen.toRow) && between(at, chosen.column, chosen.toColumn)
        return (
          <div
            key={keyOf(column)}
            role="gridcell"
            aria-colindex={at + 1}
            aria-selected={within}
            aria-invalid={fault !== undefined}
            title={fault?.message}
            className={`absolute h-full overflow-hidden border-r px-2 py-1 ${column.kind === 'output' ? 'bg-wash/50' : ''} ${current ? 'outline-2 -outline-offset-2 outline-petrol' : within ? 'bg-petrol-wash' : ''} ${fault ? 'border-b-2 border-b-brick' : ''} border-hair/70`}
            style={{ left: place, width: widths[at] }}
            onPointerDown={(event) => {
              if (current && editing !== null) return
              onChoose(at, event.shiftKey)
            }}
            onDoubleClick={onBegin}
          >
            {current && editing !== null ? (
              <input
                autoFocus
                aria-label={`${headOf(props.table, column)}, row ${index + 1}`}
                list={props.suggestions}
                className="absolute inset-0 w-full bg-sheet px-2 font-mono text-sm outline-none"
                value={editing}
                onChange={(event) => props.onEdit(event.target.value)}
                onKeyDown={props.onEditKey}
                onBlur={props.onKeep}
              />
            ) : (
              <Shown {...props} column={column} fault={fault !== undefined} />
            )}
          </div>
        )
      })}
    </div>
  )
}

const between = (at: number, a: number, b: number): boolean => at >= Math.min(a, b) && at <= Math.max(a, b)

function Shown({
  row,
  table,
  column,
  names,
  fault,
}: Props & { readonly column: ColumnOf; readonly fault: boolean }) {
  const text = cellText(row, column)
  if (column.kind !== 'input')
    return <p className={`line-clamp-2 leading-4.5 ${column.kind === 'note' ? 'text-soft' : ''}`}>{text}</p>
  if (isAnything(text)) {
    // A row without any test is not one that is still to be written: it holds for everything, and says so.
    const holdsAlways =
      table.inputs[0]?.id === column.id && table.inputs.every(({ id }) => isAnything(row.when[id]))
    return holdsAlways ? (
      <p className="truncate text-xs leading-4 text-soft italic">holds for every agreement</p>
    ) : (
      <p className="text-soft/60">–</p>
    )
  }
  const { expression } = table.inputs.find(({ id }) => id === column.id)!
  const plain = fault ? null : plainTests(text, (value) => names.words.show(value, expression))
  return (
    <>
      <p className={`truncate font-mono text-[0.8rem] leading-4.5 ${fault ? 'text-brick' : ''}`}>{text}</p>
      {plain !== null && plain !== text && (
        <p className="truncate text-xs leading-4 text-soft italic">{plain}</p>
      )}
    </>
  )
}
