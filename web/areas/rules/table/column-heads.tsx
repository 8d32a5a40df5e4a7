import { Popover } from 'radix-ui'
import { Plus } from 'lucide-react'
import { type PointerEvent, useRef, useState } from 'react'
import {
  addInput,
  changeInput,
  type ColumnOf,
  removeInput,
  setOutputs,
  setOutputWidth,
} from '#core/rules/edit.ts'
import type { TableFault } from '#core/rules/faults.ts'
import type { RuleNames } from '#core/rules/names.ts'
import { OUTPUT_KEYS, type OutputKey, OUTPUTS } from '#core/rules/outputs.ts'
import type { RuleTable } from '#core/rules/table.ts'
import { Button } from '#web/parts/button.tsx'
import { Input, Labelled } from '#web/parts/input.tsx'
import type { TableDraft } from './use-table.ts'
import { HANDLE, HEAD, keyOf, newId } from './grid.ts'

interface Props {
  readonly table: RuleTable
  readonly draft: TableDraft
  readonly names: RuleNames
  readonly columns: readonly ColumnOf[]
  readonly widths: readonly number[]
  readonly faults: ReadonlyMap<string, TableFault>
  readonly editable: boolean
}

/** The heads of a rule table’s columns: what each asks or says; opened, they are changed. Their edges are dragged. */
export function ColumnHeads({ table, draft, names, columns, widths, faults, editable }: Props) {
  let left = HANDLE
  return (
    <div className="sticky top-0 z-20 border-b border-soft/60 bg-paper" style={{ height: HEAD }} role="row">
      <span className="absolute left-0 h-full border-r border-hair" style={{ width: HANDLE }} />
      {columns.map((column, at) => {
        const place = left
        left += widths[at]!
        const fault = faults.get(` ${keyOf(column)}`)
        return (
          <div
            key={keyOf(column)}
            role="columnheader"
            className={`absolute h-full border-r border-hair ${column.kind === 'output' ? 'bg-wash/70' : ''} ${fault ? 'border-b-2 border-b-brick' : ''}`}
            style={{ left: place, width: widths[at] }}
            title={fault?.message}
          >
            {column.kind === 'input' ? (
              <InputHead
                table={table}
                draft={draft}
                names={names}
                id={column.id}
                fault={fault}
                editable={editable}
              />
            ) : column.kind === 'output' ? (
              <p className="px-2 py-1.5 text-xs">
                <span className="block font-semibold">{OUTPUTS[column.key].label}</span>
                <span className="block truncate text-soft" title={OUTPUTS[column.key].hint}>
                  {OUTPUTS[column.key].hint}
                </span>
              </p>
            ) : (
              <span className="flex items-start gap-1 px-2 py-1.5 text-xs text-soft">
                Comment
                {editable && <Columns table={table} draft={draft} names={names} />}
              </span>
            )}
            {editable && column.kind !== 'note' && (
              <Edge
                width={widths[at]!}
                onWidth={(width) =>
                  draft.set(
                    column.kind === 'input'
                      ? changeInput(table, column.id, { width })
                      : setOutputWidth(table, column.key, width),
                    `width ${keyOf(column)}`,
                  )
                }
              />
            )}
          </div>
        )
      })}
    </div>
  )
}

