import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import type { Agreement } from '#contract/agreement.ts'
import type { Right } from '#contract/person.ts'
import { call, problemText } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { usePerson } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { TextArea } from '#web/parts/input.tsx'

type Kind = 'main' | 'plain' | 'quiet' | 'danger'

/** One way to go on with a move: what is called, and what is said when it is done. */
interface Answer {
  readonly label: string
  readonly kind: Kind
  readonly done: string
  readonly call: (agreement: Agreement, note: string) => Promise<unknown>
}

/** What is asked before a move, and what can be answered; `note`: what has to be written for it. */
interface Question {
  readonly title: string
  readonly words?: string
  readonly note?: string
  readonly stay?: string
  readonly answers: readonly Answer[]
}

/** What can be done with an agreement, to whom it is offered, and what comes before it. */
interface Offer {
  readonly label: string
  readonly kind: Kind
  readonly right: Right
  readonly offered: (agreement: Agreement) => boolean
  /** Done at once, or after a question. */
  readonly next: (agreement: Agreement) => Answer | Question
}

const myStep = ({ steps }: Agreement) => steps.find(({ mine }) => mine)

const decide =
  (decision: 'approve' | 'return'): Answer['call'] =>
  (agreement, note) =>
    call('decide', {
      params: { id: agreement.id, step: myStep(agreement)!.id },
      body: { decision, ...(note ? { note } : {}) },
    })

const send =
  (unread: boolean): Answer['call'] =>
  async ({ id }) => {
    const { refused } = await call('sendAgreements', { body: { agreements: [id], unread } })
    if (refused[0]) throw new Error(refused[0].problem)
  }

const readAndSend: Answer['call'] = async (agreement, note) => {
  const { origin, wording } = agreement
  // Only a run's wordings are read there; another's was read by whoever made it.
  if (origin.kind === 'row')
    await call('tickWording', { params: { id: origin.run }, body: { key: wording, read: true } })
  await send(false)(agreement, note)
}

/** Every move of the page, in the order of its buttons; the server decides by itself whether one can be made. */
const OFFERS: readonly Offer[] = [
  {
    label: 'Return',
    kind: 'plain',
    right: 'approve',
    offered: (agreement) => myStep(agreement) !== undefined,
    next: () => ({
      title: 'Return to the author',
      note: 'Why it goes back',
      stay: 'Cancel',
      answers: [{ label: 'Return', kind: 'main', done: 'Returned.', call: decide('return') }],
    }),
  },
  {
    label: 'Approve',
    kind: 'main',
    right: 'approve',
    offered: (agreement) => myStep(agreement) !== undefined,
    next: () => ({ label: 'Approve', kind: 'main', done: 'Approved.', call: decide('approve') }),
  },
  {
    label: 'Request approval again',
    kind: 'plain',
    right: 'runs',
    // One that was taken back goes out again as it is, or after it was changed.
    offered: ({ state, revision }) => state === 'returned' || (state === 'draft' && revision > 1),
    next: ({ state }) => ({
      label: 'Request approval again',
      kind: 'plain',
      done: state === 'draft' ? 'Approval requested, if any is still needed.' : 'Approval requested again.',
      call: ({ id }) => call('routeAgain', { params: { id } }),
    }),
  },
  {
    label: 'Send for signature',
    kind: 'main',
    right: 'send',
    offered: ({ moves, notice }) => notice === null && moves.includes('send'),
    next: ({ wordingRead }) =>
      wordingRead
        ? { label: 'Send', kind: 'main', done: 'Sent.', call: send(false) }
        : {
            title: 'This wording is not marked as read',
            words: 'It is not marked as read in the run. If you have read it here, mark it as read now.',
            answers: [
              { label: 'Send unread', kind: 'danger', done: 'Sent unread.', call: send(true) },
              { label: 'I have read it, send', kind: 'main', done: 'Sent.', call: readAndSend },
            ],
          },
  },
  {
    label: 'Deliver',
    kind: 'main',
    right: 'send',
    offered: ({ moves, notice }) => notice !== null && moves.includes('deliver'),
    next: ({ wordingRead }) => ({
      title: 'Deliver it now',
      words: `All recipients get the email at once.${wordingRead ? '' : ' Its wording is not marked as read yet.'}`,
      answers: [
        {
          label: wordingRead ? 'Deliver' : 'Deliver unread',
          kind: 'main',
          done: 'Delivered.',
          call: send(!wordingRead),
        },
      ],
    }),
  },
  {
    label: 'Do not go by itself',
    kind: 'plain',
    right: 'send',
    offered: ({ goesAt }) => goesAt !== null,
    next: () => ({
      label: 'Hold',
      kind: 'plain',
      done: 'It is no longer scheduled. Send it when you are ready.',
      call: ({ id }) => call('holdAgreement', { params: { id } }),
    }),
  },
]

/** What can be done with an agreement now, by whoever looks at it. */
export function Moves({ agreement }: { readonly agreement: Agreement }) {
  const { rights } = usePerson()
  const say = useNotice()
  const [asked, setAsked] = useState<Question | null>(null)
  const [note, setNote] = useState('')
  const act = useMutation({
    mutationFn: (answer: Answer) => answer.call(agreement, note),
    onSuccess: (_, { done }) => {
      setAsked(null)
      setNote('')
      say(done)
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  const begin = (offer: Offer) => {
    const next = offer.next(agreement)
    if ('title' in next) setAsked(next)
    else act.mutate(next)
  }
  return (
    <div className="ml-auto flex gap-2">
      {OFFERS.filter(({ right, offered }) => rights.includes(right) && offered(agreement)).map((offer) => (
        <Button key={offer.label} kind={offer.kind} disabled={act.isPending} onClick={() => begin(offer)}>
          {offer.label}
        </Button>
      ))}
      {asked && (
        <Dialog title={asked.title} open onClose={() => setAsked(null)}>
          <form
            onSubmit={(event) => {
              event.preventDefault()
              act.mutate(asked.answers.at(-1)!)
            }}
          >
            {asked.words && <p>{asked.words}</p>}
            {asked.note && (
              <TextArea
                autoFocus
                rows={3}
                aria-label={asked.note}
                placeholder={asked.note}
                value={note}
                onChange={(event) => setNote(event.target.value)}
              />
            )}
            <div className="mt-4 flex justify-end gap-2">
              {asked.stay && <Button onClick={() => setAsked(null)}>{asked.stay}</Button>}
              {asked.answers.map((answer, i) => {
                const last = i === asked.answers.length - 1
                return (
                  <Button
                    key={answer.label}
                    kind={answer.kind}
                    type={last ? 'submit' : 'button'}
                    busy={act.isPending}
                    disabled={asked.note !== undefined && !note.trim()}
                    onClick={last ? undefined : () => act.mutate(answer)}
                  >
                    {answer.label}
                  </Button>
                )
              })}
            </div>
          </form>
        </Dialog>
      )}
    </div>
  )
}
