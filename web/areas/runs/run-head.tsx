import { useMemo, useState } from 'react'
import { Link } from 'react-router'
import type { RunProgress, RunSummary } from '#contract/run.ts'
import { useCall } from '#web/api/client.ts'
import { useMay } from '#web/frame/person.ts'
import { useActs } from '#web/frame/commands.ts'
import { Button } from '#web/parts/button.tsx'
import { count, duration, plural } from '#web/parts/signs/when.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { type RunRow, useRun } from './open-run/use-run.ts'

/** What the run is, what there is to do with it now, and how far it is. */
export function RunHead() {
  const { run, progress, may, rows: all, setup } = useRun()
  const maySend = useMay('send')
  const [cancelling, setCancelling] = useState(false)
  const params = { id: run.id }
  const generate = useCall('generate')
  const pause = useCall('pauseRun')
  const cancel = useCall('cancelRun')
  const { rows, state } = progress
  const startable =
    may && rows.ready + rows.failed > 0 && ['checked', 'paused', 'cancelled', 'generated'].includes(state)
  const { mutate: startIt } = generate
  const { mutate: pauseIt } = pause
  const acts = useMemo(
    () => [
      ...(startable
        ? [{ label: 'Generate', hint: 'This run', run: () => startIt({ params: { id: run.id } }) }]
        : []),
      ...(may && state === 'generating'
        ? [{ label: 'Pause', hint: 'This run', run: () => pauseIt({ params: { id: run.id } }) }]
        : []),
      ...(may && (state === 'generating' || state === 'paused')
        ? [{ label: 'Cancel the rest', hint: 'This run', run: () => setCancelling(true) }]
        : []),
    ],
    [startable, may, state, run.id, startIt, pauseIt],
  )
  useActs(acts)
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
          {maySend && rows.made > 0 && (
            <Link to={`/agreements/send?run=${run.id}`} className="text-sm text-petrol underline">
              Sending options
            </Link>
          )}
          {may && state === 'generating' && (
            <Button busy={pause.isPending} onClick={() => pause.mutate({ params })}>
              Pause
            </Button>
          )}
          {may && (state === 'generating' || state === 'paused') && (
            <Button kind="quiet" busy={cancel.isPending} onClick={() => setCancelling(true)}>
              Cancel
            </Button>
          )}
          {startable && (
            <Button kind="main" busy={generate.isPending} onClick={() => generate.mutate({ params })}>
              {generateLabel(progress)}
            </Button>
          )}
        </span>
      </div>
      {startable && (
        <p className="mt-0.5 truncate text-sm" aria-label="What will be made">
          {whatWillBeMade(all, setup?.nextNumber ?? '')}
        </p>
      )}
      <Dialog title="Cancel the rest of this run" open={cancelling} onClose={() => setCancelling(false)}>
        <p className="text-sm">
          {rows.made > 0 && `${plural(rows.made, 'agreement')} made so far stay. `}
          {plural(left, 'row')} will not be made; one can go on with them later.
        </p>
        <div className="mt-3 flex justify-end gap-2">
          <Button onClick={() => setCancelling(false)}>Go on making</Button>
          <Button
            kind="danger"
            onClick={() => {
              setCancelling(false)
              cancel.mutate({ params })
            }}
          >
            Cancel the rest
          </Button>
        </div>
      </Dialog>
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

/** What generating makes, from which rows, under which numbers, and who is asked. */
function whatWillBeMade(all: readonly RunRow[], nextNumber: string): string {
  const ready = all.filter(({ state }) => state === 'ready' || state === 'failed')
  if (ready.length === 0) return ''
  const first = ready.reduce((least, { row }) => Math.min(least, row), Infinity)
  const last = ready.reduce((most, { row }) => Math.max(most, row), 0)
  const approvers = new Map<string, number>()
  for (const { approvals } of ready)
    for (const approver of new Set(approvals.map((step) => step.approver)))
      approvers.set(approver, (approvers.get(approver) ?? 0) + 1)
  const asked = [...approvers]
    .sort((a, b) => b[1] - a[1])
    .map(([name, number]) => `${name} about ${count(number)}`)
  return [
    `Makes ${plural(ready.length, 'agreement')} from ${first === last ? `row ${first}` : `rows ${first} to ${last}`}`,
    ready.some(({ number }) => number === null) && nextNumber && `numbered from ${nextNumber} on`,
    asked.length ? `asks ${asked.join(', ')}` : 'no approval needed',
  ]
    .filter(Boolean)
    .join('; ')
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
