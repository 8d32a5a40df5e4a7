import { Link } from 'react-router'
import type { ReactNode } from 'react'
import type { Agreement } from '#contract/agreement.ts'
import { PLURALS } from '#core/records/kinds.ts'
import { address, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Courses, OutStanding } from './sender-commands.tsx'
import { OnPaper } from './on-paper.tsx'
import { Asked, AskedByParties } from './questions.tsx'
import { useMay, usePerson } from '#web/frame/person.ts'
import { Day, hasPassed, When } from '#web/parts/signs/when.tsx'

/** How far an agreement is: approvals, signatures with what was filled in, and where it comes from. */
export function Way({ agreement }: { readonly agreement: Agreement }) {
  const mayRun = useMay('runs')
  const say = useNotice()
  const remind = useCall('remindApprover', () => say('They are reminded by mail.'))
  const revisable = agreement.moves.includes('revise')
  return (
    <div className="p-4 text-sm">
      <OutStanding agreement={agreement} />
      {agreement.goesAt && (
        <p className="mb-4 border-l-2 border-petrol pl-2">
          It goes by itself <When at={agreement.goesAt} />, unless somebody holds it.
        </p>
      )}
      {(agreement.byHand || (mayRun && revisable)) && (
        <p className="mb-4 flex items-center gap-3">
          {agreement.byHand
            ? 'Its wording was changed by hand for this one customer.'
            : agreement.oneOff
              ? 'It is a file of its own, without a template.'
              : 'It has the wording of its template.'}
          {agreement.oneOff && (
            <Link to={`/one-offs/${agreement.oneOff}`} className="ml-auto text-petrol underline">
              Keep it as a template
            </Link>
          )}
          {mayRun && revisable && (
            <Link
              to={`/agreements/${agreement.id}/wording`}
              className={`text-petrol underline ${agreement.oneOff ? '' : 'ml-auto'}`}
            >
              Change {agreement.form ? 'what stands on it' : 'the wording'}
            </Link>
          )}
        </p>
      )}
      <h3 className="mb-1 font-serif text-base font-semibold">Approvals</h3>
      {agreement.steps.length === 0 && <p className="text-soft">No rule asks for approval.</p>}
      <ul>
        {agreement.steps.map((step) => (
          <li key={step.id} className="border-b border-hair/60 py-1.5">
            <p>
              <span className="font-semibold capitalize">{step.approver}</span>: <StepState step={step} />
            </p>
            <p className="text-soft">
              because {step.reason}
              {step.reasons.length > 0 &&
                ` (${step.reasons.map(({ name, row, edition }) => `row ${row} of ${name}, edition ${edition}`).join('; ')})`}
            </p>
            {step.present && (step.state === 'waiting' || step.state === 'to come') && (
              <p className={step.deciders.length ? 'text-soft' : 'text-brick'}>
                {step.deciders.length
                  ? `with ${step.deciders.join(', ')}`
                  : `Nobody may decide this: nobody holds “${step.approver}” now, or all who do have had a part in it or are away without a stand-in.`}
                {step.state === 'waiting' && step.deciders.length > 0 && mayRun && (
                  <>
                    {' '}
                    <button
                      className="text-petrol underline"
                      onClick={() => remind.mutate({ params: { id: agreement.id, step: step.id } })}
                    >
                      Remind
                    </button>
                  </>
                )}
              </p>
            )}
            {step.note && <p className="mt-0.5 border-l-2 border-hair pl-2">{step.note}</p>}
          </li>
        ))}
      </ul>
      <Asked agreement={agreement} />
      <h3 className="mt-5 mb-1 font-serif text-base font-semibold">
        {agreement.notice ? 'Who receives it' : 'Signatures'}
      </h3>
      <ol>
        {agreement.parties.map((party) => (
          <PartyLine key={party.id} agreement={agreement} party={party} />
        ))}
      </ol>
      <AskedByParties agreement={agreement} />
      <Details agreement={agreement} />
    </div>
  )
}

