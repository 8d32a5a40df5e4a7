import { useState } from 'react'
import { Link } from 'react-router'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { belongsToCustomer, RECORD_KINDS, type RecordKind } from '#core/records/kinds.ts'
import { useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { count, plural } from '#web/parts/signs/when.tsx'
import type { Sheet } from './grid.ts'

const look = 'rounded-sm border border-hair bg-sheet px-1.5 py-0.5 text-sm'

/** Takes a sheet into the record book: matched by a key, with a look at what is new, changed and untouched first. */
export function ImportForm({ sheet, onDone }: { readonly sheet: Sheet; readonly onDone: () => void }) {
  const say = useNotice()
  const [kind, setKind] = useState<RecordKind>('customer')
  const [key, setKey] = useState('name')
  const [mapping, setMapping] = useState<Record<string, string> | null>(null)
  const [customerColumn, setCustomerColumn] = useState<string | null>(null)
  const fields = useAnswer('recordFields', { params: { kind } })
  const preview = useCall('previewImport', (seen) => setMapping(seen.mapping))
  const take = useCall('importRecords', ({ made, changed }) => {
    say(`${plural(made, 'record')} new, ${count(changed)} changed.`)
    onDone()
  })
  const body = {
    sheetId: sheet.id,
    key,
    customerColumn: belongsToCustomer(kind) ? customerColumn : null,
    ...(mapping ? { mapping } : {}),
  }
  const lookFirst = () => preview.mutate({ params: { kind }, body })
  const seen = preview.data
  const choose = (next: RecordKind) => {
    setKind(next)
    setMapping(null)
    preview.reset()
  }
  const plain =
    fields.data?.fields.filter(({ type, computed }) => type !== 'list' && computed === undefined) ?? []
  return (
    <section
      aria-label="Import to records"
      className="max-h-[55%] shrink-0 overflow-auto border-y border-hair bg-wash px-4 py-2 text-sm"
    >
      <div className="flex flex-wrap items-end gap-3">
        <label>
          <span className="block text-xs text-soft">Each row is a</span>
          <select
            className={look}
            value={kind}
            onChange={(event) => choose(event.target.value as RecordKind)}
          >
            {RECORD_KINDS.map((each) => (
              <option key={each}>{each}</option>
            ))}
          </select>
        </label>
        <label>
          <span className="block text-xs text-soft">identified by</span>
          <select className={look} value={key} onChange={(event) => setKey(event.target.value)}>
            {plain
              .filter(({ type }) => ['text', 'email', 'phone', 'number'].includes(type))
              .map(({ name, label }) => (
                <option key={name} value={name}>
                  {label}
                </option>
              ))}
          </select>
        </label>
        {belongsToCustomer(kind) && (
          <label>
            <span className="block text-xs text-soft">of the customer in</span>
            <select
              className={look}
              value={customerColumn ?? ''}
              onChange={(event) => setCustomerColumn(event.target.value || null)}
            >
              <option value="">no column</option>
              {sheet.columns.map(({ name }) => (
                <option key={name}>{name}</option>
              ))}
            </select>
          </label>
        )}
        <Button busy={preview.isPending} onClick={lookFirst}>
          {seen ? 'Preview again' : 'Preview import'}
        </Button>
        {seen && (
          <Button
            kind="main"
            busy={take.isPending}
            disabled={seen.counts.new + seen.counts.changed === 0}
            onClick={() => take.mutate({ params: { kind }, body })}
          >
            Import {count(seen.counts.new + seen.counts.changed)}
          </Button>
        )}
        <Link to="/records/imports" className="ml-auto text-petrol hover:underline">
          Import history
        </Link>
      </div>
      {seen && mapping && <Preview seen={seen} mapping={mapping} fields={plain} onMapping={setMapping} />}
    </section>
  )
}

/** What the import would do: which column fills which field, and what is new, changed or at fault. */
function Preview({
  seen,
  mapping,
  fields,
  onMapping,
}: {
  readonly seen: Answer<Api['previewImport']>
  readonly mapping: Record<string, string>
  readonly fields: readonly { readonly name: string; readonly label: string }[]
  readonly onMapping: (mapping: Record<string, string>) => void
}) {
  return (
    <div className="mt-3 grid grid-cols-[minmax(0,1fr)_minmax(0,1.4fr)] gap-6">
      <table className="h-fit w-full table-fixed">
        <tbody>
          {fields.map(({ name, label }) => (
            <tr key={name} className="border-b border-hair/60">
              <td className="truncate py-0.5">{label}</td>
              <td>
                <select
                  aria-label={`Column of ${label}`}
                  className={`${look} w-full`}
                  value={mapping[name] ?? ''}
                  onChange={(event) => {
                    const { [name]: _, ...rest } = mapping
                    onMapping(event.target.value ? { ...rest, [name]: event.target.value } : rest)
                  }}
                >
                  <option value="">nothing</option>
                  {seen.columns.map((column) => (
                    <option key={column}>{column}</option>
                  ))}
                </select>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div>
        <p className="font-serif text-base font-semibold" role="status">
          {count(seen.counts.new)} new, {count(seen.counts.changed)} changed, {count(seen.counts.untouched)}{' '}
          untouched
          {seen.counts.faulty > 0 && `, ${count(seen.counts.faulty)} with errors`}
        </p>
        <ul className="mt-1">
          {seen.rows.map((row) => (
            <li
              key={row.row}
              className="grid grid-cols-[4rem_5.5rem_1fr] gap-2 border-b border-hair/60 py-0.5"
            >
              <span className="text-soft tabular-nums">Row {row.row}</span>
              <span className={row.outcome === 'faulty' ? 'text-brick' : ''}>{row.outcome}</span>
              <span className="truncate">
                {row.name}
                {row.differences.map(({ field, before, after }) => (
                  <span key={field} className="block truncate text-soft">
                    {field}: {before || 'empty'} → {after}
                  </span>
                ))}
                {row.problems.map(({ message }) => (
                  <span key={message} className="block truncate text-brick" title={message}>
                    {message}
                  </span>
                ))}
              </span>
            </li>
          ))}
        </ul>
      </div>
    </div>
  )
}
