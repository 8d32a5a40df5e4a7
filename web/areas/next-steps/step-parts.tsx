import type { BillFields, Step, StepOf } from '#core/next-steps/steps.ts'
import { useAnswer } from '#web/api/client.ts'
import { Input, Labelled, Select } from '#web/parts/input.tsx'
import type { Aftermath } from './list.ts'

/** A step of a list while it is written. */
export interface Props<S extends Step = Step> {
  readonly step: S
  readonly list: Aftermath
  readonly onChange: (step: Step) => void
}

const PATTERN_HINT = 'Values of the agreement stand in double braces, such as {{number}}.'

/** Which field of the record is changed, and to what. */
export function RecordChange({ step, list, onChange }: Props<StepOf<'change the record'>>) {
  const { customer, deal, contact } = list.choices.recordFields
  const fields = step.of === 'customer' ? customer : [...deal, ...contact, ...customer]
  const options = [...new Map(fields.map(({ name, label }) => [name, { id: name, name: label }])).values()]
  return (
    <>
      <Labelled label="Of">
        <Select
          value={step.of}
          onChange={(event) =>
            onChange({ ...step, of: event.target.value === 'customer' ? 'customer' : 'record' })
          }
        >
          <option value="record">the record that the agreement is about, such as its deal</option>
          <option value="customer">its customer</option>
        </Select>
      </Labelled>
      <Choice
        label="Field"
        value={step.field}
        options={options}
        onChange={(field) => onChange({ ...step, field })}
      />
      <Labelled
        label="Becomes"
        hint={'An expression over the agreement’s values; a text stands in quotes: "agreed".'}
      >
        <Input
          className="font-mono"
          maxLength={4000}
          value={step.value}
          onChange={(event) => onChange({ ...step, value: event.target.value })}
        />
      </Labelled>
    </>
  )
}

/** Which template the next agreement is of, and its invoice if it is one. */
export function NextDocument({ step, list, onChange }: Props<StepOf<'next document'>>) {
  const next = useAnswer('aftermath', { params: { kind: 'template', id: step.template } })
  const fields = (next.data?.outline ?? []).filter(({ type }) => type !== 'list')
  const texts = fields.map(({ name, label }) => ({ id: name, name: `${label} (${name})` }))
  const guess = (word: string) => fields.find(({ name }) => name.includes(word))?.name ?? ''
  const bill = (change: Partial<BillFields>) => onChange({ ...step, bill: { ...step.bill!, ...change } })
  return (
    <>
      <Choice
        label="Template"
        value={step.template}
        options={list.choices.templates}
        onChange={(template) => onChange({ ...step, template })}
      />
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={step.send}
          onChange={(event) => onChange({ ...step, send: event.target.checked })}
        />
        is sent at once if it needs no approval
      </label>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={step.bill !== null}
          onChange={(event) =>
            onChange({
              ...step,
              bill: event.target.checked
                ? {
                    name: guess('name'),
                    address: guess('address'),
                    due: guess('due') || null,
                    sellerCountry: 'US',
                    buyerCountry: 'US',
                  }
                : null,
            })
          }
        />
        it is a bill: as data for bookkeeping beside it (UBL 2.1)
      </label>
      {step.bill && (
        <div className="grid grid-cols-2 gap-3 border-l-2 border-hair pl-3">
          <Choice
            label="The buyer’s name"
            value={step.bill.name}
            options={texts}
            onChange={(name) => bill({ name })}
          />
          <Choice
            label="and address"
            value={step.bill.address}
            options={texts}
            onChange={(address) => bill({ address })}
          />
          <Choice
            label="To be paid until"
            value={step.bill.due ?? ''}
            options={[{ id: '', name: 'no day' }, ...texts]}
            onChange={(due) => bill({ due: due || null })}
          />
          <span className="grid grid-cols-2 gap-3">
            <Country
              label="Our country"
              value={step.bill.sellerCountry}
              onChange={(sellerCountry) => bill({ sellerCountry })}
            />
            <Country
              label="Theirs"
              value={step.bill.buyerCountry}
              onChange={(buyerCountry) => bill({ buyerCountry })}
            />
          </span>
        </div>
      )}
    </>
  )
}

const Country = ({
  label,
  value,
  onChange,
}: {
  readonly label: string
  readonly value: string
  readonly onChange: (value: string) => void
}) => (
  <Labelled label={label}>
    <Input
      maxLength={2}
      value={value}
      aria-invalid={!/^[A-Z]{2}$/.test(value)}
      onChange={(event) => onChange(event.target.value.toUpperCase())}
    />
  </Labelled>
)

/** A text with merge fields in double braces. */
export const Pattern = ({
  label,
  value,
  onChange,
}: {
  readonly label: string
  readonly value: string
  readonly onChange: (value: string) => void
}) => (
  <Labelled label={label} hint={PATTERN_HINT}>
    <Input maxLength={500} value={value} onChange={(event) => onChange(event.target.value)} />
  </Labelled>
)

/** One of a list. */
export function Choice({
  label,
  value,
  options,
  none,
  onChange,
}: {
  readonly label: string
  readonly value: string
  readonly options: readonly { readonly id: string; readonly name: string }[]
  readonly none?: string
  readonly onChange: (value: string) => void
}) {
  const known = options.some(({ id }) => id === value)
  return (
    <Labelled label={label} hint={options.length === 0 ? none : undefined}>
      <Select value={known ? value : '?'} onChange={(event) => onChange(event.target.value)}>
        {!known && <option value="?">choose</option>}
        {options.map((each) => (
          <option key={each.id} value={each.id}>
            {each.name}
          </option>
        ))}
      </Select>
    </Labelled>
  )
}
