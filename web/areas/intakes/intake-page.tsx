import { Redo2, Undo2 } from 'lucide-react'
import { useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { call, problemText, useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { renew } from '#web/api/queries.ts'
import { useMay } from '#web/frame/person.ts'
import { useDraft } from '#web/drafts/use-draft.ts'
import { useFilters } from '#web/frame/use-filters.ts'
import { Button } from '#web/parts/button.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { SureButton } from '#web/parts/sure-button.tsx'
import { Tabs } from '#web/parts/tabs.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { AnswersPart } from './answers-part.tsx'
import { AfterPart } from './after-part.tsx'
import { draftOf } from './open-drafts.ts'
import { LinksPart } from './links-part.tsx'
import type { Intake } from './part-props.ts'
import { QuestionsPart } from './questions-part.tsx'

const TABS = ['questions', 'after submission', 'links', 'responses'] as const
type Tab = (typeof TABS)[number]

/** One intake form: what it asks, what happens after submission, who can reach it, and the responses. */
export default function IntakePage() {
  const { id = '' } = useParams()
  const intake = useAnswer('intake', { params: { id } })
  if (intake.isPending) return <Loading />
  if (intake.isError) return <Failed error={intake.error} retry={() => void intake.refetch()} />
  return <Opened key={id} intake={intake.data} />
}

function Opened({ intake }: { readonly intake: Intake }) {
  const { id } = intake
  const { answer: openAnswer } = useParams()
  const writer = useMay('templates')
  const { search, to } = useFilters()
  const navigate = useNavigate()
  const say = useNotice()
  const [draft] = useState(() => draftOf(id, intake.content, intake.version))
  const { content: form, steps } = useDraft(draft)
  const changed = draft.unsaved
  const [problems, setProblems] = useState(intake.problems)
  const [busy, setBusy] = useState(false)
  const drop = useCall('dropIntake', () => void navigate('/templates/intakes'))
  const tab: Tab = openAnswer ? 'responses' : (TABS.find((each) => each === search.get('tab')) ?? 'questions')
  const keep = async () => {
    setBusy(true)
    try {
      const saved = await call('saveIntake', {
        params: { id },
        body: { content: form, version: draft.version },
      })
      draft.savedAs(form, saved.version, new Date().toISOString())
      setProblems(saved.problems)
      await renew('intake', 'intakes')
      say('Intake form saved. Respondents see it from now on.')
    } catch (error) {
      say(problemText(error), 'fault')
    }
    setBusy(false)
  }
  const [question, setQuestion] = useState<string | null>(null)
  /** Where the first of the problems can be mended: at its question, or where what concerns all of it stands. */
  const seeTo = () => {
    const [first] = problems
    setQuestion(first?.question ?? null)
    if (openAnswer) void navigate(`/intakes/${id}`)
    else to({ tab: '' })
  }
  return (
    <div
      className="flex h-full flex-col"
      onKeyDown={(event) => {
        if (!(event.ctrlKey || event.metaKey)) return
        const key = event.key.toLowerCase()
        if (key === 's') void keep()
        else if (key === 'z') (event.shiftKey ? draft.redo : draft.undo)()
        else return
        event.preventDefault()
      }}
    >
      <div className="flex items-center gap-3 border-b border-hair px-4 pt-3 pb-2">
        <div className="min-w-0">
          <Link to="/templates/intakes" className="block text-xs text-petrol hover:underline">
            Intake forms
          </Link>
          <h1 className="truncate text-xl">{form.title}</h1>
        </div>
        <span className="ml-4">
          <Tabs
            label="Parts of the form"
            tabs={TABS}
            chosen={tab}
            onChoose={(next) =>
              openAnswer
                ? void navigate(`/intakes/${id}?tab=${next}`)
                : to({ tab: next === 'questions' ? '' : next })
            }
          />
        </span>
        <span className="ml-auto flex items-center gap-1.5">
          {problems.length > 0 && !changed && (
            <button className="text-sm text-brick underline" onClick={seeTo}>
              {plural(problems.length, 'error')} to fix
            </button>
          )}
          {writer && (
            <>
              <Button kind="quiet" aria-label="Undo" disabled={steps.undo === 0} onClick={draft.undo}>
                <Undo2 size={15} />
              </Button>
              <Button kind="quiet" aria-label="Redo" disabled={steps.redo === 0} onClick={draft.redo}>
                <Redo2 size={15} />
              </Button>
              <SureButton
                className="text-sm"
                label="Archive"
                sure="Archive: its links close"
                onSure={() => drop.mutate({ params: { id } })}
              />
              <Button kind="main" busy={busy} disabled={!changed} onClick={() => void keep()}>
                Save form
              </Button>
            </>
          )}
        </span>
      </div>
      {tab === 'questions' && (
        <QuestionsPart
          intake={intake}
          form={form}
          draft={draft}
          problems={problems}
          editable={writer}
          chosen={question}
          onChoose={setQuestion}
        />
      )}
      {tab === 'after submission' && (
        <AfterPart intake={intake} form={form} draft={draft} problems={problems} editable={writer} />
      )}
      {tab === 'links' && <LinksPart intake={intake} />}
      {tab === 'responses' && <AnswersPart form={id} open={openAnswer ?? null} />}
    </div>
  )
}
