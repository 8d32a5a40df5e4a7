import { X } from 'lucide-react'
import { useRef } from 'react'
import { Link, useNavigate } from 'react-router'
import type { AgreementSummary } from '#contract/agreement.ts'
import { isMadeOf } from '#contract/one-agreement.ts'
import { useAnswer } from '#web/api/client.ts'
import { useMay } from '#web/frame/person.ts'
import type { Field } from '#core/outline/field.ts'
import { describeState } from '#core/agreement/states.ts'
import { PLURALS, type RecordKind } from '#core/records/kinds.ts'
import { Button } from '#web/parts/button.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { Thread } from '#web/parts/signs/thread.tsx'
import { Responsible } from './responsible.tsx'
import type { BookRecord } from './use-records.ts'
import { AnswersAbout, FilesOf } from './from-outside.tsx'
import { BegunOneOffs } from '#web/areas/agreements/one-off/begun.tsx'
import { StartOneOff } from '#web/areas/agreements/one-off/start-one-off.tsx'
import { RecordForm } from './record-form.tsx'

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
                .then((saved) => saved && navigate(`/agreements/new?for=${kind}/${id}&best=yes`))
            }
          >
            New agreement
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
