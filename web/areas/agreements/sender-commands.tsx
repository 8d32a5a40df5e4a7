import { useState } from 'react'
import * as v from 'valibot'
import { Link } from 'react-router'
import type { Agreement } from '#contract/agreement.ts'
import type { SentCommand } from '#contract/sending.ts'
import { type Asks, courseOf, type SenderCommandName } from '#core/ceremony/sender-commands.ts'
import { call } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { email, filled, text } from '#web/parts/form/entries.ts'
import { LinesField, TextField } from '#web/parts/form/fields.tsx'
import { Form } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import { Day, When } from '#web/parts/signs/when.tsx'

type Party = Agreement['parties'][number]

/** What is said once a course has been taken. */
const DONE: Readonly<Record<SenderCommandName, string>> = {
  remind: 'They are reminded by mail.',
  'correct address': 'The address is corrected.',
  'replace signer': 'Somebody else signs now.',
  'new agreed code': 'The new agreed code counts.',
  extend: 'The date is changed.',
  'take back': 'It is a draft again. Change it, then put it to approval.',
  withdraw: 'Withdrawn.',
}

const inDays = (days: number) => {
  const day = new Date()
  day.setDate(day.getDate() + days)
  return `${day.getFullYear()}-${String(day.getMonth() + 1).padStart(2, '0')}-${String(day.getDate()).padStart(2, '0')}`
}

/** A code that is easily read out: no letters or digits that are taken for others. */
function readableCode(): string {
  const letters = 'abcdefghjkmnpqrstuvwxyz23456789'
  const picked = [...crypto.getRandomValues(new Uint32Array(10))].map((n) => letters[n % letters.length])
  return `${picked.slice(0, 5).join('')} ${picked.slice(5).join('')}`
}

const textOr = (needed: boolean, ask: string, most = 200) => (needed ? filled(ask, most) : text(most))

/** What has to be entered for a command, by what it asks for. */
const askedSchema = (asks: Asks) =>
  v.object({
    reason: textOr(asks === 'reason', 'Enter a reason.', 2000),
    day: textOr(asks === 'day', 'Choose a day.'),
    name: textOr(asks === 'person', 'Enter a name.'),
    email: asks === 'person' || asks === 'address' ? email : text(254),
    code: v.pipe(
      textOr(asks === 'code', 'Enter a code.'),
      v.check((code) => asks !== 'code' || code.length >= 6, 'A code has at least 6 characters.'),
    ),
  })
type Asked = v.InferOutput<ReturnType<typeof askedSchema>>

function takenOf(name: SenderCommandName, party: Party | null, asked: Asked): SentCommand {
  const of = party?.id ?? ''
  switch (name) {
    case 'remind':
      return { course: name, party: of }
    case 'correct address':
      return { course: name, party: of, email: asked.email }
    case 'replace signer':
      return { course: name, party: of, name: asked.name, email: asked.email }
    case 'new agreed code':
      return { course: name, party: of, code: asked.code }
    case 'extend':
      return { course: name, day: asked.day }
    case 'take back':
      return { course: name, reason: asked.reason }
    case 'withdraw':
      return { course: name }
  }
}

/** Buttons for what can be done now, drawn from the table of courses; each says what it does before it is done. */
export function Courses({
  agreement,
  party = null,
  names,
  large = false,
}: {
  readonly agreement: Agreement
  readonly party?: Party | null
  readonly names: readonly SenderCommandName[]
  readonly large?: boolean
}) {
  const may = useMay('send')
  const [open, setOpen] = useState<SenderCommandName | null>(null)
  if (!may || names.length === 0) return null
  return (
    <span className={`inline-flex flex-wrap ${large ? 'gap-2' : 'gap-x-3'}`}>
      {names.map((name) => {
        const { label } = courseOf(name)
        return large ? (
          <Button key={name} kind={name === 'withdraw' ? 'quiet' : 'plain'} onClick={() => setOpen(name)}>
            {label}
          </Button>
        ) : (
          <button
            key={name}
            className="text-petrol underline"
            aria-label={party ? `${label}: ${party.name}` : label}
            onClick={() => setOpen(name)}
          >
            {label}
          </button>
        )
      })}
      {open && <CourseDialog name={open} agreement={agreement} party={party} onClose={() => setOpen(null)} />}
    </span>
  )
}

