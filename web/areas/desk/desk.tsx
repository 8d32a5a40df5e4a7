import type { ReactNode } from 'react'
import { Link, useNavigate } from 'react-router'
import type { AgreementSummary } from '#contract/agreement.ts'
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
  const person = usePerson()
  const desk = useAnswer('desk', {}, { every: 15_000 })
  if (desk.isPending) return <Loading />
  if (desk.isError) return <Failed error={desk.error} retry={() => void desk.refetch()} />
  const { approvals, returned, cleared, clearedTotal, waiting, waitingTotal } = desk.data
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
      <h1 className="text-xl">Desk</h1>
      {desk.data.background.map(({ label, done, total }) => (
        <p key={label} role="status" className="mt-1 flex items-center gap-3 text-sm text-soft">
          {label}: {total ? `${count(done)} of ${count(total)} loaded` : 'about to be loaded'}
          <span
            role="progressbar"
            aria-label={label}
            aria-valuemin={0}
            aria-valuemax={total}
            aria-valuenow={done}
            className="h-1.5 w-48 bg-wash"
          >
            <span
              className="block h-full bg-petrol"
              style={{ width: `${total ? (100 * done) / total : 0}%` }}
            />
          </span>
        </p>
      ))}
      {nothing && (
        <Empty title="Nothing waits for you">
          {person.rights.includes('runs') ? (
            <>
              To make agreements, open{' '}
              <Link className="text-petrol underline" to="/records">
                a sheet
              </Link>{' '}
              and start a run.
            </>
          ) : (
            'What asks for your approval will stand here with its reason.'
          )}
        </Empty>
      )}
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
      {desk.data.holes.length > 0 && (
        <Block title="Nobody may approve these" total={desk.data.holes.length}>
          {desk.data.holes.map(({ id, number, name, approver }) => (
            <li key={`${id} ${approver}`} className="border-b border-hair/60 py-1 text-sm">
              <Link to={`/agreements/${id}`} className="tabular-nums hover:underline">
                {number} <span className="font-semibold">{name}</span>
              </Link>{' '}
              <span className="text-brick">
                waits for {approver}: nobody holds that post now, or may decide this one
              </span>
            </li>
          ))}
        </Block>
      )}
      {desk.data.undelivered.length > 0 && (
        <Block title="Not delivered" total={desk.data.undelivered.length}>
          {desk.data.undelivered.map(({ id, number, name, to, problem }) => (
            <li key={`${id} ${to}`} className="border-b border-hair/60 py-1 text-sm">
              <Link to={`/agreements/${id}`} className="tabular-nums hover:underline">
                {number} <span className="font-semibold">{name}</span>
              </Link>{' '}
              <span className="text-brick">
                the mail to {to} was refused: {problem}
              </span>
            </li>
          ))}
        </Block>
      )}
      <AnswersWaiting />
      <AfterAgreements />
      <Troubles />
      {desk.data.refused.length > 0 && (
        <Block title="Refused by a signer" total={desk.data.refused.length} all="/agreements?state=declined">
          {desk.data.refused.slice(0, 8).map(({ id, number, name, by, reason }) => (
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
      {desk.data.questions.length > 0 && (
        <Block title="Asked of you" total={desk.data.questions.length}>
          {desk.data.questions.map(({ id, agreement, number, text, askedBy }) => (
            <li key={id} className="border-b border-hair/60 py-1 text-sm">
              <Link to={`/agreements/${agreement}`} className="hover:underline">
                <span className="tabular-nums">{number}</span> {askedBy}: “{text}”
              </Link>
            </li>
          ))}
        </Block>
      )}
      {returned.length > 0 && (
        <Block title="Returned to be mended" total={returned.length}>
          {returned.map(({ note, agreement }) => (
            <Line key={agreement.id} agreement={agreement} note={<>“{note}”</>} since={agreement.changedAt} />
          ))}
        </Block>
      )}
      {clearedTotal > 0 && (
        <Block title="Cleared, to be sent" total={clearedTotal} all="/agreements?state=cleared">
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
    </div>
  )
}

const holder = ({ thread }: AgreementSummary) =>
  thread
    .flat()
    .filter(({ status }) => status === 'holds')
    .map(({ label }) => label)
    .join(', ') || 'nobody: it is being sealed'

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
