import { NewAgreementLink } from '#web/areas/agreements/one/new-agreement-link.tsx'
import type { ReactNode } from 'react'
import { Link, useNavigate } from 'react-router'
import type { AgreementSummary } from '#contract/agreement.ts'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { useAnswer } from '#web/api/client.ts'
import { usePerson } from '#web/frame/person.ts'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { Thread } from '#web/parts/signs/thread.tsx'
import { count, When } from '#web/parts/signs/when.tsx'
import { AfterAgreements } from './after-agreements.tsx'
import { AnswersWaiting } from './answers-waiting.tsx'
import { Block } from './block.tsx'
import { Troubles } from './troubles.tsx'

/** What waits for me, and what others hold up: lists, the oldest first. */
export default function Desk() {
  const desk = useAnswer('desk', {}, { every: 15_000 })
  if (desk.isPending) return <Loading />
  if (desk.isError) return <Failed error={desk.error} retry={() => void desk.refetch()} />
  const { approvals, returned, clearedTotal, waitingTotal } = desk.data
  const nothing =
    approvals.length +
      returned.length +
      clearedTotal +
      waitingTotal +
      desk.data.holes.length +
      desk.data.refused.length +
      desk.data.undelivered.length +
      desk.data.questions.length ===
    0
  return (
    <div className="h-full overflow-auto px-4 pt-4 pb-10">
      <div className="flex items-center justify-between gap-3">
        <h1 className="text-xl">Desk</h1>
        <NewAgreementLink main />
      </div>
      <Background parts={desk.data.background} />
      {nothing && <NothingWaits />}
      <ToDecide desk={desk.data} />
      <AnswersWaiting />
      <AfterAgreements />
      <Troubles />
      <ToMend desk={desk.data} />
      <ToSend desk={desk.data} />
    </div>
  )
}

type DeskData = Answer<Api['desk']>

/** What is still being loaded, such as a demo's past. */
function Background({ parts }: { readonly parts: DeskData['background'] }) {
  return parts.map(({ label, done, total }) => (
    <p key={label} role="status" className="mt-1 flex items-center gap-3 text-sm text-soft">
      {label}: {total ? `${count(done)} of ${count(total)} loaded` : 'waiting'}
      <span
        role="progressbar"
        aria-label={label}
        aria-valuemin={0}
        aria-valuemax={total}
        aria-valuenow={done}
        className="h-1.5 w-48 bg-wash"
      >
        <span className="block h-full bg-petrol" style={{ width: `${total ? (100 * done) / total : 0}%` }} />
      </span>
    </p>
  ))
}

function NothingWaits() {
  const person = usePerson()
  return (
    <Empty title="Nothing waits for you">
      {person.rights.includes('runs') ? (
        <>
          Begin with <em>New agreement</em> for one, or open{' '}
          <Link className="text-petrol underline" to="/records/sheets">
            a sheet
          </Link>{' '}
          and start a run for many.
        </>
      ) : (
        'Agreements that need your approval are listed here, with the reason.'
      )}
    </Empty>
  )
}

/** Approvals that wait for me, those that nobody can give, and mail that came back. */
function ToDecide({ desk: { approvals, holes, undelivered } }: { readonly desk: DeskData }) {
  return (
    <>
      {approvals.length > 0 && (
        <Block title="For you to approve" total={approvals.length} all="/approvals">
          {approvals.map(({ stepId, reason, since, standsInFor, agreement }) => (
            <Line
              key={stepId}
              agreement={agreement}
              to={`/approvals/${stepId}`}
              note={
                <>
                  {standsInFor && `for ${standsInFor}, `}because {reason}
                </>
              }
              since={since}
            />
          ))}
        </Block>
      )}
      {holes.length > 0 && (
        <Block title="No eligible approver" total={holes.length}>
          {holes.map(({ id, number, name, approver }) => (
            <li key={`${id} ${approver}`} className="border-b border-hair/60 py-1 text-sm">
              <Link to={`/agreements/${id}`} className="tabular-nums hover:underline">
                {number} <span className="font-semibold">{name}</span>
              </Link>{' '}
              <span className="text-brick">waits for {approver}: nobody in that position may approve it</span>
            </li>
          ))}
        </Block>
      )}
      {undelivered.length > 0 && (
        <Block title="Undeliverable email" total={undelivered.length}>
          {undelivered.map(({ id, number, name, to, problem }) => (
            <li key={`${id} ${to}`} className="border-b border-hair/60 py-1 text-sm">
              <Link to={`/agreements/${id}`} className="tabular-nums hover:underline">
                {number} <span className="font-semibold">{name}</span>
              </Link>{' '}
              <span className="text-brick">
                the email to {to} was not delivered: {problem}
              </span>
            </li>
          ))}
        </Block>
      )}
    </>
  )
}

