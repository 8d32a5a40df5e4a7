import { Plus, X } from 'lucide-react'
import { type Ref, useEffect, useImperativeHandle, useRef, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import type { AgreementSummary } from '#contract/agreement.ts'
import { isMadeOf } from '#contract/one-agreement.ts'
import { call, ProblemError, problemText, useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { type Field, type FieldValue, isItems, type ItemData } from '#core/outline/field.ts'
import { describeState } from '#core/agreement/states.ts'
import { belongsToCustomer, PLURALS, type RecordKind } from '#core/records/kinds.ts'
import { Button } from '#web/parts/button.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { Thread } from '#web/parts/signs/thread.tsx'
import { When } from '#web/parts/signs/when.tsx'
import { FieldInput } from './field-input.tsx'
import { RecordPicker } from './record-picker.tsx'
import { Responsible } from './responsible.tsx'
import { enteredFor, keepEntered } from './unsaved.ts'
import type { BookRecord } from './use-records.ts'
import { AnswersAbout, FilesOf } from './from-outside.tsx'
import { BegunOneOffs } from '#web/areas/agreements/one-off/begun.tsx'
import { StartOneOff } from '#web/areas/agreements/one-off/start-one-off.tsx'

interface Props {
  readonly kind: RecordKind
  /** Null: a new one. */
  readonly id: string | null
  readonly fields: readonly Field[]
  /** Of a new contact or deal: whose it is. */
  readonly customer: string | null
  readonly onClose: () => void
  readonly onMade: (id: string) => void
}

/** A record beside the list: its values, what belongs to it, and its agreements with their threads. */
export function RecordDetail({ kind, id, fields, customer, onClose, onMade }: Props) {
  const detail = useAnswer('record', { params: { kind, id: id ?? '' } }, { enabled: id !== null })
  const may = useMay('runs')
  const navigate = useNavigate()
  const form = useRef<{ save(): Promise<boolean> }>(null)
  if (id !== null && detail.isPending) return <Loading />
  if (detail.isError) return <Failed error={detail.error} retry={() => void detail.refetch()} />
  const record = detail.data
  const makes = record !== undefined && may && isMadeOf(kind)
  return (
    <section
      aria-label={record?.name ?? `New ${kind}`}
      className="min-h-0 overflow-auto border-l border-hair px-5 py-3"
    >
      <div className="flex items-center gap-3">
        <h2 className="truncate text-xl">{record?.name ?? `New ${kind}`}</h2>
        {makes && (
          <span className="ml-auto">
            <StartOneOff record={id}>From a file</StartOneOff>
          </span>
        )}
        {makes && (
          <Button
            kind="main"
            onClick={() =>
              // What stands in the form is what the agreement is to say.
              void form.current
                ?.save()
                .then((saved) => saved && navigate(`/records/${PLURALS[kind]}/${id}/agreement`))
            }
          >
            Make an agreement
          </Button>
        )}
        <button
          className={`p-1 text-soft hover:text-ink ${makes ? '' : 'ml-auto'}`}
          aria-label="Close"
          onClick={onClose}
        >
          <X size={16} />
        </button>
      </div>
      <RecordForm
        key={record?.id ?? 'new'}
        ref={form}
        kind={kind}
        fields={fields}
        record={record ?? null}
        customer={record?.customer?.id ?? customer}
        may={may}
        onMade={onMade}
      />
      {record && (
        <>
          {(kind === 'customer' || kind === 'deal') && (
            <Responsible kind={kind} id={record.id} responsible={record.responsible} may={may} />
          )}
          {kind === 'customer' && (
            <>
              <Related kind="contact" of={record.id} records={record.contacts} may={may} />
              <Related kind="deal" of={record.id} records={record.deals} may={may} />
            </>
          )}
          <h3 className="mt-5 font-serif text-base font-semibold">Agreements</h3>
          {makes && <BegunOneOffs record={record.id} />}
          {record.agreements.length === 0 && record.named.length === 0 && (
            <p className="text-sm text-soft">None yet.</p>
          )}
          <AgreementList label="Agreements of this record" agreements={record.agreements} />
          {record.named.length > 0 && (
            <>
              <p className="mt-2 text-sm text-soft">Made from a sheet, with this customer’s name:</p>
              <AgreementList label="Agreements with this name" agreements={record.named} />
            </>
          )}
          {may && <AnswersAbout kind={kind} id={record.id} />}
          <FilesOf kind={kind} record={record} />
        </>
      )}
    </section>
  )
}

function AgreementList({
  label,
  agreements,
}: {
  readonly label: string
  readonly agreements: readonly AgreementSummary[]
}) {
  if (agreements.length === 0) return null
  return (
    <ul className="text-sm" aria-label={label}>
      {agreements.map((agreement) => (
        <li key={agreement.id} className="border-b border-hair/60">
          <Link
            to={`/agreements/${agreement.id}`}
            className="grid grid-cols-[7rem_1fr_auto_6rem] items-center gap-3 py-1.5 hover:bg-wash"
          >
            <span className="tabular-nums">{agreement.number}</span>
            <span className="truncate">{agreement.name}</span>
            <Thread columns={agreement.thread} />
            <span>{describeState(agreement.state, agreement.undelivered)}</span>
          </Link>
        </li>
      ))}
    </ul>
  )
}

function Related({
  kind,
  of: customer,
  records,
  may,
}: {
  readonly kind: 'contact' | 'deal'
  readonly of: string
  readonly records: readonly BookRecord[]
  readonly may: boolean
}) {
  return (
    <>
      <h3 className="mt-5 flex items-baseline gap-3 font-serif text-base font-semibold">
        {kind === 'contact' ? 'Contacts' : 'Deals'}
        {may && (
          <Link
            className="py-1 font-sans text-xs font-normal text-petrol hover:underline"
            to={`/records/${PLURALS[kind]}/new?of=${customer}`}
          >
            new {kind}
          </Link>
        )}
      </h3>
      <ul className="text-sm">
        {records.map((each) => (
          <li key={each.id} className="border-b border-hair/60 py-1">
            <Link className="hover:underline" to={`/records/${PLURALS[kind]}/${each.id}`}>
              {each.name}
            </Link>{' '}
            <span className="text-soft">
              {kind === 'contact'
                ? [each.data['title'], each.data['email']].filter(Boolean).join(', ')
                : String(each.data['status'] ?? '')}
            </span>
          </li>
        ))}
        {records.length === 0 && <li className="text-soft">None yet.</li>}
      </ul>
    </>
  )
}

type Values = Readonly<Record<string, FieldValue>>

/** A record's fields. It saves itself when it is left; what could not be saved stands here again when one comes back. */
function RecordForm({
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

/** Line items: a row each, prices filled from the price list as the item is named. */
function Lines({
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
