import { useState } from 'react'
import { EACH_ROW, readItemKey } from '#core/mapping/key.ts'
import { evidence } from '#core/sheet/columns.ts'
import { useCall } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { Input } from '#web/parts/input.tsx'
import { inputType } from '#web/parts/input-type.ts'
import { fullName, type Setup, useRun } from '#web/areas/runs/open-run/use-run.ts'
import type { SectionProps } from './section.ts'

type Field = Setup['fields'][number]
type Column = Setup['columns'][number]

const SAME = '\u0000same'
const ASKED = '\u0000asked'

/** Each field with its column, its one value for all rows, or the row-by-row question; and what the column holds. */
export function Sources({ setup, locked, change }: SectionProps) {
  const { run } = useRun()
  const missing = setup.fields.filter(
    (field) => field.type !== 'list' && keysOf(field, setup).every((key) => isMissing(field, key, setup)),
  )
  return (
    <>
      <Carried setup={setup} />
      {missing.length > 0 && (
        <p className="mb-2 text-sm text-brick">
          Nothing gives {missing.map(({ label }) => `“${label}”`).join(', ')}.
        </p>
      )}
      <Unsure setup={setup} locked={locked || run.fromRecords} />
      <table className="w-full table-fixed text-sm">
        <thead className="text-left text-xs text-soft">
          <tr className="border-b border-hair">
            <th className="w-[34%] py-1 font-normal">Field</th>
            <th className="w-[32%] font-normal">From</th>
            <th className="font-normal">What it holds</th>
          </tr>
        </thead>
        <tbody>
          {setup.fields
            .filter(({ type }) => type !== 'list')
            .flatMap((field) => keysOf(field, setup).map((key) => ({ field, key })))
            .map(({ field, key }) => (
              <SourceLine key={key} field={field} of={key} {...{ setup, locked, change }} />
            ))}
        </tbody>
      </table>
    </>
  )
}

/** Keys of the mapping that feed a field: one, or of a list's field one for each of its columns. */
function keysOf(field: Field, { mapping, setup }: Setup): readonly string[] {
  if (field.list === null) return [field.name]
  const found = Object.keys(mapping).filter((key) => {
    const item = readItemKey(key)
    return item?.list === field.list && item.name === field.name
  })
  if (found.length) return found
  return [`${field.list}[${setup.groupBy.length ? '' : '1'}].${field.name}`]
}

/** What a key of the mapping is fed by: a column, `SAME`, `ASKED`, or nothing. */
function sourceOf(field: Field, key: string, { mapping, setup }: Setup): string {
  // A value for all rows goes before a column; in a list it is for the items without one.
  if (field.list !== null && mapping[key] !== undefined) return mapping[key]
  if (fullName(field) in setup.values) return SAME
  if (setup.askRows.includes(fullName(field))) return ASKED
  return mapping[key] ?? ''
}

/** Whether every row will need the value; a list that nothing feeds has no items to need one. */
const isMissing = (field: Field, key: string, setup: Setup): boolean =>
  field.required &&
  field.default === null &&
  sourceOf(field, key, setup) === '' &&
  (field.list === null || Object.keys(setup.mapping).some((other) => readItemKey(other)?.list === field.list))

