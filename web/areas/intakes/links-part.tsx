import { Link2, Mail } from 'lucide-react'
import { useState } from 'react'
import * as v from 'valibot'
import { type Language, LANGUAGES, ownName } from '#core/languages/language.ts'
import { call, useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { DialogButton } from '#web/parts/dialog-button.tsx'
import { email, filled, localMoment, momentOrNone, whole, wholeOrNone } from '#web/parts/form/entries.ts'
import { Field, LinesField, SelectField, TextField } from '#web/parts/form/fields.tsx'
import { Form } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import { Input } from '#web/parts/input.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import type { Intake } from './part-props.ts'

type OpenLink = Intake['links'][number]

/** How people outside reach a form: public addresses, and links that one person gets. */
export function LinksPart({ intake }: { readonly intake: Intake }) {
  const may = useMay('runs')
  return (
    <div className="min-h-0 overflow-auto px-4 pt-4 pb-10">
      <div className="flex max-w-5xl items-start gap-4">
        <p className="max-w-xl text-sm text-soft">
          Anyone who has a public link can respond. An invitation goes to one person, with what is known of
          them filled in.
        </p>
        {may && (
          <span className="ml-auto flex gap-2">
            <DialogButton
              title="Invite one person"
              label={
                <>
                  <Mail size={14} /> Invite one person
                </>
              }
              content={(close) => (
                <InviteForm form={intake.id} language={intake.content.language} onClose={close} />
              )}
            />
            <DialogButton
              kind="main"
              title="New public link"
              label={
                <>
                  <Link2 size={14} /> New public link
                </>
              }
              content={(close) => <LinkForm form={intake.id} link={null} onClose={close} />}
            />
          </span>
        )}
      </div>
      {intake.links.length === 0 ? (
        <p className="mt-6 border-l-2 border-hair pl-3 text-sm text-soft">
          No public link yet. Respondents reach the form only by invitation.
        </p>
      ) : (
        <ul className="mt-4 max-w-5xl text-sm" aria-label="Public links">
          {intake.links.map((link) => (
            <LinkLine key={link.id} form={intake.id} link={link} may={may} />
          ))}
        </ul>
      )}
    </div>
  )
}

const isOpen = ({ closedAt, closesAt, mostAnswers, answers }: OpenLink): boolean =>
  closedAt === null &&
  (closesAt === null || new Date(closesAt) > new Date()) &&
  (mostAnswers === null || answers < mostAnswers)

function LinkLine({
  form,
  link,
  may,
}: {
  readonly form: string
  readonly link: OpenLink
  readonly may: boolean
}) {
  const say = useNotice()
  const save = useCall('saveLink')
  const { id, name, url, closesAt, mostAnswers, answers, perHour, origins, closedAt } = link
  const copy = (text: string, told: string) => void navigator.clipboard.writeText(text).then(() => say(told))
  return (
    <li className="border-b border-hair/60 py-2">
      <div className="flex items-baseline gap-3">
        <span className="w-40 shrink-0 truncate font-semibold">{name}</span>
        <a
          href={url}
          target="_blank"
          rel="noreferrer"
          className="min-w-0 flex-1 truncate text-petrol hover:underline"
        >
          {url}
        </a>
        <span className={isOpen(link) ? 'text-moss' : 'text-soft'}>
          {isOpen(link)
            ? 'open'
            : closedAt
              ? 'closed'
              : mostAnswers !== null && answers >= mostAnswers
                ? 'full'
                : 'expired'}
        </span>
        <button className="text-petrol underline" onClick={() => copy(url, 'Address copied.')}>
          Copy address
        </button>
        {origins.length > 0 && (
          <button
            className="text-petrol underline"
            onClick={() =>
              copy(
                `<iframe src="${url}" title="${name.replace(/["&<>]/g, ' ')}" style="width:100%;height:80vh;border:0"></iframe>`,
                'HTML of the frame copied.',
              )
            }
          >
            Copy frame HTML
          </button>
        )}
        {may && (
          <>
            <DialogButton
              look="link"
              title={name}
              label="Edit"
              content={(close) => <LinkForm form={form} link={link} onClose={close} />}
            />
            <button
              className="text-petrol underline"
              onClick={() =>
                save.mutate({
                  params: { id: form, link: id },
                  body: { name, closesAt, mostAnswers, perHour, origins, closed: closedAt === null },
                })
              }
            >
              {closedAt ? 'Reopen' : 'Close'}
            </button>
          </>
        )}
      </div>
      <p className="ml-[10.75rem] text-xs text-soft">
        {plural(answers, 'response')}
        {mostAnswers !== null && ` of ${mostAnswers}`}
        {closesAt && `, until ${new Date(closesAt).toLocaleString()}`}, {perHour} per hour from one network
        address
        {origins.length > 0 && `, in frames of ${origins.join(', ')}`}
      </p>
    </li>
  )
}

const linkSchema = v.object({
  name: filled('Enter where the link is used.'),
  closesAt: momentOrNone,
  mostAnswers: wholeOrNone(1),
  perHour: whole(1, 1000),
  origins: v.pipe(
    v.string(),
    v.transform((lines) => lines.split(/\s+/).filter(Boolean)),
  ),
})

function LinkForm({
  form,
  link,
  onClose,
}: {
  readonly form: string
  readonly link: OpenLink | null
  readonly onClose: () => void
}) {
  const say = useNotice()
  const entry = useEntry({
    schema: linkSchema,
    start: {
      name: link?.name ?? '',
      closesAt: localMoment(link?.closesAt ?? null),
      mostAnswers: link?.mostAnswers?.toString() ?? '',
      perHour: String(link?.perHour ?? 20),
      origins: link?.origins.join('\n') ?? '',
    },
    async send(body) {
      if (link)
        return call('saveLink', {
          params: { id: form, link: link.id },
          body: { ...body, closed: link.closedAt !== null },
        })
      const { url } = await call('openLink', { params: { id: form }, body })
      await navigator.clipboard.writeText(url).then(
        () => say('Public link created; its address is copied.'),
        () => say('Public link created.'),
      )
    },
    onDone: onClose,
  })
  return (
    <Form entry={entry} submit={link ? 'Save link' : 'Create link'} onClose={onClose}>
      <TextField
        label="Where it is used"
        hint="Shown only to you, such as: our website, the spring fair."
        of={entry.at('name')}
        autoFocus
        maxLength={200}
      />
      <div className="grid grid-cols-2 gap-3">
        <TextField label="Open until" of={entry.at('closesAt')} type="datetime-local" />
        <TextField
          label="Most responses"
          of={entry.at('mostAnswers')}
          type="number"
          min={1}
          placeholder="no limit"
        />
      </div>
      <TextField
        label="Responses per hour from one network address"
        hint="A whole office may share one address."
        of={entry.at('perHour')}
        type="number"
        min={1}
        max={1000}
      />
      <LinesField
        label="Websites that may show it in a frame"
        hint="One per line, as https://name. No other website can."
        of={entry.at('origins')}
        rows={2}
      />
    </Form>
  )
}

const inviteSchema = v.object({
  record: v.nullable(v.object({ id: v.string(), name: v.string() })),
  name: filled('Enter a name.'),
  email,
  language: v.picklist(LANGUAGES),
  days: whole(1, 366),
})

function InviteForm({
  form,
  language,
  onClose,
}: {
  readonly form: string
  readonly language: Language
  readonly onClose: () => void
}) {
  const say = useNotice()
  const entry = useEntry({
    schema: inviteSchema,
    start: { record: null as { id: string; name: string } | null, name: '', email: '', language, days: '14' },
    send: ({ record, ...body }) =>
      call('invite', { params: { id: form }, body: { ...body, record: record?.id ?? null } }),
    onDone: (_, { name }) => {
      say(`An email goes to ${name}.`)
      onClose()
    },
  })
  return (
    <Form entry={entry} submit="Send invitation" onClose={onClose}>
      <CustomerSearch
        chosen={entry.value('record')}
        onChoose={(record, contact) => {
          entry.set('record', record)
          if (record && contact && !entry.value('email')) entry.set('email', contact)
          if (record && !entry.value('name')) entry.set('name', record.name)
        }}
      />
      <div className="grid grid-cols-2 gap-3">
        <TextField label="Name" of={entry.at('name')} maxLength={200} />
        <TextField label="Email address" of={entry.at('email')} type="email" maxLength={254} />
        <SelectField
          label="Language"
          of={entry.at('language')}
          options={LANGUAGES.map((each) => [each, ownName(each)] as const)}
        />
        <TextField label="Link expires in (days)" of={entry.at('days')} type="number" min={1} max={366} />
      </div>
    </Form>
  )
}

/** Finds a customer by a few letters; `contact`: the email address that their record has. */
function CustomerSearch({
  chosen,
  onChoose,
}: {
  readonly chosen: { readonly id: string; readonly name: string } | null
  readonly onChoose: (record: { id: string; name: string } | null, contact?: string) => void
}) {
  const [search, setSearch] = useState('')
  const searched = chosen === null && search.trim().length > 1
  const found = useAnswer(
    'records',
    { params: { kind: 'customer' }, query: { search, limit: '8' } },
    { enabled: searched, keep: true },
  )
  return (
    <div>
      <Field label="Customer" hint="What the customer’s record says is filled in already.">
        {(parts) => (
          <Input
            {...parts}
            placeholder="Search, or leave empty"
            value={chosen?.name ?? search}
            onChange={(event) => {
              onChoose(null)
              setSearch(event.target.value)
            }}
          />
        )}
      </Field>
      {searched && (
        <ul className="border border-t-0 border-hair text-sm" aria-label="Customers found">
          {found.data?.records.map(({ id, name, data }) => (
            <li key={id}>
              <button
                type="button"
                className="w-full px-2 py-1 text-left hover:bg-wash"
                onClick={() =>
                  onChoose({ id, name }, typeof data['email'] === 'string' ? data['email'] : undefined)
                }
              >
                {name}
              </button>
            </li>
          ))}
          {found.data?.records.length === 0 && <li className="px-2 py-1 text-soft">No customer matches.</li>}
        </ul>
      )}
    </div>
  )
}
