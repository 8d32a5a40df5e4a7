import { useMutation } from '@tanstack/react-query'
import { useEffect, useMemo, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Hint } from '#web/parts/hint.tsx'
import { isCombined, isTyping } from '#web/parts/keys.ts'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { hasPassed, plural, When } from '#web/parts/signs/when.tsx'
import { ApprovalDetail } from './approval-detail.tsx'

type Waiting = Answer<Api['desk']>['approvals'][number]

/** What waits for my approval: the list, the oldest first, and one of them beside it. j and k go on, x marks for many at once. */
export default function Approvals() {
  const { step = '' } = useParams()
  const navigate = useNavigate()
  const desk = useAnswer('desk', {}, { every: 15_000 })
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set())
  const say = useNotice()
  const approvals = useMemo(() => desk.data?.approvals ?? [], [desk.data])
  const at = approvals.findIndex(({ stepId }) => stepId === step)
  const open = (waiting: Waiting | undefined) => {
    if (waiting) void navigate(`/approvals/${waiting.stepId}`)
  }
  const toggle = (id: string) =>
    setMarked((before) => {
      const next = new Set(before)
      if (!next.delete(id)) next.add(id)
      return next
    })
  const many = useMutation({
    mutationFn: () =>
      call('approveMany', {
        body: {
          steps: approvals
            .filter(({ stepId }) => marked.has(stepId))
            .map(({ stepId, agreement }) => ({ step: stepId, agreement: agreement.id })),
        },
      }),
    onSuccess: ({ approved, refused }) => {
      setMarked(new Set())
      if (refused.length === 0) return say(`${plural(approved, 'approval')} given.`)
      say(
        `${plural(approved, 'approval')} given. ${refused.length} not: ${refused[0]!.number}: ${refused[0]!.problem}`,
        'fault',
      )
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event.target) || isCombined(event) || document.querySelector('[role=dialog]')) return
      if (event.key === 'j') open(approvals[Math.min(approvals.length - 1, at + 1)])
      else if (event.key === 'k') open(approvals[Math.max(0, at - 1)])
      else if (event.key === 'x' && at >= 0) toggle(step)
      else return
      event.preventDefault()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  })
  if (desk.isPending) return <Loading />
  if (desk.isError) return <Failed error={desk.error} retry={() => void desk.refetch()} />
  const chosen = marked.size > 0 ? approvals.filter(({ stepId }) => marked.has(stepId)).length : 0
  const next = () => {
    const after = approvals[at + 1] ?? approvals[at - 1]
    void navigate(after ? `/approvals/${after.stepId}` : '/approvals', { replace: true })
  }
  return (
    <div className="flex h-full min-h-0">
      <section
        aria-label="For you to approve"
        className={`flex w-full shrink-0 flex-col border-r border-hair md:w-96 ${step ? 'max-md:hidden' : ''}`}
      >
        <div className="flex items-center gap-2 border-b border-hair px-4 py-2">
          <h1 className="text-xl">Approvals</h1>
          <Hint topic="approvals" />
          <Link to="/absences" className="ml-auto text-sm text-petrol hover:underline">
            Absences
          </Link>
        </div>
        {chosen > 0 && (
          <div className="flex items-center gap-2 border-b border-hair bg-petrol-wash px-4 py-1.5 text-sm">
            {plural(chosen, 'approval')} marked
            <Button kind="main" className="ml-auto" busy={many.isPending} onClick={() => many.mutate()}>
              Approve them
            </Button>
          </div>
        )}
        {approvals.length === 0 && (
          <Empty title="Nothing waits for your approval">It will stand here with its reason.</Empty>
        )}
        <ul className="min-h-0 flex-1 overflow-auto">
          {approvals.map((waiting) => (
            <WaitingLine
              key={waiting.stepId}
              waiting={waiting}
              current={waiting.stepId === step}
              marked={marked.has(waiting.stepId)}
              onMark={() => toggle(waiting.stepId)}
            />
          ))}
        </ul>
      </section>
      <div className={`min-w-0 flex-1 ${step ? '' : 'max-md:hidden'}`}>
        {at >= 0 ? (
          <ApprovalDetail key={step} waiting={approvals[at]!} onDecided={next} />
        ) : step ? (
          <Empty title="This does not wait for you any more">
            It has been decided, or the agreement was changed since.{' '}
            <Link to="/approvals" className="text-petrol underline">
              What waits for you
            </Link>
          </Empty>
        ) : (
          approvals.length > 0 && <Empty title="Choose one to see why it is asked of you" />
        )}
      </div>
    </div>
  )
}

function WaitingLine({
  waiting: { stepId, agreement, reason, since, dueAt, standsInFor },
  current,
  marked,
  onMark,
}: {
  readonly waiting: Waiting
  readonly current: boolean
  readonly marked: boolean
  readonly onMark: () => void
}) {
  const overdue = hasPassed(dueAt)
  return (
    <li
      className={`flex items-start gap-2 border-b border-hair/60 px-3 py-2 text-sm ${current ? 'bg-petrol-wash' : 'hover:bg-wash'}`}
    >
      <input
        type="checkbox"
        className="mt-1 size-4"
        aria-label={`Mark ${agreement.number}`}
        checked={marked}
        onChange={onMark}
      />
      <Link to={`/approvals/${stepId}`} aria-current={current} className="min-w-0 flex-1">
        <span className="flex gap-2">
          <span className="truncate font-semibold">{agreement.name}</span>
          <span className={`ml-auto shrink-0 ${overdue ? 'text-brick' : 'text-soft'}`}>
            {overdue ? 'overdue' : <When at={since} />}
          </span>
        </span>
        <span className="line-clamp-2 text-soft">{reason}</span>
        {standsInFor && <span className="text-ochre">for {standsInFor}</span>}
      </Link>
    </li>
  )
}
