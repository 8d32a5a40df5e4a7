import { Plus, X } from 'lucide-react'
import { useAnswer } from '#web/api/client.ts'
import type { Field, ItemData } from '#core/outline/field.ts'
import { Button } from '#web/parts/button.tsx'
import { FieldInput } from './field-input.tsx'

/** Line items: a row each, prices filled from the price list as the item is named. */
export function Lines({
  list,
  items,
  may,
  faultAt,
  onChange,
}: {
  readonly list: Field
  readonly items: readonly ItemData[]
  readonly may: boolean
  readonly faultAt: (pointer: string) => string | undefined
  readonly onChange: (items: readonly ItemData[]) => void
}) {
  const prices = useAnswer('records', { params: { kind: 'price' }, query: { limit: '1000' } })
  const columns = list.items ?? []
  const put = (at: number, name: string, value: string) => {
    const price = name === 'item' ? prices.data?.records.find((each) => each.name === value)?.data : undefined
    const known = Object.fromEntries(
      ['unit', 'price', 'tax'].flatMap((part) => {
        const found = price?.[part]
        return typeof found === 'string' ? [[part, found]] : []
      }),
    )
    onChange(items.map((item, i) => (i === at ? { ...item, [name]: value, ...known } : item)))
  }
  return (
    <div className="mt-3">
      <p className="text-xs text-soft">{list.label}</p>
      <table className="w-full text-sm">
        <thead className="text-left text-xs text-soft">
          <tr>
            {columns.map((field) => (
              <th key={field.name} className="font-normal">
                {field.label}
              </th>
            ))}
            <th aria-label="Drop" />
          </tr>
        </thead>
        <tbody>
          {items.map((item, i) => (
            <tr key={i}>
              {columns.map((field) => (
                <td key={field.name} className={`pr-1 ${field.name === 'item' ? 'w-[34%]' : ''}`}>
                  <FieldInput
                    field={
                      field.name === 'item' && prices.data?.records.length
                        ? {
                            ...field,
                            choices: [
                              ...new Set([
                                ...(typeof item['item'] === 'string' ? [item['item']] : []),
                                ...prices.data.records.map(({ name }) => name),
                              ]),
                            ],
                          }
                        : field
                    }
                    label={`${field.label}, line ${i + 1}`}
                    value={String(item[field.name] ?? '')}
                    disabled={!may}
                    invalid={faultAt(`/data/${list.name}/${i}/${field.name}`) !== undefined}
                    onChange={(value) => put(i, field.name, value)}
                  />
                </td>
              ))}
              <td>
                {may && (
                  <button
                    type="button"
                    className="p-1 text-soft hover:text-ink"
                    aria-label={`Drop line ${i + 1}`}
                    onClick={() => onChange(items.toSpliced(i, 1))}
                  >
                    <X size={13} />
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {may && (
        <Button kind="quiet" onClick={() => onChange([...items, {}])}>
          <Plus size={13} /> Line
        </Button>
      )}
    </div>
  )
}
