import type { FieldType } from '#core/outline/field-kinds.ts'
import { Plus } from 'lucide-react'
import { type ComponentType, useMemo, useState } from 'react'
import { usedNames } from '#core/checks/checks.ts'
import { ROUNDINGS } from '#core/money/currency.ts'
import type { Field, LineItems } from '#core/outline/field.ts'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { Button } from '#web/parts/button.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { useFieldChange } from './use-field-change.ts'

/** The fields of a list's items, and whether they are priced. */
export function ListItems({
  list,
  form: FieldForm,
}: {
  readonly list: Field
  /** The form of one field: an item has the same as any. */
  readonly form: ComponentType<{
    readonly field: Field
    readonly full: string
    readonly list: Field
    readonly uses: number
    readonly onRenamed: (name: string) => void
    readonly onRemoved: () => void
  }>
}) {
  const { content } = useStudio()
  const put = useFieldChange(list.name, null)
  const [open, setOpen] = useState<string | null>(null)
  const used = useMemo(() => usedNames(content), [content])
  const items = list.items ?? []
  const byType = (...types: FieldType[]) =>
    items.filter(({ type }) => types.includes(type)).map(({ name }) => name)
  const rule = list.lineItems
  const setRule = (more: Partial<LineItems>) =>
    put((before) => ({ ...before, lineItems: { ...before.lineItems!, ...more } }))
  const choice = (label: string, value: string | null, names: readonly string[], key: keyof LineItems) => (
    <label className="text-xs text-soft">
      {label}
      <select
        className="ml-1 rounded-sm border border-hair bg-sheet px-1 py-0.5 text-ink"
        value={value ?? ''}
        onChange={(event) => setRule({ [key]: event.target.value || null })}
      >
        <option value="">none</option>
        {names.map((name) => (
          <option key={name}>{name}</option>
        ))}
      </select>
    </label>
  )
  return (
    <div className="col-span-2">
      <p className="text-sm font-semibold">Fields of each item</p>
      <ul>
        {items.map((item, i) => {
          const full = `${list.name}.${item.name}`
          return (
            <li key={i} className="border-b border-hair/60">
              <button
                className="flex w-full gap-3 py-1 text-left hover:bg-wash"
                aria-expanded={open === full}
                onClick={() => setOpen(open === full ? null : full)}
              >
                <span className="w-40 font-semibold">{item.label}</span>
                <span className="text-soft">{item.type}</span>
                <span className="ml-auto text-xs text-soft">{plural(used.get(full) ?? 0, 'place')}</span>
              </button>
              {open === full && (
                <FieldForm
                  field={item}
                  full={full}
                  list={list}
                  uses={used.get(full) ?? 0}
                  onRenamed={setOpen}
                  onRemoved={() => setOpen(null)}
                />
              )}
            </li>
          )
        })}
      </ul>
      <Button
        kind="quiet"
        onClick={() =>
          put((before) => {
            const taken = new Set((before.items ?? []).map(({ name }) => name))
            const name = ['field', ...Array.from({ length: 60 }, (_, i) => `field_${i + 2}`)].find(
              (each) => !taken.has(each),
            )!
            return {
              ...before,
              items: [...(before.items ?? []), { name, label: 'New field', type: 'text', required: true }],
            }
          })
        }
      >
        <Plus size={13} /> Field of the items
      </Button>
      <label className="mt-2 flex items-center gap-2 text-sm">
        <input
          type="checkbox"
          checked={rule !== undefined}
          disabled={!rule && byType('money').length === 0}
          onChange={(event) =>
            put((before) => {
              const { lineItems: _rule, ...rest } = before
              return event.target.checked
                ? {
                    ...rest,
                    lineItems: {
                      price: byType('money')[0]!,
                      quantity: byType('number')[0] ?? null,
                      discount: byType('percent').find((name) => /disc/i.test(name)) ?? null,
                      taxRate: byType('percent').find((name) => /tax|vat/i.test(name)) ?? null,
                      overallDiscount: null,
                      rounding: 'half up',
                    },
                  }
                : rest
            })
          }
        />
        priced items: amounts, taxes and totals come by themselves
        {!rule && byType('money').length === 0 && (
          <span className="text-xs text-soft">(needs a field of type money)</span>
        )}
      </label>
      {rule && (
        <div className="mt-1 flex flex-wrap gap-x-4 gap-y-1">
          {choice('price', rule.price, byType('money'), 'price')}
          {choice('quantity', rule.quantity, byType('number'), 'quantity')}
          {choice('discount per line', rule.discount, byType('percent'), 'discount')}
          {choice('tax rate', rule.taxRate, byType('percent'), 'taxRate')}
          {choice(
            'discount on the whole',
            rule.overallDiscount,
            content.outline
              .filter(({ type }) => type === 'percent' || type === 'money')
              .map(({ name }) => name),
            'overallDiscount',
          )}
          <label className="text-xs text-soft">
            rounding
            <select
              className="ml-1 rounded-sm border border-hair bg-sheet px-1 py-0.5 text-ink"
              value={rule.rounding}
              onChange={(event) => setRule({ rounding: event.target.value as LineItems['rounding'] })}
            >
              {ROUNDINGS.map((each) => (
                <option key={each}>{each}</option>
              ))}
            </select>
          </label>
        </div>
      )}
    </div>
  )
}
