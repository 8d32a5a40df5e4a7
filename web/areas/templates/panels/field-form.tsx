import { Plus, Trash2 } from 'lucide-react'
import { useMemo, useState } from 'react'
import { usedNames } from '#core/checks/checks.ts'
import { renameField } from '#core/merge/rename.ts'
import { expressionFaults } from '#core/merge/faults.ts'
import { ROUNDINGS } from '#core/money/currency.ts'
import { nameFromColumn } from '#core/mapping/from-columns.ts'
import type { NameTypes } from '#core/expression/check.ts'
import {
  type Field,
  FIELD_TYPES,
  fieldNameProblem,
  type FieldType,
  type LineItems,
  nameTypes,
} from '#core/outline/field.ts'
import { defaultFormat, DISPLAY_FORMATS } from '#core/text/format.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Input, Labelled, Select, TextArea } from '#web/parts/input.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { ExpressionEditor } from '#web/parts/expressions/expression-editor.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'

/** Changes a field of the outline, or (with `list`) a field of a list's items. */
function useFieldChange(full: string, list: Field | null) {
  const { change } = useStudio()
  const name = list ? full.slice(list.name.length + 1) : full
  return (next: (field: Field) => Field | null, kind = '') =>
    change((before) => {
      const within = (fields: readonly Field[]) =>
        fields.flatMap((field) => {
          if (field.name !== name) return [field]
          const made = next(field)
          return made ? [made] : []
        })
      return {
        ...before,
        outline: list
          ? before.outline.map((field) =>
              field.name === list.name ? { ...field, items: within(field.items ?? []) } : field,
            )
          : within(before.outline),
      }
    }, kind)
}

/** What a field is: its name, type, format, default, choices, formula, items. */
export function FieldForm({
  field,
  full,
  uses,
  list = null,
  onRenamed,
  onRemoved,
}: {
  readonly field: Field
  readonly full: string
  readonly uses: number
  readonly list?: Field | null
  readonly onRenamed: (name: string) => void
  readonly onRemoved: () => void
}) {
  const { content, editable, change, proof, namesIn } = useStudio()
  const say = useNotice()
  const put = useFieldChange(full, list)
  const [name, setName] = useState(field.name)
  const set = (more: Partial<Field>) => put((before) => ({ ...before, ...more }), `field ${full}`)
  const siblings = list ? (list.items ?? []) : content.outline
  const taken = name !== field.name && siblings.some((each) => each.name === name)
  const nameFault = fieldNameProblem(name) ?? (taken ? `There is a field “${name}” already.` : null)
  const names = useMemo(
    () => (list ? new Map([...namesIn(list.name), ...nameTypes(list.items ?? [])]) : namesIn(null)),
    [namesIn, list],
  )
  const fault = useMemo(
    () => (field.computed ? (expressionFaults(field.computed, names, 'any')[0] ?? null) : null),
    [field.computed, names],
  )
  const computed = field.computed !== undefined
  const examples = useMemo(
    () => (!computed ? [] : formulaExamples(field.type, names)),
    [computed, field.type, names],
  )
  const renameTo = (wanted: string) => {
    const to = list ? `${list.name}.${wanted}` : wanted
    const renamed = renameField(content, full, to)
    change(() => renamed.content)
    onRenamed(to)
    return renamed.places
  }
  const rename = () => {
    if (nameFault || name === field.name) return
    const places = renameTo(name)
    say(`“${field.name}” is “${name}” now, in ${plural(places, 'place')}.`)
  }
  // A name that was made from what the field was called goes on following it; one that was chosen stays.
  const [labelled, setLabelled] = useState(field.label)
  const follow = () => {
    setLabelled(field.label)
    const group = field.name.slice(0, field.name.lastIndexOf('.') + 1)
    const wanted = group + nameFromColumn(field.label)
    const follows = field.name === group + nameFromColumn(labelled)
    if (!follows || !field.label.trim() || wanted === field.name) return
    if (fieldNameProblem(wanted) || siblings.some((each) => each.name === wanted)) return
    renameTo(wanted)
    setName(wanted)
  }
  return (
    <fieldset
      disabled={!editable}
      className="mb-3 grid grid-cols-2 gap-x-4 gap-y-2 border-l-2 border-hair py-1 pl-4"
    >
      <Labelled label="Called">
        <Input
          autoFocus
          value={field.label}
          onFocus={(event) => event.target.select()}
          onChange={(event) => set({ label: event.target.value })}
          onBlur={follow}
        />
      </Labelled>
      <Labelled
        label="Name in the text"
        hint={
          name === field.name
            ? `stands in ${plural(uses, 'place')}`
            : (nameFault ?? `Enter renames it in ${plural(uses, 'place')}`)
        }
      >
        <Input
          className="font-mono"
          value={name}
          aria-invalid={nameFault !== null}
          onChange={(event) => setName(event.target.value)}
          onBlur={rename}
          onKeyDown={(event) => event.key === 'Enter' && (event.preventDefault(), rename())}
        />
      </Labelled>
      <Labelled label="Type">
        <Select
          value={field.type}
          onChange={(event) => {
            const type = event.target.value as FieldType
            const { format: _format, ...rest } = field
            put(() => ({
              ...rest,
              type,
              ...(type === 'money' && !field.currency ? { currency: 'USD' } : {}),
              ...(type === 'choice' && !field.choices ? { choices: ['yes', 'no'] } : {}),
              ...(type === 'list' && !field.items
                ? { items: [{ name: 'description', label: 'Description', type: 'text', required: true }] }
                : {}),
            }))
          }}
        >
          {FIELD_TYPES.filter((type) => !list || type !== 'list').map((type) => (
            <option key={type}>{type}</option>
          ))}
        </Select>
      </Labelled>
      {field.type !== 'list' && (
        <Labelled label="Usually shown as">
          <Select value={defaultFormat(field)} onChange={(event) => set({ format: event.target.value })}>
            {DISPLAY_FORMATS[field.type].map((format) => (
              <option key={format}>{format}</option>
            ))}
          </Select>
        </Labelled>
      )}
      {field.type === 'money' && (
        <Labelled label="Currency" hint="ISO 4217">
          <Input
            maxLength={3}
            value={field.currency ?? ''}
            onChange={(event) =>
              /^[A-Za-z]{3}$/.test(event.target.value) && set({ currency: event.target.value.toUpperCase() })
            }
          />
        </Labelled>
      )}
      {field.type === 'choice' && (
        <Labelled label="Choices, one on each line">
          <TextArea
            rows={3}
            value={(field.choices ?? []).join('\n')}
            onChange={(event) => set({ choices: event.target.value.split('\n') })}
            onBlur={() => set({ choices: (field.choices ?? []).map((each) => each.trim()).filter(Boolean) })}
          />
        </Labelled>
      )}
      {field.type !== 'list' && field.computed === undefined && (
        <>
          <Labelled label="Default" hint="taken where a row gives nothing">
            <Input
              value={field.default ?? ''}
              onChange={(event) => set({ default: event.target.value || undefined })}
            />
          </Labelled>
          <Labelled label="Example">
            <Input
              value={field.example ?? ''}
              onChange={(event) => set({ example: event.target.value || undefined })}
            />
          </Labelled>
        </>
      )}
      <Labelled label="Help for whoever fills it">
        <Input
          value={field.help ?? ''}
          onChange={(event) => set({ help: event.target.value || undefined })}
        />
      </Labelled>
      {field.computed === undefined && (
        <label className="flex items-center gap-2 self-end pb-1 text-sm">
          <input
            type="checkbox"
            checked={field.required}
            onChange={(event) => set({ required: event.target.checked })}
          />{' '}
          has to be given
        </label>
      )}
      {field.type !== 'list' && (
        <div className="col-span-2">
          <label className="mb-1 flex items-center gap-2 text-sm">
            <input
              type="checkbox"
              checked={field.computed !== undefined}
              onChange={(event) =>
                put((before) => {
                  const { computed: _computed, ...rest } = before
                  return event.target.checked
                    ? { ...rest, required: false, computed: '' }
                    : { ...rest, required: true }
                })
              }
            />
            computed
          </label>
          {field.computed !== undefined && (
            <>
              <ExpressionEditor
                value={field.computed}
                names={names}
                problem={fault}
                label="Formula"
                placeholder={examples[0] ?? ''}
                onChange={(computed) => set({ computed })}
              />
              <Examples examples={examples} onPick={(computed) => set({ computed })} />
              {!fault && proof && !list && (
                <p className="mt-1 text-xs">
                  {proof.rowLabel}:{' '}
                  <span className="font-semibold">{proof.values[field.name] ?? 'no value'}</span>
                </p>
              )}
            </>
          )}
        </div>
      )}
      {field.type === 'list' && <ListItems list={field} />}
      <div className="col-span-2 flex justify-end">
        <Button
          kind="danger"
          onClick={() => {
            put(() => null)
            onRemoved()
            say(
              uses > 0
                ? `“${field.label}” is left out; it is still named in ${plural(uses, 'place')}. Undo brings it back.`
                : `“${field.label}” is left out.`,
            )
          }}
        >
          <Trash2 size={13} /> Leave out
        </Button>
      </div>
    </fieldset>
  )
}