function CourseDialog({
  name,
  agreement,
  party,
  onClose,
}: {
  readonly name: SenderCommandName
  readonly agreement: Agreement
  readonly party: Party | null
  readonly onClose: () => void
}) {
  const course = courseOf(name)
  const say = useNotice()
  const signed = agreement.parties.filter(({ signedAt }) => signedAt)
  const { asks } = course
  const entry = useEntry({
    schema: askedSchema(asks),
    start: {
      reason: '',
      day: inDays(14),
      name: '',
      email: name === 'correct address' ? (party?.email ?? '') : '',
      code: name === 'new agreed code' ? readableCode() : '',
    },
    send: (asked) => call('takeCourse', { params: { id: agreement.id }, body: takenOf(name, party, asked) }),
    onDone: () => {
      say(DONE[name])
      onClose()
    },
  })
  return (
    <Dialog title={party ? `${course.label}: ${party.name}` : course.label} open onClose={onClose}>
      <Form entry={entry} submit={course.label} kind={course.final ? 'danger' : 'main'} onClose={onClose}>
        <p className="text-sm">{course.says}</p>
        {course.signatures === 'are void' && signed.length > 0 && (
          <p className="text-sm text-brick">
            {signed.map((each) => each.name).join(' and ')} {signed.length === 1 ? 'has' : 'have'} signed.
            Signatures given so far will no longer be valid.
          </p>
        )}
        {asks === 'reason' && (
          <LinesField
            label="Reason"
            hint="The signers read it in the email."
            of={entry.at('reason')}
            autoFocus
            maxLength={2000}
          />
        )}
        {asks === 'day' && (
          <TextField
            label="Sign-by date"
            hint="It ends at midnight in the organization’s time zone."
            of={entry.at('day')}
            type="date"
            autoFocus
            min={inDays(0)}
          />
        )}
        {asks === 'person' && <TextField label="Full name" of={entry.at('name')} autoFocus />}
        {(asks === 'person' || asks === 'address') && (
          <TextField
            label="Email address"
            of={entry.at('email')}
            inputMode="email"
            autoFocus={asks === 'address'}
          />
        )}
        {asks === 'code' && (
          <TextField
            label="Agreed code"
            hint="Spaces and capitals do not matter. The code is not shown again."
            of={entry.at('code')}
            autoFocus
            className="font-mono"
          />
        )}
      </Form>
    </Dialog>
  )
}

/** Where an agreement that has gone out stands, and what one may do next; after a refusal, with its reason. */
export function OutStanding({ agreement }: { readonly agreement: Agreement }) {
  const { state, parties, signByDay, courses } = agreement
  const refused = parties.find(({ declinedAt }) => declinedAt)
  if (state === 'declined' && refused)
    return (
      <section aria-label="Refusal" className="mb-4 border-l-2 border-brick pl-3">
        <p>
          <span className="font-semibold">{refused.name}</span> declined as {refused.label}{' '}
          <When at={refused.declinedAt!} />:
        </p>
        <p className="my-1 font-serif text-base wrap-anywhere">“{refused.reason}”</p>
        <p className="mb-2 text-soft">
          It can be taken back, changed and sent again; or left as it is, or withdrawn.
        </p>
        <Courses agreement={agreement} names={courses} large />
      </section>
    )
  if (state === 'lapsed')
    return (
      <section aria-label="Lapsed" className="mb-4 border-l-2 border-ochre pl-3">
        <p className="mb-2">
          The date to sign by, {signByDay && <Day day={signByDay} />}, has passed. With another date the same
          links work again.
        </p>
        <Courses agreement={agreement} names={courses} large />
      </section>
    )
  if (state !== 'out') {
    return courses.length > 0 ? (
      <p className="mb-4 flex gap-4">
        <Link to={`/agreements/${agreement.id}/send`} className="text-petrol underline">
          Sending
        </Link>
        <Courses agreement={agreement} names={courses} />
      </p>
    ) : null
  }
  const lost = parties.filter(({ undelivered, signedAt }) => undelivered && !signedAt)
  return (
    <section aria-label="Out to sign" className="mb-4">
      {lost.map((each) => (
        <p key={each.id} className="mb-1 border-l-2 border-brick pl-3">
          The email to {each.name} ({each.email}) was not delivered: {each.undelivered}
        </p>
      ))}
      <p>
        Out to sign, until the end of {signByDay && <Day day={signByDay} />}.{' '}
        <Courses agreement={agreement} names={courses} />
      </p>
    </section>
  )
}
