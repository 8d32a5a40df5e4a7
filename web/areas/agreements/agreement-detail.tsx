import { useMutation } from '@tanstack/react-query'
import { X } from 'lucide-react'
import { useState } from 'react'
import type { Agreement } from '#contract/agreement.ts'
import { saysOf } from '#core/trail/acts.ts'
import { address, call, problemText, useAnswer } from '#web/frame/client.ts'
import { useNotice } from '#web/frame/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { TextArea } from '#web/parts/input.tsx'
import { ProofViewer } from '#web/parts/proof-viewer.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { Tabs } from '#web/parts/tabs.tsx'
import { Thread } from '#web/parts/thread.tsx'
import { useBytes } from '#web/parts/use-bytes.ts'
import { When } from '#web/parts/when.tsx'
import { CompareView } from '#web/areas/templates/panels/compare-view.tsx'
import { StateWord } from './state-word.tsx'
import { Way } from './way-part.tsx'

const PARTS = ['way', 'document', 'wording', 'trail'] as const

/** One agreement: where it stands and with whom, its document, its trail, and what can be done now. */
export function AgreementDetail({ id, onClose }: { readonly id: string; readonly onClose: () => void }) {
  const agreement = useAnswer('agreement', { params: { id } }, { every: 5000 })
  const [part, setPart] = useState<(typeof PARTS)[number]>('way')
  if (agreement.isPending) return <Loading />
  if (agreement.isError) return <Failed error={agreement.error} retry={() => void agreement.refetch()} />
  const { data } = agreement
  return (
    <section aria-label={data.name} className="flex min-h-0 flex-col border-l border-hair">
      <div className="shrink-0 border-b border-hair px-4 py-3">
        <div className="flex items-start gap-3">
          <div className="min-w-0">
            <h2 className="truncate text-lg">{data.name}</h2>
            <p className="text-sm text-soft">
              {data.number}, revision {data.revision}, <StateWord state={data.state} />
            </p>
          </div>
          <button className="ml-auto p-1 text-soft hover:text-ink" aria-label="Close" onClick={onClose}>
            <X size={16} />
          </button>
        </div>
        <div className="mt-2 flex items-center gap-4">
          <Thread columns={data.thread} large />
          <Moves agreement={data} />
        </div>
      </div>
      <div className="flex shrink-0 border-b border-hair px-3 py-1 text-sm">
        <Tabs
          label="Parts of the agreement"
          tabs={PARTS.filter((each) => each !== 'wording' || data.byHand)}
          chosen={part}
          onChoose={setPart}
        />
        <span className="ml-auto flex gap-3 py-0.5 text-petrol">
          <a
            href={address('agreementDocument', { params: { id } })}
            target="_blank"
            rel="noreferrer"
            className="underline"
          >
            {data.executed ? 'Sealed file' : 'File as it stands'}
          </a>
          {data.parts.length === 0 && (
            <a href={address('agreementDocx', { params: { id } })} download className="underline">
              DOCX
            </a>
          )}
        </span>
      </div>
      <div className="min-h-0 flex-1 overflow-auto">
        {part === 'way' ? (
          <Way agreement={data} />
        ) : part === 'document' ? (
          <DocumentPart agreement={data} />
        ) : part === 'wording' ? (
          <ByHandPart id={id} />
        ) : (
          <TrailPart id={id} />
        )}
      </div>
    </section>
  )
}

type Act = 'approve' | 'return' | 'send' | 'send unread' | 'read and send' | 'route' | 'withdraw'

