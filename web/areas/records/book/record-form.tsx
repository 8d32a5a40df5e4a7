import { type Ref, useEffect, useImperativeHandle, useRef, useState } from 'react'
import { call, ProblemError, problemText, useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { type Field, type FieldValue, isItems } from '#core/outline/field.ts'
import { belongsToCustomer, type RecordKind } from '#core/records/kinds.ts'
import { Button } from '#web/parts/button.tsx'
import { When } from '#web/parts/signs/when.tsx'
import { FieldInput } from './field-input.tsx'
import { RecordPicker } from './record-picker.tsx'
import { enteredFor, keepEntered } from './unsaved.ts'
import type { BookRecord } from './use-records.ts'
import { Lines } from './record-lines.tsx'

type Values = Readonly<Record<string, FieldValue>>

/** A record's fields. It saves itself when it is left; what could not be saved stands here again when one comes back. */
export function RecordForm({
  kind,
  fields,
  record,
  customer,
  may,
  onMade,
  ref,
}: {
  readonly ref: Ref<{ save(): Promise<boolean> }>
  readonly kind: RecordKind
  readonly fields: readonly Field[]
  readonly record: BookRecord | null
  readonly customer: string | null
  readonly may: boolean
  readonly onMade: (id: string) => void
}) {
  const say = useNotice()
  const [values, setValues] = useState<Values>(() => enteredFor(record?.id)?.values ?? record?.data ?? {})
  const [owner, setOwner] = useState(() => {
    const back = enteredFor(record?.id)
    return back ? back.customer : customer
  })
  const save = useCall('saveRecord')
  const make = useCall('makeRecord', ({ id }) => onMade(id))
  const pending = save.isPending || make.isPending
  const error = save.error ?? make.error
  const faults = error instanceof ProblemError ? (error.problem.faults ?? []) : []
  const faultAt = (pointer: string) => faults.find((fault) => fault.pointer === pointer)?.detail
  const changed =
    JSON.stringify(values) !== JSON.stringify(record?.data ?? {}) ||
    owner !== (record?.customer?.id ?? customer)
  const set = (name: string, value: FieldValue) => setValues((before) => ({ ...before, [name]: value }))
  const body = { data: values, customer: owner, ...(record ? { version: record.version } : {}) }
  const taken = (saved: BookRecord): true => {
    setValues(saved.data)
    setOwner(saved.customer?.id ?? null)
    return true
  }
  const send = async (): Promise<boolean> => {
    if (!record || !changed) return true
    return save.mutateAsync({ params: { kind, id: record.id }, body }).then(taken, () => false)
  }
  useImperativeHandle(ref, () => ({ save: send }))
  // Where nothing is entered, what somebody else saved is shown.
  const shown = useRef(record)
  useEffect(() => {
    if (record === shown.current) return
    const before = shown.current
    shown.current = record
    const untouched = JSON.stringify(values) === JSON.stringify(before?.data ?? {})
    if (record && untouched) {
      setValues(record.data)
      setOwner(record.customer?.id ?? null)
    }
  }, [record, values])
  const leaving = useRef<(() => void) | null>(null)
  useEffect(() => {
    if (!record) return
    const entered = changed
      ? {
          values,
          customer: owner,
          save: () => call('saveRecord', { params: { kind, id: record.id }, body }).then(taken),
        }
      : null
    keepEntered(record.id, entered)
    leaving.current =
      may && entered
        ? () =>
            void entered.save().then(
              () => {
                keepEntered(record.id, null)
                say(`${record.name} is saved.`)
              },
              (error: unknown) =>
                say(
                  `${record.name} could not be saved: ${problemText(error)} What you entered is kept there.`,
                  'fault',
                ),
            )
        : null
  })
  useEffect(() => () => leaving.current?.(), [])
  return (
    <form
      className="mt-2"
      onSubmit={(event) => {
        event.preventDefault()
        if (record) void send()
        else make.mutate({ params: { kind }, body })
      }}
    >
      <div className="grid grid-cols-2 gap-x-4 gap-y-2">
        {belongsToCustomer(kind) && (
          <Owner value={owner} known={record?.customer ?? null} disabled={!may} onChange={setOwner} />
        )}
        {fields
          .filter(({ type }) => type !== 'list')
          .map((field) => {
            const fault = faultAt(`/data/${field.name}`)
            return (
              <label key={field.name} className={`block ${field.type === 'long text' ? 'col-span-2' : ''}`}>
                <span className="text-xs text-soft">
                  {field.label}
                  {field.required && ' *'}
                </span>
                <FieldInput
                  field={field}
                  label={field.label}
                  value={String(values[field.name] ?? '')}
                  disabled={!may}
                  invalid={fault !== undefined}
                  onChange={(value) => set(field.name, value)}
                />
                {fault && <span className="block text-xs text-brick">{fault}</span>}
              </label>
            )
          })}
      </div>
      {fields
        .filter(({ type }) => type === 'list')
        .map((list) => {
          const value = values[list.name]
          return (
            <Lines
              key={list.name}
              list={list}
              items={isItems(value) ? value : []}
              may={may}
              faultAt={faultAt}
              onChange={(items) => set(list.name, items)}
            />
          )
        })}
      {may && (
        <div className="mt-3 flex items-center gap-3">
          <Button kind="main" type="submit" busy={pending} disabled={!changed}>
            {record ? 'Save' : `Make the ${kind}`}
          </Button>
          {record && (
            <span className="text-xs text-soft">
              {record.changedBy}, <When at={record.changedAt} />
            </span>
          )}
        </div>
      )}
    </form>
  )
}

function Owner({
  value,
  known,
  disabled,
  onChange,
}: {
  readonly value: string | null
  /** The customer it has now, whose name need not be asked for. */
  readonly known: BookRecord['customer']
  readonly disabled: boolean
  readonly onChange: (id: string | null) => void
}) {
  const fetched = useAnswer(
    'record',
    { params: { kind: 'customer', id: value ?? '' } },
    { enabled: value !== null && known?.id !== value },
  )
  const chosen =
    value === null ? null : known?.id === value ? known : { id: value, name: fetched.data?.name ?? '' }
  return (
    <div className="col-span-2">
      <span className="text-xs text-soft">Customer</span>
      <RecordPicker
        kind="customer"
        label="Customer"
        value={chosen}
        disabled={disabled}
        onChange={(record) => onChange(record?.id ?? null)}
      />
    </div>
  )
}
