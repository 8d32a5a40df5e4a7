import { ChevronLeft, ChevronRight } from 'lucide-react'
import { Link } from 'react-router'
import { useAnswer } from '#web/api/client.ts'
import { ProofViewer } from '#web/parts/pages/proof-viewer.tsx'
import { Failed } from '#web/parts/states.tsx'
import { useBytes } from '#web/parts/pages/use-bytes.ts'
import { useRun } from './open-run/use-run.ts'

/** The finished pages of the row shown, with steps to the rows beside it. */
export function RowProof() {
  const { run, rows, row, show, progress } = useRun()
  const proofable = rows.filter(({ state }) => state !== 'skipped')
  const at = proofable.findIndex((each) => each.row === row)
  const shown = proofable[at]
  const proof = useAnswer(
    'rowProof',
    { params: { id: run.id, row: row ?? 0 } },
    { enabled: progress.state !== 'checking' && shown !== undefined, keep: true },
  )
  const bytes = useBytes(proof.data)
  const step = (by: number) => {
    const next = proofable[at + by]
    return (
      <button
        className="rounded-sm p-1 text-soft hover:bg-wash hover:text-ink disabled:opacity-40"
        aria-label={by < 0 ? 'Row before' : 'Row after'}
        disabled={!next}
        onClick={() => next && show(next.row)}
      >
        {by < 0 ? <ChevronLeft size={15} /> : <ChevronRight size={15} />}
      </button>
    )
  }
  return (
    <section aria-label="Proof" className="flex min-h-0 flex-col border-l border-hair">
      <div className="flex h-9 shrink-0 items-center gap-2 border-b border-hair px-3 text-sm">
        {shown && (
          <>
            {step(-1)}
            {step(1)}
            <span className="whitespace-nowrap text-soft">Proof of row {shown.row}</span>
            <span className="truncate font-semibold">{shown.label}</span>
            {shown.agreementId && (
              <Link
                className="ml-auto whitespace-nowrap text-petrol underline"
                to={`/agreements/${shown.agreementId}`}
              >
                {shown.number}
              </Link>
            )}
          </>
        )}
      </div>
      {proof.isError && <Failed error={proof.error} retry={() => void proof.refetch()} />}
      <div className="min-h-0 flex-1">
        <ProofViewer bytes={bytes} label={`Proof of ${shown?.label ?? ''}`} />
      </div>
    </section>
  )
}
