import { useState } from 'react'
import { Link } from 'react-router'
import type { Agreement, SentCommand } from '#contract/agreement.ts'
import { courseOf, type SenderCommandName } from '#core/ceremony/sender-commands.ts'
import { call, problemText } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Input, Labelled, TextArea } from '#web/parts/input.tsx'
import { Day, When } from '#web/parts/signs/when.tsx'

type Party = Agreement['parties'][number]

/** What is said once a course has been taken. */
const DONE: Readonly<Record<SenderCommandName, string>> = {
  remind: 'They are reminded by mail.',
  'correct address': 'The address is corrected.',
  'replace signer': 'Somebody else signs now.',
  'new access code': 'The new agreed code counts.',
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

interface Asked {
  readonly reason: string
  readonly day: string
  readonly name: string
  readonly email: string
  readonly code: string
}

function takenOf(name: SenderCommandName, party: Party | null, asked: Asked): SentCommand {
  const of = party?.id ?? ''
  switch (name) {
    case 'remind':
      return { course: name, party: of }
    case 'correct address':
      return { course: name, party: of, email: asked.email }
    case 'replace signer':
      return { course: name, party: of, name: asked.name, email: asked.email }
    case 'new access code':
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
  const [asked, setAsked] = useState<Asked>(() => ({
    reason: '',
    day: inDays(14),
    name: '',
    email: name === 'correct address' ? (party?.email ?? '') : '',
    code: name === 'new access code' ? readableCode() : '',
  }))
  const [problem, setProblem] = useState<string | null>(null)
  const [busy, setBusy] = useState(false)
  const set = (change: Partial<Asked>) => setAsked((now) => ({ ...now, ...change }))
  const signed = agreement.parties.filter(({ signedAt }) => signedAt)
  const take = async () => {
    setBusy(true)
    setProblem(null)
    try {
      await call('takeCourse', { params: { id: agreement.id }, body: takenOf(name, party, asked) })
      say(DONE[name])
      onClose()
    } catch (error) {
      setProblem(problemText(error))
      setBusy(false)
    }
  }
  const { asks } = course
  return (
    <Dialog title={party ? `${course.label}: ${party.name}` : course.label} open onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault()
          void take()
        }}
      >
        <p className="text-sm">{course.says}</p>
        {course.signatures === 'are void' && signed.length > 0 && (
          <p className="mt-2 text-sm text-brick">
            {signed.map((each) => each.name).join(' and ')} {signed.length === 1 ? 'has' : 'have'} signed;
            that counts no more.
          </p>
        )}
        <div className="mt-3 grid gap-3">
          {asks === 'reason' && (
            <Labelled label="Reason" hint="The signers read it in the mail.">
              <TextArea
                autoFocus
                rows={3}
                maxLength={2000}
                value={asked.reason}
                onChange={(event) => set({ reason: event.target.value })}
              />
            </Labelled>
          )}
          {asks === 'day' && (
            <Labelled label="Last day to sign" hint="It ends at midnight where the organisation is.">
              <Input
                type="date"
                autoFocus
                min={inDays(0)}
                value={asked.day}
                onChange={(event) => set({ day: event.target.value })}
              />
            </Labelled>
          )}
          {asks === 'person' && (
            <Labelled label="Full name">
              <Input autoFocus value={asked.name} onChange={(event) => set({ name: event.target.value })} />
            </Labelled>
          )}
          {(asks === 'person' || asks === 'address') && (
            <Labelled label="Mail address">
              <Input
                type="text"
                inputMode="email"
                autoFocus={asks === 'address'}
                value={asked.email}
                onChange={(event) => set({ email: event.target.value })}
              />
            </Labelled>
          )}
          {asks === 'code' && (
            <Labelled label="Agreed code" hint="Spaces and capitals do not matter. It is not shown again.">
              <Input
                autoFocus
                className="font-mono"
                value={asked.code}
                onChange={(event) => set({ code: event.target.value })}
              />
            </Labelled>
          )}
        </div>
        {problem && (
          <p role="alert" className="mt-3 text-sm text-brick">
            {problem}
          </p>
        )}
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={onClose}>Not now</Button>
          <Button
            kind={course.final ? 'danger' : 'main'}
            type="submit"
            busy={busy}
            disabled={
              (asks === 'reason' && !asked.reason.trim()) ||
              (asks === 'day' && !asked.day) ||
              (asks === 'person' && !(asked.name.trim() && asked.email.trim())) ||
              (asks === 'address' && !asked.email.trim()) ||
              (asks === 'code' && asked.code.trim().length < 6)
            }
          >
            {course.label}
          </Button>
        </div>
      </form>
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
          <span className="font-semibold">{refused.name}</span> refused as {refused.label}{' '}
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
          How it goes out
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
          The mail to {each.name} ({each.email}) was not delivered: {each.undelivered}
        </p>
      ))}
      <p>
        Out to sign, until the end of {signByDay && <Day day={signByDay} />}.{' '}
        <Courses agreement={agreement} names={courses} />
      </p>
    </section>
  )
}