function SourceLine({
  field,
  of: key,
  setup,
  locked,
  change,
}: SectionProps & { readonly field: Field; readonly of: string }) {
  const { values } = setup.setup
  const name = fullName(field)
  const chosen = sourceOf(field, key, setup)
  const column = setup.columns.find(({ name }) => name === chosen)
  const fault = setup.faults.find((each) => each.field === key)
  const missing = isMissing(field, key, setup)
  const position = readItemKey(key)?.position
  const item = position === EACH_ROW ? undefined : position
  const choose = (next: string) => {
    change((now) => {
      const { [key]: _, ...mapping } = now.mapping
      const { [name]: before = field.default ?? '', ...others } = now.setup.values
      const rest = now.setup.askRows.filter((each) => each !== name)
      return {
        mapping: next && next !== SAME && next !== ASKED ? { ...mapping, [key]: next } : mapping,
        setup: {
          ...now.setup,
          values: next === SAME ? { ...others, [name]: before } : others,
          askRows: next === ASKED ? [...rest, name] : rest,
        },
      }
    })
  }
  return (
    <tr className="border-b border-hair/60 align-top">
      <td className="truncate py-1 pr-2" title={field.help ?? undefined}>
        {field.list !== null && (
          <span className="text-soft">
            {field.list} {item ?? 'each row'}:{' '}
          </span>
        )}
        {field.label} <span className="text-xs text-soft">{field.type}</span>
      </td>
      <td className="py-0.5 pr-2">
        <select
          aria-label={`Source of ${field.label}${item ? ` ${item}` : ''}`}
          aria-invalid={missing || fault !== undefined}
          disabled={locked}
          className="w-full rounded-sm border border-hair bg-sheet px-1 py-0.5 aria-invalid:border-brick"
          value={chosen}
          onChange={(event) => choose(event.target.value)}
        >
          <option value="">{missing ? 'nothing: choose' : 'nothing'}</option>
          <option value={SAME}>one value for all rows</option>
          {field.list === null && <option value={ASKED}>asked row by row</option>}
          {setup.columns.map(({ name }) => (
            <option key={name} value={name}>
              {name}
            </option>
          ))}
        </select>
      </td>
      <td className={`py-1 text-xs ${fault || missing ? 'text-brick' : 'text-soft'}`}>
        {chosen === SAME ? (
          <OneValue
            key={values[name] ?? ''}
            field={field}
            value={values[name] ?? ''}
            locked={locked}
            onSet={(value) =>
              change((now) => ({ setup: { ...now.setup, values: { ...now.setup.values, [name]: value } } }))
            }
          />
        ) : (
          <span className="block truncate" title={fault?.message ?? (column && evidence(column))}>
            {fault?.message ??
              (missing
                ? 'every row will need this value'
                : chosen === ASKED
                  ? 'stands with the rows that need a hand'
                  : column
                    ? held(column)
                    : field.default !== null
                      ? `by default ${field.default}`
                      : 'not given')}
          </span>
        )}
      </td>
    </tr>
  )
}

const held = (column: Column) => `${evidence(column)}, such as ${column.samples.slice(0, 2).join(' · ')}`

function OneValue({
  field,
  value,
  locked,
  onSet,
}: {
  readonly field: Field
  readonly value: string
  readonly locked: boolean
  readonly onSet: (value: string) => void
}) {
  const [text, setText] = useState(value)
  const label = `Value of ${field.label} for all rows`
  const choices = field.choices ?? (field.type === 'yes/no' ? ['yes', 'no'] : null)
  if (choices)
    return (
      <select
        aria-label={label}
        disabled={locked}
        className="w-full rounded-sm border border-hair bg-sheet px-1 py-0.5 text-sm text-ink"
        value={value}
        onChange={(event) => onSet(event.target.value)}
      >
        <option value="">choose</option>
        {choices.map((choice) => (
          <option key={choice}>{choice}</option>
        ))}
      </select>
    )
  return (
    <Input
      aria-label={label}
      disabled={locked}
      className="py-0.5"
      type={inputType(field.type)}
      placeholder={field.example ?? ''}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => text !== value && onSet(text)}
      onKeyDown={(event) => event.key === 'Enter' && text !== value && onSet(text)}
    />
  )
}

/** Tells that the mapping was carried over, and which columns go by another name now. */
function Carried({ setup }: { readonly setup: Setup }) {
  if (!setup.remembered || setup.drift.length === 0) return null
  const labels = new Map(setup.fields.map(({ name, label }) => [name, label]))
  return (
    <div role="status" className="mb-2 border-l-2 border-ochre pl-3 text-sm">
      Carried over from the last source of this shape.
      {setup.drift.map(({ field, was, now }) => (
        <p key={field}>
          {now ? (
            <>
              Column “{was}” is now “{now}”.
            </>
          ) : (
            <>
              Column “{was}” is gone: nothing gives “{labels.get(field) ?? field}”.
            </>
          )}
        </p>
      ))}
    </div>
  )
}

/** Dates that can be read both ways are asked about once a column, with examples. */
function Unsure({ setup, locked }: { readonly setup: Setup; readonly locked: boolean }) {
  const { run } = useRun()
  const say = useCall('sayColumn')
  const used = new Set(Object.values(setup.mapping))
  const unsure = setup.columns.filter(({ name, unsure: examples }) => used.has(name) && examples.length > 0)
  return unsure.map((column) => (
    <div
      key={column.name}
      role="group"
      aria-label={`Dates of ${column.name}`}
      className="mb-2 flex flex-wrap items-center gap-2 bg-ochre-wash px-3 py-1.5 text-sm"
    >
      <span>
        “{column.name}” has dates such as <b>{column.unsure.join(', ')}</b>. What stands first?
      </span>
      {(['day first', 'month first'] as const).map((dateOrder) => (
        <Button
          key={dateOrder}
          disabled={locked}
          busy={say.isPending}
          onClick={() =>
            say.mutate({ params: { id: run.sheetId }, body: { column: column.name, dateOrder } })
          }
        >
          {dateOrder === 'day first' ? 'The day' : 'The month'}
        </Button>
      ))}
    </div>
  ))
}
