import { useMemo, useRef, useState } from 'react'
import { Link, useParams } from 'react-router'
import { isMadeOf, type OneAgreementProof } from '#contract/one-agreement.ts'
import { PLURALS, RECORD_KINDS } from '#core/records/kinds.ts'
import { useAnswer } from '#web/api/client.ts'
import { useFilters } from '#web/frame/use-filters.ts'
import { Button } from '#web/parts/button.tsx'
import { Hint } from '#web/parts/hint.tsx'
import { fromBase64 } from '#web/parts/pages/pdf.ts'
import { ProofViewer } from '#web/parts/pages/proof-viewer.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { Asked, Rest } from './values.tsx'
import { type MadeOf, PACKET, useOneAgreement } from './use-one-agreement.ts'

/** One agreement of one record: the template is chosen, what is missing given beside its pages, and it is made. */
export default function OneAgreementPage() {
  const { kind: plural = '', id = '' } = useParams()
  const { search, to } = useFilters()
  const kind = RECORD_KINDS.find((each) => PLURALS[each] === plural)
  const templates = useAnswer('templates', { query: { record: id } })
  const packets = useAnswer('packets')
  if (!kind || !isMadeOf(kind)) return <Empty title="No agreement can be made of this" />
  if (templates.isPending || packets.isPending) return <Loading />
  if (templates.isError) return <Failed error={templates.error} retry={() => void templates.refetch()} />
  const published = templates.data.filter(({ latestEdition, may }) => latestEdition !== null && may.use)
  const whole = packets.data?.filter(({ problem }) => problem === null) ?? []
  const what = search.get('of') ?? published[0]?.id
  if (!what)
    return (
      <Empty title="There is no template to make it of">
        A template has to be published, and its shelf open to you.
      </Empty>
    )
  return (
    <Making
      key={`${id} ${what}`}
      of={{ kind, id }}
      what={what}
      choice={
        <label className="flex items-baseline gap-2 text-sm">
          <span className="text-soft">from</span>
          <select
            aria-label="Template or packet"
            className="max-w-80 rounded-sm border border-hair bg-sheet px-1.5 py-1"
            value={what}
            onChange={(event) => to({ of: event.target.value })}
          >
            {published.map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}, edition {each.latestEdition}
              </option>
            ))}
            {whole.map((packet) => (
              <option key={packet.id} value={`${PACKET}${packet.id}`}>
                {packet.name}, packet of {packet.templates.length}
              </option>
            ))}
          </select>
        </label>
      }
    />
  )
}

function Making({
  of,
  what,
  choice,
}: {
  readonly of: MadeOf
  readonly what: string
  readonly choice: React.ReactNode
}) {
  const [opened, setOpened] = useState<{ readonly name: string } | null>(null)
  const one = useOneAgreement(of, what)
  const [another, setAnother] = useState(false)
  const side = useRef<HTMLDivElement>(null)
  const { data } = one.proof
  const missing = data?.values.filter(({ problem }) => problem !== null).length ?? 0
  const wrong = missing + (data?.problems.length ?? 0)
  const bytes = useMemo(() => (data?.pdf ? fromBase64(data.pdf) : null), [data?.pdf])
  const make = () => {
    // What is missing is shown instead of said: the first place that lacks its value, or its tick.
    const place = side.current?.querySelector<HTMLElement>('[aria-invalid="true"]')
    if (place) return place.focus()
    one.make(another)
  }
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-12 shrink-0 items-center gap-3 border-b border-hair px-4">
        <h1 className="truncate text-lg">
          One agreement of{' '}
          <Link to={`/records/${PLURALS[of.kind]}/${of.id}`} className="text-petrol hover:underline">
            {data?.record ?? 'this record'}
          </Link>
        </h1>
        {choice}
        <Hint topic="one agreement" />
        <span className="ml-auto text-sm whitespace-nowrap text-soft" role="status">
          {!one.settled
            ? 'the pages follow'
            : wrong > 0
              ? `${plural(wrong, 'value')} missing or wrong`
              : data && plural(data.pages, 'page')}
        </span>
        <Button
          kind="main"
          busy={one.making}
          disabled={!data || !one.settled || (missing === 0 && data.problems.length > 0)}
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
            <Loading label="The record is being read" />
          ) : (
            <>
              <h2 className="pt-3 font-serif text-base font-semibold">{data.name}</h2>
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
              {data.problems.map((problem) => (
                <p key={problem} className="mt-2 border-l-2 border-brick pl-3">
                  {problem}
                </p>
              ))}
              {data.overflow.map((told) => (
                <p key={told} className="mt-2 border-l-2 border-ochre pl-3">
                  {told}
                </p>
              ))}
              <Asked one={one} opened={opened} />
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
      <h2 className="mt-5 mb-1 font-serif text-base font-semibold">Its way</h2>
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
              <span className="font-semibold">{name || 'Nobody yet'}</span> signs{' '}
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
