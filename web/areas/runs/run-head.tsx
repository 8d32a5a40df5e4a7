import { Link } from 'react-router'
import type { RunProgress, RunSummary } from '#contract/run.ts'
import { useCall } from '#web/frame/client.ts'
import { Button } from '#web/parts/button.tsx'
import { count, duration, plural } from '#web/parts/when.tsx'
import { useRun } from './use-run.ts'

/** What the run is, what there is to do with it now, and how far it is. */
export function RunHead() {
  const { run, progress, may } = useRun()
  const params = { id: run.id }
  const generate = useCall('generate')
  const pause = useCall('pauseRun')
  const cancel = useCall('cancelRun')
  const { rows, state } = progress
  const left = rows.ready + rows.failed
  return (
    <div className="shrink-0 border-b border-hair px-4 py-2.5">
      <div className="flex items-center gap-4">
        <h1 className="truncate text-lg">{run.name}</h1>
        <span className="truncate text-sm text-soft">
          {run.packet.length
            ? `packet of ${run.packet.join(', ')}`
            : `${run.template}, edition ${run.edition}`}
          , from{' '}
          {run.fromRecords ? (
            run.sheet
          ) : (
            <Link className="underline hover:text-ink" to={`/records/sheets/${run.sheetId}`}>
              {run.sheet}
            </Link>
          )}
        </span>
        <span className="ml-auto flex items-center gap-2">
          {rows.made > 0 && (
            <Link to={`/agreements?run=${run.id}`} className="text-sm text-petrol underline">
              {plural(rows.made, 'agreement')}
            </Link>
          )}
          {may && state === 'generating' && (
            <Button busy={pause.isPending} onClick={() => pause.mutate({ params })}>
              Pause
            </Button>
          )}
          {may && (state === 'generating' || state === 'paused') && (
            <Button kind="quiet" busy={cancel.isPending} onClick={() => cancel.mutate({ params })}>
              Cancel
            </Button>
          )}
          {may && left > 0 && ['checked', 'paused', 'cancelled', 'generated'].includes(state) && (
            <Button kind="main" busy={generate.isPending} onClick={() => generate.mutate({ params })}>
              {generateLabel(progress)}
            </Button>
          )}
        </span>
      </div>
      {state === 'generating' || state === 'paused' ? (
        <Bar progress={progress} />
      ) : (
        <p className={`mt-0.5 text-sm ${state === 'failed' ? 'text-brick' : 'text-soft'}`} role="status">
          {state === 'checking'
            ? 'The rows are being checked …'
            : state === 'failed'
              ? (run.problem ?? 'The rows could not be checked.')
              : summary(run, progress)}
        </p>
      )}
    </div>
  )
}

function generateLabel({ state, rows }: RunProgress): string {
  if (state === 'checked') return `Generate ${plural(rows.ready, 'agreement')}`
  if (state === 'paused' || state === 'cancelled') return `Go on with ${count(rows.ready + rows.failed)}`
  return rows.ready ? `Generate ${count(rows.ready)} more` : `Try ${count(rows.failed)} again`
}

function Bar({ progress: { rows, state, rate, secondsLeft } }: { readonly progress: RunProgress }) {
  const all = rows.ready + rows.made + rows.failed
  return (
    <div className="mt-2 flex items-center gap-3 text-sm">
      <div
        role="progressbar"
        aria-label="Agreements made"
        aria-valuemin={0}
        aria-valuemax={all}
        aria-valuenow={rows.made}
        className="h-1.5 flex-1 bg-wash"
      >
        <div
          className="h-full bg-petrol transition-[width] duration-150"
          style={{ width: `${all ? (100 * (rows.made + rows.failed)) / all : 0}%` }}
        />
      </div>
      <span className="whitespace-nowrap tabular-nums">
        {count(rows.made)} of {count(all)} made
        {rows.failed > 0 && <span className="text-brick">, {count(rows.failed)} failed</span>}
        {state === 'paused'
          ? ', paused'
          : rate
            ? `, ${rate.toFixed(1)} a second, ${duration(secondsLeft ?? 0)} left`
            : ''}
      </span>
    </div>
  )
}

const summary = ({ state }: RunSummary, { rows }: RunProgress): string =>
  [
    state === 'cancelled' && 'cancelled',
    rows.made && `${plural(rows.made, 'agreement')} made`,
    rows.changed && `${count(rows.changed)} of them changed in the source since`,
    rows.ready && `${plural(rows.ready, 'row')} ready`,
    rows.hand && (rows.hand === 1 ? '1 row needs you' : `${count(rows.hand)} rows need you`),
    rows.skipped && `${count(rows.skipped)} left out`,
    rows.failed && `${count(rows.failed)} failed`,
    state === 'checked' &&
      rows.measured < rows.ready + rows.hand &&
      `looking at the pages: ${count(rows.measured)} of ${count(rows.ready + rows.hand)}`,
  ]
    .filter(Boolean)
    .join(', ')