function InputHead({
  table,
  draft,
  names,
  id,
  fault,
  editable,
}: {
  readonly table: RuleTable
  readonly draft: TableDraft
  readonly names: RuleNames
  readonly id: string
  readonly fault: TableFault | undefined
  readonly editable: boolean
}) {
  const input = table.inputs.find((each) => each.id === id)!
  const [open, setOpen] = useState(input.expression === '')
  const label = input.label || names.words.label(input.expression) || 'New condition'
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button disabled={!editable} className="block h-full w-full px-2 py-1.5 text-left text-xs">
          <span className="block truncate font-semibold">{label}</span>
          <span className={`block truncate font-mono ${fault ? 'text-brick' : 'text-soft'}`}>
            {input.expression || 'what is asked?'}
          </span>
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={2}
          aria-label={`Column ${label}`}
          className="z-50 flex w-80 flex-col gap-3 border border-hair bg-paper p-3 text-sm"
        >
          <Labelled label="What is asked" hint="A field, or any FEEL expression over the names of the scope.">
            <Input
              autoFocus
              list="rule-names"
              className="font-mono"
              aria-invalid={fault !== undefined}
              value={input.expression}
              onChange={(event) =>
                draft.set(changeInput(table, id, { expression: event.target.value }), `expression ${id}`)
              }
              onKeyDown={(event) => event.key === 'Enter' && setOpen(false)}
            />
          </Labelled>
          {fault && (
            <p role="alert" className="text-brick">
              {fault.message}{' '}
              {fault.meant !== null && (
                <button
                  className="underline"
                  onClick={() => draft.set(changeInput(table, id, { expression: fault.meant! }))}
                >
                  Use “{fault.meant}”
                </button>
              )}
            </p>
          )}
          <Labelled label="Called" hint="Left empty: as the field is.">
            <Input
              value={input.label}
              maxLength={200}
              onChange={(event) =>
                draft.set(changeInput(table, id, { label: event.target.value }), `label ${id}`)
              }
            />
          </Labelled>
          <div className="flex justify-between">
            <Button kind="quiet" onClick={() => draft.set(removeInput(table, id))}>
              Remove the column
            </Button>
            <Button onClick={() => setOpen(false)}>Done</Button>
          </div>
          <datalist id="rule-names">
            {[...names.types.keys()]
              .filter((name) => !name.includes('[]'))
              .map((name) => (
                <option key={name} value={name}>
                  {names.words.label(name)}
                </option>
              ))}
          </datalist>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

/** Adds conditions, and what a row can say. */
function Columns({ table, draft, names }: Pick<Props, 'table' | 'draft' | 'names'>) {
  const used = table.outputs.map(({ key }) => key)
  const toggle = (key: OutputKey) =>
    draft.set(
      setOutputs(
        table,
        used.includes(key)
          ? used.filter((each) => each !== key)
          : OUTPUT_KEYS.filter((each) => used.includes(each) || each === key),
      ),
    )
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button className="ml-auto flex items-center gap-1 rounded-sm border border-hair bg-sheet px-1.5 py-0.5 text-ink hover:border-soft">
          <Plus size={12} /> Column
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={2}
          aria-label="Columns"
          className="z-50 max-h-[70vh] w-72 overflow-auto border border-hair bg-paper p-3 text-sm"
        >
          <p className="font-semibold">A condition on</p>
          <ul className="mt-1 max-h-56 overflow-auto border border-hair bg-sheet">
            {[...names.fields.keys()]
              .filter((name) => names.types.has(name))
              .map((name) => (
                <li key={name}>
                  <Popover.Close asChild>
                    <button
                      className="flex w-full gap-2 px-2 py-0.5 text-left hover:bg-petrol-wash"
                      onClick={() => draft.set(addInput(table, newId(), name))}
                    >
                      <span className="truncate">{names.words.label(name)}</span>
                      <span className="ml-auto truncate font-mono text-xs text-soft">{name}</span>
                    </button>
                  </Popover.Close>
                </li>
              ))}
          </ul>
          <Popover.Close asChild>
            <button
              className="mt-1 text-petrol underline"
              onClick={() => draft.set(addInput(table, newId(), ''))}
            >
              An expression of your own
            </button>
          </Popover.Close>
          <p className="mt-3 font-semibold">A row says</p>
          {OUTPUT_KEYS.map((key) => (
            <label key={key} className="flex items-baseline gap-2 py-0.5">
              <input type="checkbox" checked={used.includes(key)} onChange={() => toggle(key)} />
              <span>
                {OUTPUTS[key].label} <span className="text-xs text-soft">{OUTPUTS[key].hint}</span>
              </span>
            </label>
          ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

/** The right edge of a head, to be dragged. */
function Edge({ width, onWidth }: { readonly width: number; readonly onWidth: (width: number) => void }) {
  const from = useRef<{ x: number; width: number } | null>(null)
  const move = (event: PointerEvent) => {
    if (from.current)
      onWidth(Math.round(Math.max(48, Math.min(600, from.current.width + event.clientX - from.current.x))))
  }
  return (
    <span
      role="presentation"
      className="absolute top-0 right-0 h-full w-1.5 cursor-col-resize hover:bg-petrol/30"
      onPointerDown={(event) => {
        from.current = { x: event.clientX, width }
        event.currentTarget.setPointerCapture(event.pointerId)
        event.preventDefault()
      }}
      onPointerMove={move}
      onPointerUp={() => (from.current = null)}
    />
  )
}