/** How far one approval is. */
function StepState({ step }: { readonly step: Agreement['steps'][number] }) {
  if (step.state === 'to come') return <>comes after the others</>
  if (step.state === 'fallen') return <span className="text-soft">counts no more</span>
  if (step.state === 'waiting')
    return (
      <>
        waiting since <When at={step.since} />
        {step.dueAt && (
          <span className={hasPassed(step.dueAt) ? 'text-brick' : 'text-soft'}>
            , due <When at={step.dueAt} />
          </span>
        )}
        {step.handedTo && <>, handed to {step.handedTo}</>}
      </>
    )
  return (
    <>
      {step.state} by {step.decidedBy}
      {step.decidedFor && ` for ${step.decidedFor}`}, {step.decidedAt && <When at={step.decidedAt} />}
      {step.kept && <span className="text-soft">, kept: its values are the same</span>}
    </>
  )
}

function PartyLine({
  agreement,
  party,
}: {
  readonly agreement: Agreement
  readonly party: Agreement['parties'][number]
}) {
  return (
    <li className="border-b border-hair/60 py-1.5">
      <p>
        <span className="font-semibold">{party.name}</span>
        {party.title && `, ${party.title}`}{' '}
        <span className="text-soft">
          as {party.label}
          {party.kind === 'assenter' && ', agrees without signing'}
          {party.kind === 'copy' && !agreement.notice && ', gets a copy'}
          {party.linkBy === 'text' && `, link by text to ${party.phone}`}
          {party.check !== 'link' && `, by ${party.check}`}
        </span>
      </p>
      <p className="text-soft">
        {party.email}.{' '}
        {agreement.notice ? (
          <>
            {party.writtenAt ? (
              <>
                Sent <When at={party.writtenAt} />
                {party.undelivered === null &&
                  (party.arrivedAt ? ', taken by their mail server' : ', on its way')}
              </>
            ) : (
              'Gets it when it goes'
            )}{' '}
            <Courses agreement={agreement} party={party} names={party.courses} />
          </>
        ) : party.signedAt ? (
          <>
            {party.kind === 'assenter' ? 'Agreed' : 'Signed'} <When at={party.signedAt} />
            {party.paperBy && `, on paper, put back by ${party.paperBy}`}
          </>
        ) : party.declinedAt ? (
          <span className="text-brick">
            Declined <When at={party.declinedAt} />
          </span>
        ) : party.openedAt ? (
          <>
            Opened <When at={party.openedAt} />, not signed yet{' '}
            <OpenHere agreement={agreement} party={party} /> <OnPaper agreement={agreement} party={party} />{' '}
            <Courses agreement={agreement} party={party} names={party.courses} />
          </>
        ) : party.invitedAt ? (
          <>
            Invited <When at={party.invitedAt} />, not opened yet{' '}
            <OpenHere agreement={agreement} party={party} /> <OnPaper agreement={agreement} party={party} />{' '}
            <Courses agreement={agreement} party={party} names={party.courses} />
          </>
        ) : (
          <>
            {party.kind === 'copy' ? 'Gets the executed document' : 'Not invited yet'}{' '}
            <Courses agreement={agreement} party={party} names={party.courses} />
          </>
        )}
      </p>
      {party.locked && (
        <p className="text-brick">
          Nobody gets in by their link: too many wrong codes. A reminder, another address or another code lets
          them in again.
        </p>
      )}
      {party.undelivered && !party.signedAt && (
        <p className="text-brick">Mail to this address was not delivered: {party.undelivered}</p>
      )}
      {party.filled.length > 0 && (
        <dl className="mt-1 grid grid-cols-[minmax(7rem,auto)_1fr] gap-x-4 border-l-2 border-hair pl-2">
          {party.filled.map(({ blank, label, said, file }) => (
            <div key={blank} className="contents">
              <dt className="text-soft">{label}</dt>
              <dd className="wrap-anywhere">
                {file ? (
                  <a
                    className="text-petrol underline"
                    href={address('handedIn', { params: { id: agreement.id, party: party.id, blank } })}
                    download
                  >
                    {said}
                  </a>
                ) : (
                  said
                )}
              </dd>
            </div>
          ))}
        </dl>
      )}
    </li>
  )
}

