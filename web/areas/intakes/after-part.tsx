import { Link } from 'react-router'
import type { Field } from '#core/outline/field.ts'
import { recordOf } from '#core/intake/made.ts'
import { type Afterwards, type AnsweredRecord, questionsOf, textKey } from '#core/intake/form.ts'
import { LANGUAGES, ownName } from '#core/languages/language.ts'
import { matchingFields } from '#core/records/kinds.ts'
import { useCall } from '#web/api/client.ts'
import { usePerson } from '#web/frame/person.ts'
import { Labelled, Select, TextArea } from '#web/parts/input.tsx'
import type { PartProps } from './part-props.ts'

const AFTER: readonly (readonly [Afterwards, string, string])[] = [
  ['wait', 'Wait on the desk', 'The agreements are made and wait on the desk until a colleague sends them.'],
  ['send', 'Send at once', 'Agreements that need no approval are sent to sign, by a link in an email.'],
  [
    'sign',
    'Sign right away',
    'In the same sitting. The signer’s identity rests only on what was entered in the form; the evidence states it.',
  ],
]

/** What happens after a response is submitted: agreements, a record, emails. */
export function AfterPart(part: PartProps) {
  return (
    <div className="min-h-0 overflow-auto px-4 pb-10">
      <fieldset
        disabled={!part.editable}
        className="grid max-w-5xl grid-cols-2 gap-x-10 gap-y-6 pt-4 max-md:grid-cols-1"
      >
        <Agreements {...part} />
        <Respondent {...part} />
        <RecordPart {...part} />
      </fieldset>
    </div>
  )
}

function Agreements({ intake, form, draft, editable }: PartProps) {
  const { makes, owner } = intake
  const me = usePerson()
  const take = useCall('takeIntake')
  return (
    <section aria-label="Agreements">
      <h2 className="border-b border-hair pb-1 font-serif text-base font-semibold">Agreements</h2>
      <ul className="text-sm">
        {makes.packet && <li className="py-1">one of the packet {makes.packet.name}:</li>}
        {makes.templates.map(({ id, name }) => (
          <li key={id} className="border-b border-hair/60 py-1">
            <Link to={`/templates/${id}`} className="text-petrol hover:underline">
              {name}
            </Link>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-xs text-soft">
        Made in the name of {owner.name}, who is told of each response, from the editions published then.{' '}
        {editable && me.id !== owner.id && (
          <button
            type="button"
            className="text-petrol underline"
            onClick={() => take.mutate({ params: { id: intake.id } })}
          >
            Take over
          </button>
        )}
      </p>
      <div
        role="radiogroup"
        aria-label="After the agreements are made"
        className="mt-3 flex flex-col gap-2 text-sm"
      >
        {AFTER.map(([value, label, note]) => (
          <label key={value} className="flex items-start gap-2">
            <input
              type="radio"
              name="afterwards"
              className="mt-1"
              checked={form.afterwards === value}
              onChange={() => draft.change((before) => ({ ...before, afterwards: value }))}
            />
            <span>
              {label}
              <span className="block text-xs text-soft">{note}</span>
            </span>
          </label>
        ))}
      </div>
    </section>
  )
}

function Respondent({ intake: { outline }, form, draft }: PartProps) {
  const emails = questionsOf(form).filter(
    ({ kind, id }) => kind === 'value' && outline.find(({ name }) => name === id)?.type === 'email',
  )
  return (
    <section aria-label="Respondent" className="flex flex-col gap-3">
      <h2 className="border-b border-hair pb-1 font-serif text-base font-semibold">Respondent</h2>
      <Labelled label="Email address" hint="Receives a copy of the response, and what is to be signed.">
        <Select
          value={form.email ?? ''}
          onChange={(event) => draft.change((before) => ({ ...before, email: event.target.value || null }))}
        >
          <option value="">no emails</option>
          {emails.map(({ id, label }) => (
            <option key={id} value={id}>
              {label}
            </option>
          ))}
        </Select>
      </Labelled>
      <Labelled label="Confirmation message">
        <TextArea
          rows={2}
          maxLength={4000}
          value={form.thanks}
          onChange={(event) =>
            draft.change((before) => ({ ...before, thanks: event.target.value }), textKey.thanks)
          }
        />
      </Labelled>
      <Labelled label="Original language">
        <Select
          value={form.language}
          onChange={(event) =>
            draft.change((before) => ({
              ...before,
              language: LANGUAGES.find((each) => each === event.target.value)!,
            }))
          }
        >
          {LANGUAGES.map((each) => (
            <option key={each} value={each}>
              {ownName(each)}
            </option>
          ))}
        </Select>
      </Labelled>
    </section>
  )
}

function RecordPart({ intake, form, draft }: PartProps) {
  const { record } = form
  const asked = questionsOf(form).filter(({ kind }) => kind === 'value')
  return (
    <section aria-label="Record" className="col-span-2">
      <h2 className="border-b border-hair pb-1 font-serif text-base font-semibold">Record</h2>
      <div className="mt-2 flex items-end gap-4">
        <Labelled label="Responses become">
          <Select
            value={record?.kind ?? ''}
            onChange={(event) => {
              const kind = (['customer', 'contact', 'deal'] as const).find(
                (each) => each === event.target.value,
              )
              const fields = kind ? intake.recordFields[kind] : []
              draft.change((before) => ({
                ...before,
                record: kind
                  ? { kind, key: 'name', fields: recordOf(intake.outline, fields)?.fields ?? {} }
                  : null,
              }))
            }}
          >
            <option value="">no record</option>
            <option value="customer">a customer</option>
            <option value="contact">a contact</option>
            <option value="deal">a deal</option>
          </Select>
        </Labelled>
        {record && (
          <Labelled label="Identify records by">
            <Select
              value={record.key}
              onChange={(event) =>
                draft.change((before) => ({ ...before, record: { ...record, key: event.target.value } }))
              }
            >
              {matchingFields(intake.recordFields[record.kind]).map(({ name, label }) => (
                <option key={name} value={name}>
                  {label}
                </option>
              ))}
            </Select>
          </Labelled>
        )}
        <p className="pb-1 text-xs text-soft">
          A response never changes a record by itself. What differs is shown to you first.
        </p>
      </div>
      {record && (
        <RecordFields
          record={record}
          fields={intake.recordFields[record.kind]}
          asked={asked}
          onChange={(fields) => draft.change((before) => ({ ...before, record: { ...record, fields } }))}
        />
      )}
    </section>
  )
}

function RecordFields({
  record,
  fields,
  asked,
  onChange,
}: {
  readonly record: AnsweredRecord
  readonly fields: readonly Field[]
  readonly asked: readonly { readonly id: string; readonly label: string }[]
  readonly onChange: (fields: Record<string, string>) => void
}) {
  return (
    <ul className="mt-3 grid grid-cols-2 gap-x-10 text-sm" aria-label="Fields of the record">
      {fields
        .filter(({ computed }) => computed === undefined)
        .map(({ name, label }) => (
          <li key={name} className="flex items-center gap-3 border-b border-hair/60 py-1">
            <span className="w-40 shrink-0 truncate">{label}</span>
            <Select
              aria-label={`${label} from`}
              value={record.fields[name] ?? ''}
              onChange={(event) => {
                const { [name]: _before, ...others } = record.fields
                onChange(event.target.value ? { ...others, [name]: event.target.value } : others)
              }}
            >
              <option value="">nothing</option>
              {asked.map((question) => (
                <option key={question.id} value={question.id}>
                  {question.label}
                </option>
              ))}
            </Select>
          </li>
        ))}
    </ul>
  )
}
