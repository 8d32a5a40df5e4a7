import { Link } from 'react-router'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { useAnswer, useCall } from '#web/api/client.ts'
import { useMay } from '#web/frame/person.ts'
import { Failed, Loading } from '#web/parts/states.tsx'
import { When } from '#web/parts/signs/when.tsx'

type Told = Answer<Api['agreementAftermath']>[number]

/** What follows one agreement, by when it is due, and what came of it. */
export function StepsPart({ agreement }: { readonly agreement: string }) {
  const steps = useAnswer('agreementAftermath', { params: { id: agreement } }, { every: 5000 })
  if (steps.isPending) return <Loading />
  if (steps.isError) return <Failed error={steps.error} retry={() => void steps.refetch()} />
  if (steps.data.length === 0)
    return (
      <p className="px-4 py-3 text-sm text-soft">
        No next steps, or none is due yet. Next steps are set in the template.
      </p>
    )
  return (
    <ol className="px-4 py-2 text-sm" aria-label="Next steps">
      {steps.data.map((each) => (
        <li key={each.id} className="grid grid-cols-[7rem_minmax(0,1fr)] gap-3 border-b border-hair/60">
          <span className="border-r border-hair py-1.5 pr-3 text-right text-soft">
            <When at={each.endedAt ?? each.dueAt} />
          </span>
          <div className="py-1.5">
            <p className="first-letter:capitalize wrap-anywhere">{each.says}</p>
            <Outcome step={each} />
          </div>
        </li>
      ))}
    </ol>
  )
}

const LOOKS: Readonly<Record<Told['state'], string>> = {
  waiting: 'text-soft',
  done: 'text-moss',
  skipped: 'text-soft',
  failed: 'text-brick',
}

/** What came of a step, and what can be done about it. */
export function Outcome({ step }: { readonly step: Told }) {
  const may = useMay('send')
  const settle = useCall('settleStep')
  const { id, state, said, made, tries } = step
  return (
    <p className={`flex flex-wrap items-baseline gap-x-3 ${LOOKS[state]}`}>
      <span className="wrap-anywhere">
        {state === 'waiting'
          ? tries > 0
            ? `tried ${tries === 1 ? 'once' : `${tries} times`}: ${said}`
            : 'to come'
          : `${state}: ${said}`}
      </span>
      {made && (
        <Link to={`/agreements/${made}`} className="text-petrol underline">
          Open agreement
        </Link>
      )}
      {may && (state === 'failed' || (state === 'waiting' && tries > 0)) && (
        <>
          <button
            className="text-petrol underline"
            onClick={() => settle.mutate({ params: { id }, body: { what: 'again' } })}
          >
            Try again
          </button>
          <button
            className="text-petrol underline"
            onClick={() => settle.mutate({ params: { id }, body: { what: 'leave' } })}
          >
            Skip step
          </button>
        </>
      )}
    </p>
  )
}
