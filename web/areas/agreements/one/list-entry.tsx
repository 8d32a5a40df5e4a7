import { Plus, X } from 'lucide-react'
import { isNumeric } from '#core/outline/field-kinds.ts'
import { FieldInput } from '#web/areas/records/book/field-input.tsx'
import { Button } from '#web/parts/button.tsx'
import type { Item } from './given.ts'
import type { Value } from './use-one-agreement.ts'

/** The items of a list, typed in a table of its fields: one row each, the next one by Enter in the last. */
export function ListEntry({
  value: { label, items: fields, itemProblems, problem },
  items,
  onChange,
}: {
  readonly value: Value
  readonly items: readonly Item[]
  readonly onChange: (items: readonly Item[]) => void
}) {
  const shown = items.length ? items : [{}]
  const put = (at: number, name: string, text: string) =>
    onChange(shown.map((item, i) => (i === at ? { ...item, [name]: text } : item)))
  const told = (at: number, name: string) =>
    itemProblems.find((each) => each.item === at && each.name === name)?.message
  return (
    <div>
      <table className="w-full table-fixed" aria-label={label}>
        <thead>
          <tr>
            {fields.map((field) => (
              <th
                key={field.name}
                className={`px-1 pb-1 text-xs font-normal text-soft ${isNumeric(field.type) ? 'text-right' : 'text-left'}`}
              >
                {field.label}
              </th>
            ))}
            <th className="w-7">
              <span className="sr-only">Remove</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {shown.map((item, at) => (
            // Items have no names: the place is what tells them apart.
            <tr key={at} className="align-top">
              {fields.map((field) => {
                const wrong = told(at, field.name)
                return (
                  <td key={field.name} className="px-1 pb-1">
                    <FieldInput
                      field={{
                        name: field.name,
                        label: field.label,
                        type: field.type,
                        required: field.required,
                        ...(field.choices ? { choices: field.choices } : {}),
                      }}
                      label={`${field.label} of ${label} ${at + 1}`}
                      value={item[field.name] ?? ''}
                      invalid={wrong !== undefined}
                      onChange={(text) => put(at, field.name, text)}
                      onKeyDown={(event) => {
                        if (event.key === 'Enter' && at === shown.length - 1) onChange([...shown, {}])
                      }}
                    />
                    {wrong && <span className="block text-xs text-brick">{wrong}</span>}
                  </td>
                )
              })}
              <td>
                <button
                  className="p-1 text-soft hover:text-ink disabled:invisible"
                  aria-label={`Remove ${label} ${at + 1}`}
                  disabled={shown.length === 1}
                  onClick={() => onChange(shown.filter((_, i) => i !== at))}
                >
                  <X size={14} />
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Button kind="quiet" onClick={() => onChange([...shown, {}])}>
        <Plus size={14} /> Add item
      </Button>
      {problem !== null && itemProblems.length === 0 && <p className="text-xs text-ochre">{problem}</p>}
    </div>
  )
}
