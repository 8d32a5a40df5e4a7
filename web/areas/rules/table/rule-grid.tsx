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
import { useEffect, useMemo, useRef } from 'react'
import { approverNames } from '#core/approvers/mention.ts'
import type { Directory } from '#core/approvers/directory.ts'
import type { TableFault } from '#core/rules/faults.ts'
import { columnsOf, type Reading } from '#core/rules/edit.ts'
import type { RuleNames } from '#core/rules/names.ts'
import type { RuleTable } from '#core/rules/table.ts'
import { ColumnHeads } from './column-heads.tsx'
import { type Chosen, HANDLE, HEAD, ROW, widthOf } from './grid.ts'
import { RuleRow } from './rule-row.tsx'
import { useGrid } from './use-grid.ts'
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
export function RuleGrid(props: Props) {
  const { table, draft, names, directory, reading, faults, lit, chosen, onChoose, editable } = props
  const scroller = useRef<HTMLDivElement>(null)
  const sheet = useRef<HTMLDivElement>(null)
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
  useEffect(() => {
    if (chosen.row < table.rows.length) rows.scrollToIndex(chosen.row)
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only where one goes, not as rows come and go
  }, [chosen.row])
  const grid = useGrid({ table, draft, columns, reading, chosen, onChoose, editable, sheet })
  const { at, column, editing, go, keep, move } = grid
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }))
  const dropped = ({ active, over }: DragEndEvent) => {
    const [from, to] = [active.id, over?.id].map((id) => table.rows.findIndex((row) => row.id === id))
    if (from !== undefined && to !== undefined && from >= 0 && to >= 0 && from !== to) move(from, to)
  }
  const faultsOf = useMemo(() => {
    const found = new Map<string, TableFault>()
    for (const fault of faults) {
      const key = `${fault.row ?? ''} ${fault.column ?? ''}`
      if (!found.has(key)) found.set(key, fault)
    }
    return found
  }, [faults])
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
            onKeyDown={grid.onKey}
            onCopy={(event) => grid.onCopy(event, false)}
            onCut={(event) => grid.onCopy(event, true)}
            onPaste={grid.onPaste}
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
                  onBegin={() => grid.begin()}
                  onEdit={grid.setEditing}
                  onEditKey={grid.onEditKey}
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
          onClick={() => grid.insert(table.rows.length)}
        >
          + Add row
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
