import type { Agreement } from '#contract/agreement.ts'
import { call } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { NoteForm } from '#web/parts/form/note-form.tsx'
import { When } from '#web/parts/signs/when.tsx'

/** What was asked about an agreement, answered in its place. */
export function Asked({ agreement }: { readonly agreement: Agreement }) {
  const may = useMay('runs')
  if (agreement.questions.length === 0) return null
  return (
    <ul className="mt-1">
      {agreement.questions.map((asked) => (
        <li key={asked.id} className="border-l-2 border-hair py-0.5 pl-2">
          <span className="font-semibold">{asked.askedBy}</span> asked <When at={asked.askedAt} />: “
          {asked.text}”
          {asked.answer !== null ? (
            <p>
              <span className="font-semibold">{asked.answeredBy}</span> answered: “{asked.answer}”
            </p>
          ) : may ? (
            <AnswerIt agreement={agreement.id} question={asked.id} />
          ) : (
            <p className="text-soft">not answered yet</p>
          )}
        </li>
      ))}
    </ul>
  )
}

function AnswerIt({ agreement, question }: { readonly agreement: string; readonly question: string }) {
  const say = useNotice()
  return (
    <NoteForm
      label="Answer"
      submit="Answer"
      ask="Enter an answer."
      send={(text) => call('answerQuestion', { params: { id: agreement, question }, body: { text } })}
      onDone={() => say('Answer sent.')}
    />
  )
}

/** What parties asked from their page, with the answers; an answer goes to them by mail. */
export function AskedByParties({ agreement }: { readonly agreement: Agreement }) {
  const may = useMay('send')
  if (agreement.partyQuestions.length === 0) return null
  return (
    <section aria-label="Questions of the parties" className="mt-4">
      <h3 className="mb-1 font-serif text-base font-semibold">Questions of the parties</h3>
      <ul>
        {agreement.partyQuestions.map((asked) => (
          <li key={asked.id} className="border-b border-hair/60 py-1.5">
            <p>
              <span className="font-semibold">{asked.name}</span> ({asked.label}) asked{' '}
              <When at={asked.askedAt} />: “{asked.text}”
            </p>
            {asked.passage && <p className="border-l-2 border-hair pl-2 text-soft">{asked.passage}</p>}
            {asked.answer !== null ? (
              <p>
                <span className="font-semibold">{asked.answeredBy}</span> answered: “{asked.answer}”
              </p>
            ) : may ? (
              <AnswerParty agreement={agreement.id} question={asked.id} />
            ) : (
              <p className="text-soft">not answered yet</p>
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}

function AnswerParty({ agreement, question }: { readonly agreement: string; readonly question: string }) {
  const say = useNotice()
  return (
    <NoteForm
      label="Answer"
      submit="Answer"
      ask="Enter an answer."
      send={(answer) => call('answerParty', { params: { id: agreement, question }, body: { answer } })}
      onDone={() => say('Answer sent by email.')}
    />
  )
}