/** Opens the signing page at this device: for oneself, or for somebody who is present. */
function OpenHere({
  agreement,
  party,
}: {
  readonly agreement: Agreement
  readonly party: Agreement['parties'][number]
}) {
  const may = useMay('send')
  const me = usePerson()
  const own = party.email.toLowerCase() === me.email.toLowerCase()
  const open = useCall('handDevice', ({ path }) => window.open(path, '_blank', 'noopener'))
  if (!may || agreement.state !== 'out') return null
  return (
    <button
      className="text-petrol underline"
      onClick={() => open.mutate({ params: { id: agreement.id, party: party.id } })}
    >
      {own ? 'Sign now' : 'Sign here in person'}
    </button>
  )
}

/** What else there is to know of it: where it comes from, its mail, language, further receivers, files, documents. */
function Details({ agreement }: { readonly agreement: Agreement }) {
  const { record, language, copies, extra, parts } = agreement
  return (
    <dl className="mt-5 grid grid-cols-[7rem_1fr] gap-y-1">
      {!agreement.oneOff && (
        <Detail term="Template">
          {agreement.template}, edition {agreement.edition}
        </Detail>
      )}
      <Detail term="From">
        <From origin={agreement.origin} />, made by {agreement.createdBy}
      </Detail>
      {record && (
        <Detail term="Record">
          <Link to={`/records/${PLURALS[record.kind]}/${record.id}`} className="text-petrol underline">
            {record.name}
          </Link>
        </Detail>
      )}
      {parts.length > 0 && (
        <Detail term="Documents">
          <ol>
            {parts.map(({ title, firstPage, pages }, i) => (
              <li key={title}>
                {title},{' '}
                {pages === 1 ? `page ${firstPage}` : `pages ${firstPage} to ${firstPage + pages - 1}`}{' '}
                <SingleDocument agreement={agreement.id} part={i + 1} title={title} kind="PDF" />{' '}
                <SingleDocument agreement={agreement.id} part={i + 1} title={title} kind="DOCX" />
              </li>
            ))}
          </ol>
        </Detail>
      )}
      {language && <Detail term="Language">{language}</Detail>}
      {agreement.notice === null && (
        <Detail term="Sign by">
          {agreement.signByDay ? <Day day={agreement.signByDay} /> : 'counted from sending'}
        </Detail>
      )}
      <Detail term="Email">
        {agreement.subject}
        <span className="block text-soft">{agreement.message}</span>
      </Detail>
      {copies.length > 0 && <Detail term="Copies">{copies.join(', ')}</Detail>}
      {extra.length > 0 && <Detail term="Attachments">{extra.join(', ')}</Detail>}
    </dl>
  )
}

/** Where it comes from, as a link where there is somewhere to go. */
function From({ origin }: { readonly origin: Agreement['origin'] }) {
  switch (origin.kind) {
    case 'row':
      return (
        <Link to={`/runs/${origin.run}`} className="text-petrol underline">
          row {origin.row} of its run
        </Link>
      )
    case 'record':
      return 'one record'
    case 'typed':
      return 'typed values'
    case 'file':
      return 'a file'
    case 'answer':
      return (
        <Link to={`/intakes/${origin.form}/answers/${origin.answer}`} className="text-petrol underline">
          a response
        </Link>
      )
    case 'aftermath':
      return (
        <Link to={`/agreements/${origin.agreement}`} className="text-petrol underline">
          a next step of another agreement
        </Link>
      )
    case 'call':
      return `the API call with reference ${origin.reference}`
  }
}

const Detail = ({ term, children }: { readonly term: string; readonly children: ReactNode }) => (
  <>
    <dt className="text-soft">{term}</dt>
    <dd>{children}</dd>
  </>
)

/** One document of a packet, to be fetched by itself. */
const SingleDocument = ({
  agreement,
  part,
  title,
  kind,
}: {
  readonly agreement: string
  readonly part: number
  readonly title: string
  readonly kind: 'PDF' | 'DOCX'
}) => (
  <a
    className="text-petrol underline"
    aria-label={`${title} as ${kind}`}
    download
    href={
      kind === 'PDF'
        ? address('singleDocument', { params: { id: agreement, part } })
        : address('agreementDocx', { params: { id: agreement }, query: { part: String(part) } })
    }
  >
    {kind}
  </a>
)
