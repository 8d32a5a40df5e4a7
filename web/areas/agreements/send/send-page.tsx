import { useEffect, useRef, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import type { Agreement } from '#contract/agreement.ts'
import type { Sending } from '#contract/sending.ts'
import type { Answer } from '#contract/route.ts'
import type { Api } from '#contract/api.ts'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Hint } from '#web/parts/hint.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { Go } from './go.tsx'
import { InWhoseName } from './in-whose-name.tsx'
import { Introduction } from './introduction.tsx'
import { Preview } from './preview.tsx'
import { SendParties } from './send-parties.tsx'
import { TimeLine } from './time-line.tsx'
import { Words } from './words.tsx'

type Sheet = Answer<Api['sendingOf']>

/** How one agreement goes out: who, in which order, with which words, until when; and what each of them gets. */
export default function SendPage() {
  const { id = '' } = useParams()
  const agreement = useAnswer('agreement', { params: { id } })
  const sheet = useAnswer('sendingOf', { params: { id } })
  if (agreement.isPending || sheet.isPending) return <Loading />
  if (agreement.isError) return <Failed error={agreement.error} retry={() => void agreement.refetch()} />
  if (sheet.isError) return <Failed error={sheet.error} retry={() => void sheet.refetch()} />
  return <Form key={id} agreement={agreement.data} sheet={sheet.data} />
}

/** Milliseconds after the last change until it is kept. */
const PAUSE = 500

const settingsIn = ({ subject, message, signByDay, plan, parties, team }: Sheet): Sending => ({
  subject,
  message,
  signByDay,
  plan,
  parties,
  team,
})

/** What is set is kept a moment after each change; what cannot be kept stays on the page, with why. */
function useKept(id: string, sheet: Sheet) {
  const [sending, setSending] = useState<Sending>(() => {
    return settingsIn(sheet)
  })
  const [answer, setAnswer] = useState(sheet)
  const [state, setState] = useState<'kept' | 'waiting' | 'saving'>('kept')
  const [problem, setProblem] = useState<string | null>(null)
  const newest = useRef(sending)
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  const save = async (): Promise<boolean> => {
    clearTimeout(timer.current)
    const sent = newest.current
    setState('saving')
    try {
      const saved = await call('setSending', { params: { id }, body: sent })
      setAnswer(saved)
      setProblem(null)
      // New ones have their ids now; what was changed meanwhile stays changed.
      if (newest.current === sent) {
        const settings = settingsIn(saved)
        newest.current = settings
        setSending(settings)
        setState('kept')
        return true
      }
      return await save()
    } catch (error) {
      setProblem(problemText(error))
      setState('waiting')
      return false
    }
  }
  const change = (next: Sending) => {
    newest.current = next
    setSending(next)
    setState('waiting')
    clearTimeout(timer.current)
    timer.current = setTimeout(() => void save(), PAUSE)
  }
  useEffect(() => () => clearTimeout(timer.current), [])
  return { sending, answer, state, problem, change, save }
}

function Form({ agreement, sheet }: { readonly agreement: Agreement; readonly sheet: Sheet }) {
  const navigate = useNavigate()
  const say = useNotice()
  const kept = useKept(agreement.id, sheet)
  const { sending, answer, state, problem, change } = kept
  const [shown, setShown] = useState(0)
  const [busy, setBusy] = useState(false)
  const [unread, setUnread] = useState(false)
  const back = `/agreements/${agreement.id}`
  const closed = answer.refusal
  const take = async (said: { readonly subject: string; readonly message: string }) => {
    try {
      const { subject, message, unknown } = await call('fillMessage', {
        params: { id: agreement.id },
        body: said,
      })
      if (unknown.length)
        say(`This agreement has no field ${unknown.join(', ')}; its place is empty.`, 'fault')
      change({ ...sending, message, ...(subject.trim() ? { subject } : {}) })
    } catch (error) {
      say(problemText(error), 'fault')
    }
  }
  const send = async (at: string | null) => {
    setBusy(true)
    try {
      if (state !== 'kept' && !(await kept.save())) return
      const { refused, unread: notRead } = await call('sendAgreements', {
        body: { agreements: [agreement.id], unread, at },
      })
      if (refused[0]) {
        if (notRead) setUnread(true)
        return say(refused[0].problem, 'fault')
      }
      say(at ? 'It goes at that time.' : answer.notice ? 'Delivered.' : 'Sent.')
      void navigate(back)
    } catch (error) {
      say(problemText(error), 'fault')
    } finally {
      setBusy(false)
    }
  }
  return (
    <div className="flex h-full flex-col">
      <header className="flex shrink-0 items-center gap-4 border-b border-hair px-4 py-2.5">
        <div className="min-w-0">
          <h1 className="flex items-center gap-1 text-lg">
            Sending <Hint topic="how it goes out" />
          </h1>
          <p className="truncate text-sm text-soft">
            <Link to={back} className="hover:underline">
              {agreement.number} {agreement.name}
            </Link>
          </p>
        </div>
        <p role="status" className="ml-auto text-sm text-soft">
          {state === 'kept' ? 'saved' : state === 'saving' ? 'saving …' : problem ? '' : 'not saved yet'}
        </p>
        <Button onClick={() => void navigate(back)}>Back</Button>
        <Go
          label={answer.notice ? 'Deliver now' : 'Send for signature'}
          unread={unread}
          busy={busy}
          disabled={agreement.state !== 'cleared' || problem !== null}
          onGo={(at) => void send(at)}
        />
      </header>
      {closed && <p className="shrink-0 bg-ochre-wash px-4 py-1.5 text-sm text-ochre">{closed}</p>}
      {!closed && agreement.state !== 'cleared' && (
        <p className="shrink-0 bg-ochre-wash px-4 py-1.5 text-sm text-ochre">
          It is {agreement.state} and cannot go yet; what is set here stays with it.
        </p>
      )}
      {problem && (
        <p role="alert" className="shrink-0 bg-brick-wash px-4 py-1.5 text-sm text-brick">
          {problem} Not kept yet.
        </p>
      )}
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1.3fr)_minmax(0,1fr)]">
        <fieldset disabled={closed !== null} className="min-h-0 min-w-0 overflow-auto px-4 py-3">
          <SendParties
            parties={sending.parties}
            doubts={answer.previews.map(({ doubts }) => doubts)}
            shown={shown}
            onShow={setShown}
            onChange={(parties) => change({ ...sending, parties })}
            notice={answer.notice !== null}
          />
          <InWhoseName
            teams={answer.teams}
            team={sending.team}
            onChange={(team) => change({ ...sending, team })}
          />
          {answer.notice === null && (
            <>
              <h2 className="mt-6 mb-2 font-serif text-base font-semibold">Sign-by date</h2>
              <TimeLine
                sending={sending}
                signDays={answer.signDays}
                today={answer.today}
                onChange={(changed) => change({ ...sending, ...changed })}
              />
            </>
          )}
          <Words
            subject={sending.subject}
            message={sending.message}
            subjectOnly={answer.notice === 'mail text'}
            onChange={(said) => change({ ...sending, ...said })}
            onTake={(said) => void take(said)}
          />
          {answer.notice === null && <Introduction id={agreement.id} told={sheet.introduction} />}
        </fieldset>
        <Preview
          parties={sending.parties}
          previews={answer.previews}
          shown={Math.min(shown, answer.previews.length - 1)}
          onShow={setShown}
        />
      </div>
    </div>
  )
}
