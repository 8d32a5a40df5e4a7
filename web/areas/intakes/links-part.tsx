import { Link2, Mail } from 'lucide-react'
import { useState } from 'react'
import { type Language, LANGUAGES } from '#core/languages/language.ts'
import { useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { LANGUAGE_NAMES } from '#web/areas/signing/language-menu.tsx'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { FormEnd } from '#web/parts/form-end.tsx'
import { Input, Labelled, Select, TextArea } from '#web/parts/input.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import type { Intake } from './part-props.ts'

type OpenLink = Intake['links'][number]

/** How people outside reach a form: public addresses, and links that one person gets. */
export function LinksPart({ intake }: { readonly intake: Intake }) {
  const may = useMay('runs')
  const [making, setMaking] = useState(false)
  const [inviting, setInviting] = useState(false)
  const [shown, setShown] = useState<OpenLink | null>(null)
  return (
    <div className="min-h-0 overflow-auto px-4 pt-4 pb-10">
      <div className="flex max-w-5xl items-start gap-4">
        <p className="max-w-xl text-sm text-soft">
          By an open link whoever finds it may answer. By an invitation one person answers, with what is known
          of them in place.
        </p>
        {may && (
          <span className="ml-auto flex gap-2">
            <Button onClick={() => setInviting(true)}>
              <Mail size={14} /> Ask one person
            </Button>
            <Button kind="main" onClick={() => setMaking(true)}>
              <Link2 size={14} /> New open link
            </Button>
          </span>
        )}
      </div>
      {intake.links.length === 0 ? (
        <p className="mt-6 border-l-2 border-hair pl-3 text-sm text-soft">
          No open link yet: nobody can find the form.
        </p>
      ) : (
        <ul className="mt-4 max-w-5xl text-sm" aria-label="Open links">
          {intake.links.map((link) => (
            <LinkLine key={link.id} form={intake.id} link={link} may={may} onShow={() => setShown(link)} />
          ))}
        </ul>
      )}
      <Dialog title="A new open link" open={making} onClose={() => setMaking(false)}>
        <LinkForm form={intake.id} link={null} onClose={() => setMaking(false)} />
      </Dialog>
      <Dialog title={shown?.name ?? ''} open={shown !== null} onClose={() => setShown(null)}>
        {shown && <LinkForm form={intake.id} link={shown} onClose={() => setShown(null)} />}
      </Dialog>
      <Dialog title="Ask one person" open={inviting} onClose={() => setInviting(false)}>
        <InviteForm form={intake.id} language={intake.content.language} onClose={() => setInviting(false)} />
      </Dialog>
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
  onShow,
}: {
  readonly form: string
  readonly link: OpenLink
  readonly may: boolean
  readonly onShow: () => void
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
                : 'over'}
        </span>
        <button className="text-petrol underline" onClick={() => copy(url, 'The address is copied.')}>
          Copy
        </button>
        {origins.length > 0 && (
          <button
            className="text-petrol underline"
            onClick={() =>
              copy(
                `<iframe src="${url}" title="${name.replace(/["&<>]/g, ' ')}" style="width:100%;height:80vh;border:0"></iframe>`,
                'The frame is copied, to be put into a page.',
              )
            }
          >
            Copy the frame
          </button>
        )}
        {may && (
          <>
            <button className="text-petrol underline" onClick={onShow}>
              Change
            </button>
            <button
              className="text-petrol underline"
              onClick={() =>
                save.mutate({
                  params: { id: form, link: id },
                  body: { name, closesAt, mostAnswers, perHour, origins, closed: closedAt === null },
                })
              }
            >
              {closedAt ? 'Open again' : 'Close'}
            </button>
          </>
        )}
      </div>
      <p className="ml-[10.75rem] text-xs text-soft">
        {plural(answers, 'answer')}
        {mostAnswers !== null && ` of ${mostAnswers}`}
        {closesAt && `, until ${new Date(closesAt).toLocaleString()}`}, {perHour} an hour from one network
        address
        {origins.length > 0 && `, in frames of ${origins.join(', ')}`}
      </p>
    </li>
  )
}

