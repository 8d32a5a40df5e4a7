import { ownName } from '#core/languages/language.ts'
import { X } from 'lucide-react'
import { useState } from 'react'
import { Link } from 'react-router'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { type AgreementState, stateWord } from '#core/agreement/states.ts'
import { type Answers, readAnswers } from '#core/intake/answers.ts'
import { describeAnswers } from '#core/intake/describe.ts'
import { speaks } from '#core/languages/all.ts'
import { PLURALS } from '#core/records/kinds.ts'
import { QuestionPart } from '#web/areas/answering/question.tsx'
import { Speaking } from '#web/areas/signing/words.tsx'
import { address, useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { SureButton } from '#web/parts/sure-button.tsx'
import { When } from '#web/parts/signs/when.tsx'
import { AnswerState } from './answer-state.tsx'

/** One response: what was entered, what it became, and what somebody has to say to it. */
export function AnswerDetail({ id, form }: { readonly id: string; readonly form: string }) {
  const answer = useAnswer('answer', { params: { id } }, { every: 4000 })
  const say = useNotice()
  const drop = useCall('dropAnswer', () => say('Response rejected.'))
  const [mending, setMending] = useState(false)
  if (answer.isPending) return <Loading />
  if (answer.isError) return <Failed error={answer.error} retry={() => void answer.refetch()} />
  const { data } = answer
  const asked = { form: data.content, outline: data.outline }
  return (
    <section
      aria-label={data.name || data.email || 'Response'}
      className="min-h-0 overflow-auto border-l border-hair px-5 py-3 text-sm"
    >
      <div className="flex items-baseline gap-3">
        <h2 className="min-w-0 flex-1 truncate text-xl">{data.name || data.email || 'no name'}</h2>
        <Link to={`/intakes/${form}?tab=answers`} aria-label="Close" className="p-1 text-soft hover:text-ink">
          <X size={16} />
        </Link>
      </div>
      <p className="text-soft">
        <AnswerState answer={data} />,{' '}
        {data.by === 'open link' ? 'by a public link' : `invited at ${data.email}`}, in{' '}
        {ownName(data.language)}
        {data.handedInAt && (
          <>
            , submitted <When at={data.handedInAt} /> from {data.address}
          </>
        )}
      </p>
      {data.problems.map((problem) => (
        <p key={`${problem.question} ${problem.message}`} className="mt-2 border-l-2 border-brick pl-3">
          {problem.message}
        </p>
      ))}
      <Differences answer={data} />
      <Became answer={data} />
      {mending ? (
        <Mend
          answers={data.answers}
          version={data.version}
          id={id}
          asked={asked}
          onDone={() => setMending(false)}
        />
      ) : (
        <>
          <Given asked={asked} answers={data.answers} />
          <p className="mt-4 flex items-center gap-4">
            {data.state === 'needs a hand' && (
              <Button kind="main" onClick={() => setMending(true)}>
                Correct response
              </Button>
            )}
            {data.state !== 'made' && data.state !== 'put aside' && (
              <SureButton
                label="Reject"
                sure="Reject: nothing is made of it"
                onSure={() => drop.mutate({ params: { id } })}
              />
            )}
          </p>
        </>
      )}
    </section>
  )
}

type Detail = Answer<Api['answer']>

/** What a response says that the record says otherwise: taken over by somebody here, or not. */
function Differences({ answer }: { readonly answer: Detail }) {
  const { id, record, outcome, differences } = answer
  const say = useNotice()
  const settle = useCall('settleAnswer', () => say('Response settled.'))
  if (outcome !== 'changed' || !record) return null
  return (
    <div className="mt-3 border-l-2 border-ochre pl-3">
      <p>
        {differences.length
          ? `${record.name} is known, and the response differs. The record is not changed yet.`
          : `${record.name} is known, and files came with the response. They are not with the record yet.`}
      </p>
      {differences.length > 0 && (
        <table className="my-2 w-full">
          <thead>
            <tr className="text-left text-xs text-soft">
              <th className="font-normal">Field</th>
              <th className="font-normal">Record</th>
              <th className="font-normal">Response</th>
            </tr>
          </thead>
          <tbody>
            {differences.map(({ field, before, after }) => (
              <tr key={field} className="border-t border-hair/60 align-top">
                <td className="py-0.5 pr-3">{field}</td>
                <td className="py-0.5 pr-3 wrap-anywhere">{before || '—'}</td>
                <td className="py-0.5 font-semibold wrap-anywhere">{after || '—'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <span className="flex gap-2">
        <Button
          busy={settle.isPending}
          onClick={() => settle.mutate({ params: { id }, body: { take: true } })}
        >
          {differences.length ? 'Update record' : 'Add files to record'}
        </Button>
        <Button
          kind="quiet"
          busy={settle.isPending}
          onClick={() => settle.mutate({ params: { id }, body: { take: false } })}
        >
          Keep record unchanged
        </Button>
      </span>
    </div>
  )
}

/** The record and agreements that a response became, and the files that came with it. */
function Became({ answer: { id, record, agreements, files } }: { readonly answer: Detail }) {
  return (
    <>
      {record && (
        <p className="mt-3">
          Record:{' '}
          <Link to={`/records/${PLURALS[record.kind]}/${record.id}`} className="text-petrol hover:underline">
            {record.name}
          </Link>
        </p>
      )}
      {agreements.length > 0 && (
        <ul className="mt-2" aria-label="Agreements of this response">
          {agreements.map((each) => (
            <li key={each.id} className="border-b border-hair/60 py-1">
              <Link to={`/agreements/${each.id}`} className="flex gap-3 hover:underline">
                <span className="tabular-nums">{each.number}</span>
                <span className="min-w-0 flex-1 truncate">{each.name}</span>
                <span>{stateWord(each.state as AgreementState)}</span>
              </Link>
            </li>
          ))}
        </ul>
      )}
      {files.length > 0 && (
        <ul className="mt-2" aria-label="Files of this response">
          {files.map(({ sha256, name }) => (
            <li key={sha256}>
              <a
                className="text-petrol hover:underline"
                href={address('answerFile', { params: { id, sha256 } })}
              >
                {name}
              </a>
            </li>
          ))}
        </ul>
      )}
    </>
  )
}

function Given({
  asked,
  answers,
}: {
  readonly asked: Parameters<typeof describeAnswers>[0]
  readonly answers: Answers
}) {
  return (
    <dl className="mt-4">
      {describeAnswers(asked, answers, speaks('en')).map(({ question, label, text }) => (
        <div
          key={question}
          className="grid grid-cols-[12rem_minmax(0,1fr)] gap-4 border-b border-hair/60 py-1"
        >
          <dt className="text-right text-soft wrap-anywhere">{label}</dt>
          <dd className="wrap-anywhere whitespace-pre-wrap">
            {text ?? <span className="text-soft">not answered</span>}
          </dd>
        </div>
      ))}
    </dl>
  )
}

const nowhere = { begin: () => Promise.reject(new Error('Files come from outside.')) }

/** The answer as it was given, to be corrected; it is made anew from what stands here then. */
function Mend({
  id,
  answers: given,
  version,
  asked,
  onDone,
}: {
  readonly id: string
  readonly answers: Answers
  readonly version: number
  readonly asked: Parameters<typeof readAnswers>[0]
  readonly onDone: () => void
}) {
  const [answers, setAnswers] = useState(given)
  const say = useNotice()
  const mend = useCall('mendAnswer', () => {
    say('The agreements are being made.')
    onDone()
  })
  const read = readAnswers(asked, answers, speaks('en'))
  return (
    <Speaking language="en">
      {read.asked
        .filter(({ kind }) => kind === 'value')
        .map((question) => (
          <QuestionPart
            key={question.id}
            question={question}
            form={asked.form}
            field={asked.outline.find(({ name }) => name === question.id)}
            answering={nowhere}
            answer={answers[question.id]}
            problems={read.problems.filter((each) => each.question === question.id)}
            onLeave={() => undefined}
            onAnswer={(answer) =>
              setAnswers(({ [question.id]: _before, ...others }) =>
                answer === null ? others : { ...others, [question.id]: answer },
              )
            }
          />
        ))}
      <p className="mt-5 flex gap-2">
        <Button
          kind="main"
          busy={mend.isPending}
          disabled={read.problems.length > 0}
          onClick={() => mend.mutate({ params: { id }, body: { answers, version } })}
        >
          Make agreements
        </Button>
        <Button kind="quiet" onClick={onDone}>
          Cancel
        </Button>
      </p>
    </Speaking>
  )
}
