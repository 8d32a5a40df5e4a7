import { X } from 'lucide-react'
import { useState } from 'react'
import { saysOf } from '#core/trail/acts.ts'
import { address, useAnswer } from '#web/api/client.ts'
import { Failed, Loading } from '#web/parts/states.tsx'
import { Tabs } from '#web/parts/tabs.tsx'
import { Thread } from '#web/parts/signs/thread.tsx'
import { When } from '#web/parts/signs/when.tsx'
import { CompareView } from '#web/areas/templates/panels/compare-view.tsx'
import { DocumentPart } from './document-part.tsx'
import { Moves } from './moves.tsx'
import { StateWord } from './state-word.tsx'
import { Way } from './way-part.tsx'
import { StepsPart } from '#web/areas/next-steps/steps-part.tsx'

const PARTS = ['way', 'document', 'wording', 'next steps', 'trail'] as const

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
              {data.number}, revision {data.revision},{' '}
              <StateWord state={data.state} undelivered={data.undelivered} />
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
          {data.executed && (
            <a href={address('agreementEvidence', { params: { id } })} download className="underline">
              Evidence
            </a>
          )}
          {data.parts.length === 0 && !data.form && (
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
        ) : part === 'next steps' ? (
          <StepsPart agreement={id} />
        ) : (
          <TrailPart id={id} />
        )}
      </div>
    </section>
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