/** Formulas that give a type, from the fields there are. */
function formulaExamples(type: FieldType, names: NameTypes): readonly string[] {
  const first = (wanted: string) => [...names].find(([, is]) => is === wanted)?.[0]
  const [number, day, text, flag] = [first('number'), first('date'), first('string'), first('boolean')]
  const shown: Partial<Record<FieldType, readonly (string | undefined | false)[]>> = {
    number: [
      number && `round half up(${number} * 1.5, 2)`,
      number && `if ${number} > 100 then ${number} else 0`,
    ],
    money: [
      number && `round half up(${number} * 1.03, 2)`,
      number && `if ${number} > 80000 then ${number} * 3 / 100 else 0`,
    ],
    percent: [number && `if ${number} > 400 then 5 else 0`],
    date: [
      day && `${day} + duration("P14D")`,
      day && `add business days(${day}, 5)`,
      day && `last day of month(${day})`,
    ],
    text: [
      text && `upper case(${text})`,
      text && `${text} + ", for the season"`,
      number && `in words(${number})`,
    ],
    'yes/no': [number && `${number} > 400`, flag && `not(${flag})`],
  }
  return (shown[type] ?? []).flatMap((example) =>
    example && expressionFaults(example, names, 'any').length === 0 ? [example] : [],
  )
}

/** What a formula may look like; a click takes one to begin with. */
function Examples({
  examples,
  onPick,
}: {
  readonly examples: readonly string[]
  readonly onPick: (formula: string) => void
}) {
  if (examples.length === 0) return null
  return (
    <p className="mt-1 flex flex-wrap gap-x-3 text-xs text-soft">
      such as
      {examples.map((example) => (
        <button
          key={example}
          type="button"
          className="font-mono hover:underline"
          onClick={() => onPick(example)}
        >
          {example}
        </button>
      ))}
    </p>
  )
}

function ListItems({ list }: { readonly list: Field }) {
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