/** What came back: declined by a signer, asked about, returned by an approver. */
function ToMend({ desk: { refused, questions, returned } }: { readonly desk: DeskData }) {
  return (
    <>
      {refused.length > 0 && (
        <Block title="Declined by a signer" total={refused.length} all="/agreements?state=declined">
          {refused.slice(0, 8).map(({ id, number, name, by, reason }) => (
            <li key={id} className="border-b border-hair/60 py-1 text-sm">
              <Link to={`/agreements/${id}`} className="tabular-nums hover:underline">
                {number} <span className="font-semibold">{name}</span>
              </Link>{' '}
              <span className="text-soft">
                {by}: “{reason}”
              </span>
            </li>
          ))}
        </Block>
      )}
      {questions.length > 0 && (
        <Block title="Questions for you" total={questions.length}>
          {questions.map(({ id, agreement, number, text, askedBy }) => (
            <li key={id} className="border-b border-hair/60 py-1 text-sm">
              <Link to={`/agreements/${agreement}`} className="hover:underline">
                <span className="tabular-nums">{number}</span> {askedBy}: “{text}”
              </Link>
            </li>
          ))}
        </Block>
      )}
      {returned.length > 0 && (
        <Block title="Returned" total={returned.length}>
          {returned.map(({ note, agreement }) => (
            <Line key={agreement.id} agreement={agreement} note={<>“{note}”</>} since={agreement.changedAt} />
          ))}
        </Block>
      )}
    </>
  )
}

/** What goes out next, and what is with signers. */
function ToSend({ desk: { cleared, clearedTotal, waiting, waitingTotal } }: { readonly desk: DeskData }) {
  return (
    <>
      {clearedTotal > 0 && (
        <Block title="Ready to send" total={clearedTotal} all="/agreements?state=cleared">
          {cleared.slice(0, 8).map((agreement) => (
            <Line key={agreement.id} agreement={agreement} note={null} since={agreement.changedAt} />
          ))}
        </Block>
      )}
      {waitingTotal > 0 && (
        <Block title="With signers" total={waitingTotal} all="/agreements?state=out">
          {waiting.slice(0, 12).map((agreement) => (
            <Line
              key={agreement.id}
              agreement={agreement}
              note={<>with {holder(agreement)}</>}
              since={agreement.changedAt}
            />
          ))}
        </Block>
      )}
    </>
  )
}

const holder = ({ thread }: AgreementSummary) =>
  thread
    .flat()
    .filter(({ status }) => status === 'holds')
    .map(({ label }) => label)
    .join(', ') || 'nobody; it is being sealed'

function Line({
  agreement,
  note,
  since,
  to = `/agreements/${agreement.id}`,
}: {
  readonly agreement: AgreementSummary
  readonly to?: string
  readonly note: ReactNode
  readonly since: string
}) {
  const navigate = useNavigate()
  const open = () => void navigate(to)
  return (
    <li>
      <button
        className="flex w-full flex-wrap items-center gap-x-3 border-b border-hair/60 py-1 text-left text-sm hover:bg-wash md:grid md:grid-cols-[7.5rem_minmax(0,1fr)_minmax(0,1.1fr)_8rem_6.5rem]"
        onClick={open}
      >
        <span className="tabular-nums">{agreement.number}</span>
        <span className="font-semibold max-md:order-first max-md:w-full md:truncate">{agreement.name}</span>
        <span className="text-soft max-md:order-last max-md:w-full md:truncate">{note}</span>
        <Thread columns={agreement.thread} />
        <span className="text-right text-soft max-md:ml-auto">
          <When at={since} />
        </span>
      </button>
    </li>
  )
}