/** A moment as the browser’s own entry wants it, in the zone of whoever sits here. */
const localOf = (at: string | null): string =>
  at === null
    ? ''
    : new Date(new Date(at).getTime() - new Date(at).getTimezoneOffset() * 60_000).toISOString().slice(0, 16)

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
  const [name, setName] = useState(link?.name ?? '')
  const [closes, setCloses] = useState(localOf(link?.closesAt ?? null))
  const [most, setMost] = useState(link?.mostAnswers?.toString() ?? '')
  const [perHour, setPerHour] = useState(String(link?.perHour ?? 20))
  const [origins, setOrigins] = useState(link?.origins.join('\n') ?? '')
  const make = useCall('openLink', ({ url }) => {
    navigator.clipboard.writeText(url).then(
      () => say('It is open; its address is copied.'),
      () => say('It is open.'),
    )
    onClose()
  })
  const save = useCall('saveLink', onClose)
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault()
        const body = {
          name,
          closesAt: closes ? new Date(closes).toISOString() : null,
          mostAnswers: most ? Number(most) : null,
          perHour: Number(perHour),
          origins: origins.split(/\s+/).filter(Boolean),
        }
        if (link)
          save.mutate({
            params: { id: form, link: link.id },
            body: { ...body, closed: link.closedAt !== null },
          })
        else make.mutate({ params: { id: form }, body })
      }}
    >
      <Labelled label="Where it is used" hint="For you alone, such as: our page, the spring fair.">
        <Input autoFocus maxLength={200} value={name} onChange={(event) => setName(event.target.value)} />
      </Labelled>
      <div className="grid grid-cols-2 gap-3">
        <Labelled label="Open until">
          <Input type="datetime-local" value={closes} onChange={(event) => setCloses(event.target.value)} />
        </Labelled>
        <Labelled label="Answers at the most">
          <Input
            type="number"
            min={1}
            placeholder="as many as come"
            value={most}
            onChange={(event) => setMost(event.target.value)}
          />
        </Labelled>
      </div>
      <Labelled label="Answers an hour from one network address" hint="A whole office may share one.">
        <Input
          type="number"
          min={1}
          max={1000}
          required
          value={perHour}
          onChange={(event) => setPerHour(event.target.value)}
        />
      </Labelled>
      <Labelled
        label="Pages that may show it in a frame"
        hint="One a line, as https://name. No other page can."
      >
        <TextArea rows={2} value={origins} onChange={(event) => setOrigins(event.target.value)} />
      </Labelled>
      <FormEnd
        label={link ? 'Keep' : 'Open it'}
        busy={make.isPending || save.isPending}
        disabled={name.trim() === ''}
        onClose={onClose}
      />
    </form>
  )
}

function InviteForm({
  form,
  language: own,
  onClose,
}: {
  readonly form: string
  readonly language: Language
  readonly onClose: () => void
}) {
  const say = useNotice()
  const [search, setSearch] = useState('')
  const found = useAnswer(
    'records',
    { params: { kind: 'customer' }, query: { search, limit: '8' } },
    { enabled: search.trim().length > 1, keep: true },
  )
  const [record, setRecord] = useState<{ readonly id: string; readonly name: string } | null>(null)
  const [name, setName] = useState('')
  const [email, setEmail] = useState('')
  const [language, setLanguage] = useState<Language>(own)
  const [days, setDays] = useState('14')
  const invite = useCall('invite', () => {
    say(`${name} is asked by mail.`)
    onClose()
  })
  return (
    <form
      className="flex flex-col gap-4 text-sm"
      onSubmit={(event) => {
        event.preventDefault()
        invite.mutate({
          params: { id: form },
          body: { name, email, record: record?.id ?? null, language, days: Number(days) },
        })
      }}
    >
      <div>
        <Labelled label="About which customer" hint="What the record says stands in the form already.">
          <Input
            placeholder="Search, or none"
            value={record?.name ?? search}
            onChange={(event) => {
              setRecord(null)
              setSearch(event.target.value)
            }}
          />
        </Labelled>
        {!record && search.trim().length > 1 && (
          <ul className="border border-t-0 border-hair" aria-label="Customers found">
            {found.data?.records.map((each) => (
              <li key={each.id}>
                <button
                  type="button"
                  className="w-full px-2 py-1 text-left hover:bg-wash"
                  onClick={() => {
                    setRecord(each)
                    const contact = each.data['email']
                    if (!email && typeof contact === 'string') setEmail(contact)
                    if (!name) setName(each.name)
                  }}
                >
                  {each.name}
                </button>
              </li>
            ))}
            {found.data?.records.length === 0 && (
              <li className="px-2 py-1 text-soft">None is called that.</li>
            )}
          </ul>
        )}
      </div>
      <div className="grid grid-cols-2 gap-3">
        <Labelled label="Name">
          <Input maxLength={200} value={name} onChange={(event) => setName(event.target.value)} />
        </Labelled>
        <Labelled label="Mail address">
          <Input
            type="email"
            maxLength={254}
            value={email}
            onChange={(event) => setEmail(event.target.value)}
          />
        </Labelled>
        <Labelled label="Language">
          <Select
            value={language}
            onChange={(event) => setLanguage(LANGUAGES.find((each) => each === event.target.value)!)}
          >
            {LANGUAGES.map((each) => (
              <option key={each} value={each}>
                {LANGUAGE_NAMES[each]}
              </option>
            ))}
          </Select>
        </Labelled>
        <Labelled label="Days that the link holds">
          <Input
            type="number"
            min={1}
            max={366}
            required
            value={days}
            onChange={(event) => setDays(event.target.value)}
          />
        </Labelled>
      </div>
      <FormEnd
        label="Ask"
        busy={invite.isPending}
        disabled={name.trim() === '' || email.trim() === ''}
        onClose={onClose}
      />
    </form>
  )
}
