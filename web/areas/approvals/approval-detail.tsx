import { useMutation } from '@tanstack/react-query'
import { ArrowLeft } from 'lucide-react'
import { useEffect, useState } from 'react'
import { Link } from 'react-router'
import type { Agreement } from '#contract/agreement.ts'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { isCombined, isTyping } from '#web/parts/keys.ts'
import { Failed, Loading } from '#web/parts/states.tsx'
import { Tabs } from '#web/parts/tabs.tsx'
import { WordChanges } from '#web/parts/signs/word-changes.tsx'
import { Thread } from '#web/parts/signs/thread.tsx'
import { hasPassed, When } from '#web/parts/signs/when.tsx'
import { DocumentPart } from '#web/areas/agreements/document-part.tsx'
import { Asked } from '#web/areas/agreements/questions.tsx'
import { Deciding, type Way } from './deciding.tsx'

type Waiting = Answer<Api['desk']>['approvals'][number]
type Step = Agreement['steps'][number]

const PARTS = ['document', 'what differs'] as const

/** One approval: why me, what differs, what was said before, the document, and the ways to answer. */
export function ApprovalDetail({
  waiting,
  onDecided,
}: {
  readonly waiting: Waiting
  readonly onDecided: () => void
}) {
  const { id } = waiting.agreement
  const agreement = useAnswer('agreement', { params: { id } })
  const say = useNotice()
  const [way, setWay] = useState<Way | null>(null)
  const [chosen, setPart] = useState<(typeof PARTS)[number] | null>(null)
  // Of what somebody changed by hand, that is what there is to look at.
  const part = chosen ?? (agreement.data?.byHand ? 'what differs' : 'document')
  const approve = useMutation({
    mutationFn: () =>
      call('decide', { params: { id, step: waiting.stepId }, body: { decision: 'approve', note: '' } }),
    onSuccess: () => {
      say(`${waiting.agreement.number} is approved.`)
      onDecided()
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event.target) || isCombined(event) || document.querySelector('[role=dialog]')) return
      const acts: Record<string, () => void> = {
        a: () => approve.mutate(),
        r: () => setWay('return'),
        q: () => setWay('ask'),
        h: () => setWay('hand over'),
        d: () => setPart(part === 'document' ? 'what differs' : 'document'),
      }
      const act = acts[event.key]
      if (!act) return
      act()
      event.preventDefault()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  })
  if (agreement.isPending) return <Loading />
  if (agreement.isError) return <Failed error={agreement.error} retry={() => void agreement.refetch()} />
  const { data } = agreement
  const step = data.steps.find((each) => each.id === waiting.stepId)
  if (!step) return <Loading />
  return (
    <section aria-label={data.name} className="flex h-full min-h-0 flex-col">
      <div className="shrink-0 border-b border-hair px-4 py-3">
        <div className="flex items-start gap-3">
          <Link to="/approvals" aria-label="All that waits" className="p-1 text-soft md:hidden">
            <ArrowLeft size={18} />
          </Link>
          <div className="min-w-0">
            <h2 className="truncate text-lg">{data.name}</h2>
            <p className="text-sm text-soft">
              <Link to={`/agreements/${id}`} className="text-petrol underline">
                {data.number}
              </Link>
              , made by {data.createdBy}, revision {data.revision}
            </p>
          </div>
          <span className="ml-auto max-md:hidden">
            <Thread columns={data.thread} large />
          </span>
        </div>
        <WhyMe step={step} standsInFor={waiting.standsInFor} />
        <div className="mt-2 flex flex-wrap gap-2">
          <Button kind="main" busy={approve.isPending} title="a" onClick={() => approve.mutate()}>
            Approve
          </Button>
          <Button title="r" onClick={() => setWay('return')}>
            Return
          </Button>
          <Button title="q" onClick={() => setWay('ask')}>
            Ask
          </Button>
          <Button kind="quiet" title="h" onClick={() => setWay('hand over')}>
            Hand over
          </Button>
        </div>
      </div>
      <Before agreement={data} step={step} />
      <div className="shrink-0 border-b border-hair px-3 py-1">
        <Tabs label="Parts" tabs={PARTS} chosen={part} onChoose={setPart} />
      </div>
      <div className="min-h-0 flex-1 overflow-auto">
        {part === 'document' ? <DocumentPart agreement={data} /> : <WhatDiffers id={id} />}
      </div>
      {way && (
        <Deciding
          way={way}
          agreement={data}
          step={step}
          onClose={() => setWay(null)}
          onDone={(left) => {
            setWay(null)
            if (left) onDecided()
          }}
        />
      )}
    </section>
  )
}

