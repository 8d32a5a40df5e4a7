import type { FieldType } from '#core/outline/field-kinds.ts'
import { ChevronDown, ChevronRight, Plus } from 'lucide-react'
import { useMemo, useState } from 'react'
import { usedNames } from '#core/checks/checks.ts'
import { templateFields } from '#core/merge/fields.ts'
import type { Field } from '#core/outline/field.ts'
import type { Column } from '#core/sheet/columns.ts'
import { fieldsFromColumns } from '#core/mapping/from-columns.ts'
import { useAnswer } from '#web/api/client.ts'
import { useOrganisation } from '#web/frame/person.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Input } from '#web/parts/input.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { FieldForm } from './field-form.tsx'

/** The group a dotted name puts a field in. */
const groupOf = (field: Field | undefined): string => field?.name.split('.').slice(0, -1).join('.') ?? ''

/** Fields as they stand, those of one group together where its first one stands. */
const byGroup = (outline: readonly Field[]): readonly Field[] => {
  const keyOf = (field: Field) => groupOf(field) || ` ${field.name}`
  const first = new Map<string, number>()
  for (const [i, field] of outline.entries()) if (!first.has(keyOf(field))) first.set(keyOf(field), i)
  return [...outline].sort((a, b) => first.get(keyOf(a))! - first.get(keyOf(b))!)
}

/** The data a template needs: its fields by groups, what they are, and what they give for the row in the proof. */
export function DataPanel() {
  const { content, editable, change, proof } = useStudio()
  const [open, setOpen] = useState<string | null>(null)
  const [text, setText] = useState('')
  const used = useMemo(() => usedNames(content), [content])
  const given = useMemo(() => templateFields(content).given.map(({ field }) => field), [content])
  const uses = (name: string) =>
    [...used].reduce(
      (sum, [each, count]) => (each === name || each.startsWith(`${name}.`) ? sum + count : sum),
      0,
    )
  const shown = byGroup(content.outline).filter(({ name, label }) =>
    `${name} ${label}`.toLowerCase().includes(text.toLowerCase()),
  )
  const add = (type: FieldType) => {
    const taken = new Set(content.outline.map(({ name }) => name))
    const base = type === 'list' ? 'items' : 'new_field'
    const name = taken.has(base)
      ? `${base}_${Array.from({ length: 999 }, (_, i) => i + 2).find((i) => !taken.has(`${base}_${i}`))!}`
      : base
    const field: Field = {
      name,
      label: type === 'list' ? 'Items' : 'New field',
      type,
      required: true,
      ...(type === 'list'
        ? { items: [{ name: 'description', label: 'Description', type: 'text', required: true }] }
        : {}),
    }
    change((before) => ({ ...before, outline: [...before.outline, field] }))
    setOpen(name)
    setText('')
  }
  return (
    <div className="min-h-0 overflow-auto p-4" tabIndex={0} role="region" aria-label="Data outline">
      <div className="mb-3 flex flex-wrap items-center gap-2">
        <Input
          type="search"
          aria-label="Find a field"
          placeholder="Find a field"
          className="max-w-44"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        {editable && (
          <>
            <Button onClick={() => add('text')}>
              <Plus size={14} /> Field
            </Button>
            <Button onClick={() => add('list')}>
              <Plus size={14} /> List
            </Button>
            <FromSource />
          </>
        )}
      </div>
      {content.outline.length === 0 && (
        <p className="max-w-md border-l-2 border-hair pl-4 text-sm text-soft">
          No data yet. Type {'{{'} in the text to make a field where it stands, or take the columns of a
          sheet.
        </p>
      )}
      <ul className="text-sm">
        {shown.map((field, i) => (
          <li key={content.outline.indexOf(field)} className="border-b border-hair/60">
            {groupOf(field) !== groupOf(shown[i - 1]) && groupOf(field) !== '' && (
              <p className="border-b border-hair/60 pt-3 pb-1 text-xs text-soft italic">{groupOf(field)}</p>
            )}
            <button
              className="flex w-full items-baseline gap-2 py-1.5 text-left hover:bg-wash"
              aria-expanded={open === field.name}
              onClick={() => setOpen(open === field.name ? null : field.name)}
            >
              {open === field.name ? <ChevronDown size={13} /> : <ChevronRight size={13} />}
              <span className="w-44 shrink-0 truncate">
                <span className="font-semibold">{field.label}</span>
                <span className="block truncate text-xs text-soft">{field.name}</span>
              </span>
              <span className="w-24 shrink-0 text-soft">
                {field.type}
                {field.currency && ` ${field.currency}`}
              </span>
              <span className="min-w-0 flex-1 truncate text-xs text-soft">
                {field.computed ? (
                  <code className="text-petrol">= {field.computed}</code>
                ) : (
                  field.default && `default ${field.default}`
                )}
              </span>
              <span className="max-w-36 truncate" title="For the row in the proof">
                {proof?.values[field.name] ?? ''}
              </span>
              <span className="w-16 shrink-0 text-right text-xs text-soft">
                {plural(uses(field.name), 'place')}
              </span>
            </button>
            {open === field.name && (
              <FieldForm
                field={field}
                full={field.name}
                uses={uses(field.name)}
                onRenamed={setOpen}
                onRemoved={() => setOpen(null)}
              />
            )}
          </li>
        ))}
        {shown.length === 0 && content.outline.length > 0 && (
          <li className="py-2 text-soft">No field has “{text}” in its name.</li>
        )}
      </ul>
      {given.length > 0 && (
        <details className="mt-4 text-sm">
          <summary className="text-soft">
            {plural(given.length, 'field')} that come by themselves: people and totals
          </summary>
          <ul className="mt-1 columns-2 text-xs">
            {given.map(({ name, label }) => (
              <li key={name} className="flex justify-between gap-2 py-0.5">
                <span className="truncate" title={name}>
                  {label}
                </span>
                <span className="truncate text-soft">{proof?.values[name] ?? ''}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  )
}

/** Takes the columns of the sheet in the proof, or of the record book's deals, as fields: names, types and examples. */
function FromSource() {
  const { sheetId } = useStudio()
  const sheet = useAnswer('sheet', { params: { id: sheetId ?? '' } }, { enabled: sheetId !== null })
  const deals = useAnswer('dealColumns')
  return (
    <>
      {sheet.data && <Take columns={sheet.data.columns} name={sheet.data.name} />}
      {deals.data && deals.data.length > 0 && <Take columns={deals.data} name="Records" />}
    </>
  )
}

function Take({ columns, name }: { readonly columns: readonly Column[]; readonly name: string }) {
  const { change, content } = useStudio()
  const { synonyms } = useOrganisation()
  const say = useNotice()
  return (
    <Button
      title={`Fields for the columns of ${name} that have none yet`}
      onClick={() => {
        const found = fieldsFromColumns(columns, content.outline, synonyms)
        change((before) => ({ ...before, outline: [...before.outline, ...found] }))
        say(
          found.length
            ? `${plural(found.length, 'field')} taken from ${name}.`
            : `Every column of ${name} has its field already.`,
        )
      }}
    >
      Take columns of {name}
    </Button>
  )
}
