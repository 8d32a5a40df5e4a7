import { isNumeric } from '#core/outline/field-kinds.ts'
import { Plus, X } from 'lucide-react'
import {
  COMPARISONS,
  comparisonsFor,
  type ConditionGroup,
  type ConditionRow,
  isGroup,
  type RowComparison,
  valuesOf,
} from '#core/condition/rows.ts'
import { type Field } from '#core/outline/field.ts'
import { inputType } from '#web/parts/input-type.ts'

/** What a new row begins with, by the field's type. */
const STARTS: Partial<Record<Field['type'], string>> = {
  date: '2027-01-01',
  time: '09:00',
  'date and time': '2027-01-01T09:00',
}

interface Props {
  readonly group: ConditionGroup
  /** Fields a condition here may read, by the name it uses. */
  readonly fields: readonly Field[]
  readonly onChange: (group: ConditionGroup) => void
  readonly depth?: number
}

const look = 'rounded-sm border border-hair bg-sheet px-1 py-0.5 text-sm'

/** A condition as rows: field, comparison, value; all or any of them, groups inside groups. */
export function ConditionBuilder({ group, fields, onChange, depth = 0 }: Props) {
  const put = (at: number, part: ConditionRow | ConditionGroup | null) =>
    onChange({
      ...group,
      parts: part === null ? group.parts.toSpliced(at, 1) : group.parts.toSpliced(at, 1, part),
    })
  const first = fields[0]
  const newRow = (): ConditionRow => startRow(first!)
  return (
    <div className={depth > 0 ? 'border-l border-soft pl-3' : ''} role="group" aria-label="Condition rows">
      {group.parts.length > 1 && (
        <label className="mb-1 flex items-center gap-1.5 text-xs text-soft">
          <select
            className={look}
            aria-label="All or any"
            value={group.join}
            onChange={(event) => onChange({ ...group, join: event.target.value as ConditionGroup['join'] })}
          >
            <option value="all">all of these hold</option>
            <option value="any">any of these holds</option>
          </select>
        </label>
      )}
      {group.parts.map((part, i) => (
        <div key={i} className="mb-1 flex items-start gap-1">
          <div className="min-w-0 flex-1">
            {isGroup(part) ? (
              <ConditionBuilder
                group={part}
                fields={fields}
                onChange={(next) => put(i, next)}
                depth={depth + 1}
              />
            ) : (
              <Row row={part} fields={fields} onChange={(next) => put(i, next)} />
            )}
          </div>
          <button
            type="button"
            className="rounded-sm p-1 text-soft hover:bg-wash hover:text-ink"
            aria-label="Leave this row out"
            onClick={() => put(i, null)}
          >
            <X size={13} />
          </button>
        </div>
      ))}
      {first && (
        <div className="flex gap-3 text-xs text-petrol">
          <button
            type="button"
            className="flex items-center gap-0.5 hover:underline"
            onClick={() => onChange({ ...group, parts: [...group.parts, newRow()] })}
          >
            <Plus size={12} /> Row
          </button>
          {depth < 2 && group.parts.length > 0 && (
            <button
              type="button"
              className="flex items-center gap-0.5 hover:underline"
              onClick={() =>
                onChange({
                  ...group,
                  parts: [
                    ...group.parts,
                    { join: group.join === 'all' ? 'any' : 'all', parts: [newRow(), newRow()] },
                  ],
                })
              }
            >
              <Plus size={12} /> Group
            </button>
          )}
        </div>
      )}
    </div>
  )
}

const startRow = (field: Field): ConditionRow => {
  const comparison = comparisonsFor(field.type)[0]!
  return { field: field.name, comparison, values: startValues(field, comparison, []) }
}

function startValues(field: Field, comparison: RowComparison, before: readonly string[]): readonly string[] {
  const count = valuesOf(comparison)
  const usual = field.choices?.[0] ?? (isNumeric(field.type) ? '0' : (STARTS[field.type] ?? ''))
  if (count === 'many') return before.length ? before : [usual]
  return Array.from({ length: count }, (_, i) => before[i] ?? usual)
}

function Row({
  row,
  fields,
  onChange,
}: {
  readonly row: ConditionRow
  readonly fields: readonly Field[]
  readonly onChange: (row: ConditionRow) => void
}) {
  const field = fields.find(({ name }) => name === row.field)
  const comparisons = field ? comparisonsFor(field.type) : [row.comparison]
  const value = (at: number, next: string) => onChange({ ...row, values: row.values.toSpliced(at, 1, next) })
  return (
    <div className="flex items-center gap-1">
      <select
        aria-label="Field"
        className={`${look} w-40 truncate`}
        value={row.field}
        onChange={(event) => {
          const chosen = fields.find(({ name }) => name === event.target.value)!
          onChange(chosen.type === field?.type ? { ...row, field: chosen.name } : startRow(chosen))
        }}
      >
        {!field && <option value={row.field}>{row.field}</option>}
        {fields.map(({ name, label }) => (
          <option key={name} value={name}>
            {label}
          </option>
        ))}
      </select>
      <select
        aria-label="Comparison"
        className={look}
        value={row.comparison}
        onChange={(event) => {
          const comparison = event.target.value as RowComparison
          onChange({
            ...row,
            comparison,
            values: field ? startValues(field, comparison, row.values) : row.values,
          })
        }}
      >
        {(comparisons.includes(row.comparison) ? comparisons : [row.comparison, ...comparisons]).map(
          (comparison) => (
            <option key={comparison} value={comparison}>
              {COMPARISONS[comparison]}
            </option>
          ),
        )}
      </select>
      {valuesOf(row.comparison) === 'many' ? (
        <Many values={row.values} field={field} onChange={(values) => onChange({ ...row, values })} />
      ) : (
        row.values.map((each, i) => (
          <Value key={i} value={each} field={field} onChange={(next) => value(i, next)} />
        ))
      )}
    </div>
  )
}

interface ValueProps {
  readonly value: string
  readonly field: Field | undefined
  readonly onChange: (value: string) => void
}

function Value({ value, field, onChange }: ValueProps) {
  if (field?.choices?.length)
    return (
      <select
        aria-label="Value"
        className={look}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      >
        {!field.choices.includes(value) && <option value={value}>{value}</option>}
        {field.choices.map((choice) => (
          <option key={choice}>{choice}</option>
        ))}
      </select>
    )
  return (
    <input
      aria-label="Value"
      className={`${look} min-w-0 flex-1`}
      type={inputType(field?.type)}
      inputMode={field && isNumeric(field.type) ? 'decimal' : undefined}
      value={value}
      onChange={(event) => onChange(event.target.value)}
    />
  )
}

function Many({
  values,
  field,
  onChange,
}: {
  readonly values: readonly string[]
  readonly field: Field | undefined
  readonly onChange: (values: readonly string[]) => void
}) {
  if (field?.choices?.length)
    return (
      <span className="flex flex-wrap gap-x-2 text-sm">
        {field.choices.map((choice) => (
          <label key={choice} className="flex items-center gap-1">
            <input
              type="checkbox"
              checked={values.includes(choice)}
              onChange={(event) =>
                onChange(
                  event.target.checked ? [...values, choice] : values.filter((value) => value !== choice),
                )
              }
            />
            {choice}
          </label>
        ))}
      </span>
    )
  return (
    <input
      aria-label="Values, with commas between"
      className={`${look} min-w-0 flex-1`}
      value={values.join(', ')}
      onChange={(event) => onChange(event.target.value.split(',').map((value) => value.trim()))}
    />
  )
}
