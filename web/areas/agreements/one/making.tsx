import { type ReactNode, useMemo, useRef, useState } from 'react'
import { Link } from 'react-router'
import type { OneAgreementProof } from '#contract/one-agreement.ts'
import { PLURALS } from '#core/records/kinds.ts'
import { Button } from '#web/parts/button.tsx'
import { Hint } from '#web/parts/hint.tsx'
import { fromBase64 } from '#web/parts/pages/pdf.ts'
import { ProofViewer } from '#web/parts/pages/proof-viewer.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { Asked, Rest } from './values.tsx'
import { type MadeOf, useOneAgreement } from './use-one-agreement.ts'

/** One agreement being made: what is missing is given beside its pages, and it is made. */
export function Making({
  of,
  what,
  choice,
  onChangeWhom,
}: {
  /** The record that it is made of; null: its values are typed. */
  readonly of: MadeOf | null
  readonly what: string
  readonly choice: ReactNode
  readonly onChangeWhom: () => void
}) {
  const [opened, setOpened] = useState<{ readonly name: string } | null>(null)
  const one = useOneAgreement(of, what)
  const [another, setAnother] = useState(false)
  const side = useRef<HTMLDivElement>(null)
  const { data } = one.proof
  const missing =
    data?.values.filter(({ problem, itemProblems }) => problem !== null || itemProblems.length > 0).length ??
    0
  // What follows from what is missing is not told beside it.
  const problems = missing > 0 ? [] : (data?.problems ?? [])
  const wrong = missing + problems.length
  const bytes = useMemo(() => (data?.pdf ? fromBase64(data.pdf) : null), [data?.pdf])
  const make = () => {
    // What is missing is shown instead of said: the first place that lacks its value, or its tick.
    const place = side.current?.querySelector<HTMLElement>(
      '[aria-invalid="true"], [data-missing] :is(input, select, textarea)',
    )
    if (place) return place.focus()
    one.make(another)
  }
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-12 shrink-0 items-center gap-3 border-b border-hair px-4">
        <h1 className="text-lg whitespace-nowrap">New agreement</h1>
        {choice}
        <span className="flex min-w-0 items-baseline gap-2 text-sm">
          <span className="text-soft">for</span>
          {of ? (
            <Link
              to={`/records/${PLURALS[of.kind]}/${of.id}`}
              className="truncate text-petrol hover:underline"
              title="Open the record"
            >
              {data?.record ?? 'this record'}
            </Link>
          ) : (
            'typed values'
          )}
          <button className="text-soft underline hover:text-ink" onClick={onChangeWhom}>
            change
          </button>
        </span>
        <Hint topic="one agreement" />
        <span className="ml-auto text-sm whitespace-nowrap text-soft" role="status">
          {!one.settled
            ? 'updating the pages'
            : wrong > 0
              ? `${plural(wrong, 'value')} missing or wrong`
              : data && plural(data.pages, 'page')}
        </span>
        <Button
          kind="main"
          busy={one.making}
          disabled={!data || !one.settled || problems.length > 0}
          onClick={make}
        >
          Make the agreement
        </Button>
      </div>
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1.15fr)]">
        <div ref={side} className="min-h-0 overflow-auto px-4 pb-6 text-sm">
          {one.proof.isError ? (
            <Failed error={one.proof.error} retry={() => void one.proof.refetch()} />
          ) : !data ? (
            <Loading label="The values are being read" />
          ) : (
            <>
              <h2 className="pt-3 font-serif text-base font-semibold">
                {data.name.trimEnd().replace(/,$/, '')}
              </h2>
              {data.live && (
                <label className="mt-2 flex items-start gap-2 border-l-2 border-ochre pl-3">
                  <input
                    type="checkbox"
                    className="mt-1 aria-invalid:outline-2 aria-invalid:outline-ochre"
                    aria-invalid={!another}
                    checked={another}
                    onChange={(event) => setAnother(event.target.checked)}
                  />
                  <span>
                    {data.live} <span className="font-semibold">Make another all the same.</span>
                  </span>
                </label>
              )}
              {problems.map((problem) => (
                <p key={problem} className="mt-2 border-l-2 border-brick pl-3">
                  {problem}
                </p>
              ))}
              {data.overflow.map((told) => (
                <p key={told} className="mt-2 border-l-2 border-ochre pl-3">
                  {told}
                </p>
              ))}
              <Asked one={one} opened={opened} typed={of === null} />
              <Who people={data.people} approvals={data.approvals} whole={wrong === 0} />
              <Rest one={one} onOpen={(name) => setOpened({ name })} />
            </>
          )}
        </div>
        <section aria-label="Proof" className="min-h-0 border-l border-hair">
          <ProofViewer bytes={bytes} label={`Proof of ${data?.name ?? 'the agreement'}`} />
        </section>
      </div>
    </div>
  )
}

/** Who has to approve it, with the reason, and who signs, in order. */
function Who({
  people,
  approvals,
  whole,
}: Pick<OneAgreementProof, 'people' | 'approvals'> & {
  /** Nothing is missing that a rule might ask. */
  readonly whole: boolean
}) {
  return (
    <>
      <h2 className="mt-5 mb-1 font-serif text-base font-semibold">Route</h2>
      {!whole ? (
        <p className="text-soft">What is missing may still ask for an approval.</p>
      ) : (
        approvals.length === 0 && <p className="text-soft">No rule asks for approval.</p>
      )}
      <ul>
        {approvals.map(({ approver, reason }) => (
          <li key={approver} className="border-b border-hair/60 py-1">
            <span className="font-semibold capitalize">{approver}</span> approves{' '}
            <span className="text-soft">because {reason}</span>
          </li>
        ))}
        {[...people]
          .sort((a, b) => a.order - b.order)
          .map(({ label, name, email }) => (
            <li key={label} className="border-b border-hair/60 py-1">
              <span className="font-semibold">{name || 'No person yet'}</span> signs{' '}
              <span className="text-soft">
                as {label}
                {email && `, ${email}`}
              </span>
            </li>
          ))}
      </ul>
    </>
  )
}