function Moves({ agreement }: { readonly agreement: Agreement }) {
  const say = useNotice()
  const [maySend, mayRun] = [useMay('send'), useMay('runs')]
  const [asking, setAsking] = useState<'return' | 'withdraw' | 'unread' | null>(null)
  const [note, setNote] = useState('')
  const { id } = agreement
  const mine = agreement.steps.find((step) => step.mine)
  const act = useMutation({
    mutationFn: async (made: Act): Promise<string> => {
      if (made === 'approve')
        await call('decide', { params: { id, step: mine!.id }, body: { decision: 'approve' } })
      else if (made === 'return')
        await call('decide', { params: { id, step: mine!.id }, body: { decision: 'return', note } })
      else if (made === 'route') await call('routeAgain', { params: { id } })
      else if (made === 'withdraw') await call('withdraw', { params: { id } })
      else {
        if (made === 'read and send')
          await call('tickWording', {
            params: { id: agreement.runId },
            body: { key: agreement.wording, read: true },
          })
        const { refused } = await call('sendAgreements', {
          body: { agreements: [id], unread: made === 'send unread' },
        })
        if (refused[0]) throw new Error(refused[0].problem)
      }
      return {
        approve: 'Approved.',
        return: 'Returned.',
        send: 'Sent.',
        'send unread': 'Sent unread.',
        'read and send': 'Sent.',
        route: 'Put to approval again.',
        withdraw: 'Withdrawn.',
      }[made]
    },
    onSuccess: (text) => {
      setAsking(null)
      say(text)
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  return (
    <div className="ml-auto flex gap-2">
      {mine && (
        <>
          <Button onClick={() => setAsking('return')}>Return</Button>
          <Button kind="main" busy={act.isPending} onClick={() => act.mutate('approve')}>
            Approve
          </Button>
        </>
      )}
      {mayRun && agreement.state === 'returned' && (
        <Button busy={act.isPending} onClick={() => act.mutate('route')}>
          Put to approval again
        </Button>
      )}
      {maySend && agreement.moves.includes('withdraw') && !mine && (
        <Button kind="quiet" onClick={() => setAsking('withdraw')}>
          Withdraw
        </Button>
      )}
      {maySend && agreement.moves.includes('send') && (
        <Button
          kind="main"
          busy={act.isPending}
          onClick={() => (agreement.wordingRead ? act.mutate('send') : setAsking('unread'))}
        >
          Send for signature
        </Button>
      )}
      <Dialog title="Return to the author" open={asking === 'return'} onClose={() => setAsking(null)}>
        <form
          onSubmit={(event) => {
            event.preventDefault()
            act.mutate('return')
          }}
        >
          <TextArea
            autoFocus
            rows={3}
            aria-label="Why it goes back"
            placeholder="Why it goes back"
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
          <div className="mt-3 flex justify-end gap-2">
            <Button onClick={() => setAsking(null)}>Not now</Button>
            <Button kind="main" type="submit" disabled={!note.trim()} busy={act.isPending}>
              Return
            </Button>
          </div>
        </form>
      </Dialog>
      <Dialog title="Nobody has read this wording" open={asking === 'unread'} onClose={() => setAsking(null)}>
        <p>Its words are not ticked as read in the run. Whoever has read them here can say so now.</p>
        <div className="mt-4 flex justify-end gap-2">
          <Button kind="danger" busy={act.isPending} onClick={() => act.mutate('send unread')}>
            Send unread
          </Button>
          <Button kind="main" busy={act.isPending} onClick={() => act.mutate('read and send')}>
            I have read it, send
          </Button>
        </div>
      </Dialog>
      <Dialog title="End this agreement" open={asking === 'withdraw'} onClose={() => setAsking(null)}>
        <p>Nobody can sign it after that, and it cannot be taken up again. Its number is kept.</p>
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={() => setAsking(null)}>Keep it</Button>
          <Button kind="danger" busy={act.isPending} onClick={() => act.mutate('withdraw')}>
            Withdraw
          </Button>
        </div>
      </Dialog>
    </div>
  )
}

/** What differs from the template, where the wording was changed for this one customer. */
function ByHandPart({ id }: { readonly id: string }) {
  const wording = useAnswer('agreementWording', { params: { id } })
  if (wording.isPending) return <Loading />
  if (wording.isError) return <Failed error={wording.error} retry={() => void wording.refetch()} />
  return (
    <div className="p-4">
      <CompareView
        before={wording.data.template}
        after={wording.data.content}
        names={['the template', 'this agreement']}
      />
    </div>
  )
}

function DocumentPart({ agreement }: { readonly agreement: Agreement }) {
  const file = useAnswer(
    'agreementDocument',
    { params: { id: agreement.id }, query: { state: agreement.changedAt } },
    { keep: true },
  )
  const bytes = useBytes(file.data)
  if (file.isError) return <Failed error={file.error} retry={() => void file.refetch()} />
  return bytes ? <ProofViewer bytes={bytes} label={agreement.name} /> : <Loading />
}

function TrailPart({ id }: { readonly id: string }) {
  const trail = useAnswer('trail', { params: { id } })
  if (trail.isPending) return <Loading />
  if (trail.isError) return <Failed error={trail.error} retry={() => void trail.refetch()} />
  const { entries, verified, problem } = trail.data
  return (
    <div className="p-4 text-sm">
      <p className={verified ? 'text-moss' : 'text-brick'}>
        {verified
          ? `The chain of ${entries.length} entries holds; record, values and files agree with it.`
          : `Something is not as the trail says. ${problem}`}
      </p>
      <ol className="mt-2">
        {entries.map((entry) => (
          <li
            key={entry.seq}
            className="grid grid-cols-[1.5rem_5.5rem_1fr_auto] gap-2 border-b border-hair/60 py-1.5"
          >
            <span className="text-soft tabular-nums">{entry.seq}</span>
            <span className="text-soft">
              <When at={entry.at} />
            </span>
            <span>
              <span className="font-semibold">{entry.actor}</span> {saysOf(entry)}
              <span className="block text-xs wrap-anywhere text-soft">
                {Object.entries(entry.detail)
                  .filter(([key, value]) => key === 'address' || isHash(value))
                  .map(([key, value]) => `${key}: ${shortened(value)}`)
                  .join(' · ')}
              </span>
            </span>
            <code className="text-xs text-soft" title={entry.hash}>
              {entry.hash.slice(0, 8)}
            </code>
          </li>
        ))}
      </ol>
    </div>
  )
}

type Kept = string | number | boolean | null

const isHash = (value: Kept): boolean => typeof value === 'string' && /^[0-9a-f]{64}$/.test(value)

/** Hashes by their beginning; whole they are in the file and the API. */
const shortened = (value: Kept): string => (isHash(value) ? `${String(value).slice(0, 12)}…` : String(value))
