import { useEffect, useState } from 'react'
import type { RunProgress, RunSummary } from '#contract/run.ts'
import { address } from '#web/api/client.ts'
import { renew as renewed } from '#web/api/queries.ts'

const isMeasuring = ({ state, rows }: RunProgress) =>
  state === 'checked' && rows.measured < rows.ready + rows.hand

const isMoving = (progress: RunProgress) =>
  progress.state === 'generating' || progress.state === 'checking' || progress.behind || isMeasuring(progress)

const asProgress = (run: RunSummary): RunProgress => ({
  state: run.state,
  behind: run.behind,
  rows: run.rows,
  rate: null,
  secondsLeft: null,
})

/**
 * A run's progress while something moves, by server-sent events; a lost connection takes itself up again.
 *
 * @param readAt When the run was read, in milliseconds of this window's clock. A run that was read after the end of a
 *   stream and moves (again) opens a new one, even where it reads like one that was read before.
 */
export function useProgress(run: RunSummary, readAt: number): RunProgress {
  const [progress, setProgress] = useState<RunProgress | null>(null)
  const [ended, setEnded] = useState<{ readonly at: number; readonly told: RunProgress } | null>(null)
  const now = asProgress(run)
  const isNewer = ended !== null && ended.at >= readAt
  const moving = !isNewer && isMoving(now)
  useEffect(() => {
    if (!moving) return
    const events = new EventSource(address('runEvents', { params: { id: run.id } }))
    let before: RunProgress | null = null
    const renew = () => {
      void renewed('run', 'runRows', 'wordings', 'rowChanges', 'runSetup', 'runs', 'desk')
    }
    events.onmessage = (message) => {
      const told = JSON.parse(message.data as string) as RunProgress
      setProgress(told)
      if (before && (before.state !== told.state || before.behind !== told.behind)) renew()
      before = told
      if (isMoving(told)) return
      events.close()
      setEnded({ at: Date.now(), told })
      renew()
    }
    return () => {
      events.close()
      setProgress(null)
    }
  }, [moving, run.id, run.state])
  if (moving) return progress ?? now
  return isNewer ? ended.told : now
}