/** Why it landed here: the values, the row of the table, and for whom. */
function WhyMe({ step, standsInFor }: { readonly step: Step; readonly standsInFor: string | null }) {
  const overdue = hasPassed(step.dueAt)
  return (
    <div className="mt-2 border-l-2 border-ochre pl-3 text-sm">
      <p>
        {standsInFor ? `In place of ${standsInFor}, ` : ''}
        {standsInFor ? 'asked' : 'Asked'} of {step.approver}
        {step.handedTo && `, handed to ${step.handedTo}`}, because{' '}
        <span className="font-semibold">{step.reason}</span>.
      </p>
      <p className="text-soft">
        {step.reasons.map(({ table, name, row, edition }, i) => (
          <span key={i}>
            {i > 0 && ', '}
            row {row} of{' '}
            <Link to={`/rules/${table}?view=editions`} className="text-petrol underline">
              {name}
            </Link>
            , edition {edition}
          </span>
        ))}
        {step.dueAt && (
          <span className={overdue ? 'text-brick' : ''}>
            {step.reasons.length > 0 && '; '}
            {overdue ? 'overdue since ' : 'due '}
            <When at={step.dueAt} />
          </span>
        )}
      </p>
    </div>
  )
}

/** Approvals and remarks before this one, and what was asked. */
function Before({ agreement, step }: { readonly agreement: Agreement; readonly step: Step }) {
  const told = agreement.steps.filter(
    (each) => each.id !== step.id && (each.state === 'approved' || each.state === 'returned'),
  )
  if (told.length + agreement.questions.length === 0) return null
  return (
    <div className="max-h-44 shrink-0 overflow-auto border-b border-hair px-4 py-2 text-sm">
      <ul>
        {told.map((each) => (
          <li key={each.id} className={each.present ? '' : 'text-soft'}>
            <span className="font-semibold">{each.approver}</span>: {each.state} by {each.decidedBy}
            {each.decidedFor && ` for ${each.decidedFor}`}, {each.decidedAt && <When at={each.decidedAt} />}
            {each.note && <span className="border-l-2 border-hair pl-2"> “{each.note}”</span>}
          </li>
        ))}
      </ul>
      <Asked agreement={agreement} />
    </div>
  )
}

/** What is not the standard wording, and what is not as it was with this customer. */
function WhatDiffers({ id }: { readonly id: string }) {
  const found = useAnswer('differences', { params: { id } })
  if (found.isPending) return <Loading />
  if (found.isError) return <Failed error={found.error} retry={() => void found.refetch()} />
  const { standard, last } = found.data
  return (
    <div className="max-w-3xl p-4 text-sm">
      <h3 className="font-serif text-base font-semibold">Against the standard wording</h3>
      {standard === null ? (
        <p className="mt-1 text-soft">It has the wording of its template.</p>
      ) : standard.length === 0 ? (
        <p className="mt-1 text-soft">Changed by hand, with the same words for this customer.</p>
      ) : (
        <Paragraphs paragraphs={standard} />
      )}
      <h3 className="mt-5 font-serif text-base font-semibold">
        Against the last agreement with this customer
      </h3>
      {!last ? (
        <p className="mt-1 text-soft">There was none from this template.</p>
      ) : (
        <>
          <p className="mt-1 text-soft">
            <Link to={`/agreements/${last.id}`} className="text-petrol underline">
              {last.number}
            </Link>
            , <When at={last.at} />
          </p>
          <table className="mt-2">
            <tbody>
              {last.values.map(({ label, before, after }) => (
                <tr key={label} className="border-b border-hair/60">
                  <th scope="row" className="py-0.5 pr-4 text-left font-normal text-soft">
                    {label}
                  </th>
                  <td className="pr-4">
                    {before ? (
                      <del className="text-brick">{before}</del>
                    ) : (
                      <span className="text-soft">nothing</span>
                    )}
                  </td>
                  <td>
                    {after ? (
                      <ins className="text-moss">{after}</ins>
                    ) : (
                      <span className="text-soft">nothing</span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {last.paragraphs.length === 0 ? (
            <p className="mt-2 text-soft">The words are the same.</p>
          ) : (
            <Paragraphs paragraphs={last.paragraphs} />
          )}
        </>
      )}
    </div>
  )
}

const Paragraphs = ({
  paragraphs,
}: {
  readonly paragraphs: Answer<Api['differences']>['standard'] & object
}) => (
  <div className="mt-2 font-serif">
    {paragraphs.map(({ words }, i) => (
      <p key={i} className="mt-2 border-l border-hair pl-3">
        <WordChanges words={words} context={12} />
      </p>
    ))}
  </div>
)
