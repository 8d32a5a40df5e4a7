import { useEffect, useRef, useState } from 'react'
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
 * A run's progress while something moves, by server-sent events; a lost connection takes itself up again. Where the run
 * moves again by the time it is read after the end of a stream, a new one is opened.
 */
export function useProgress(run: RunSummary): RunProgress {
  const [progress, setProgress] = useState<RunProgress | null>(null)
  const [ended, setEnded] = useState<{ readonly run: RunSummary; readonly told: RunProgress } | null>(null)
  const latest = useRef(run)
  useEffect(() => {
    latest.current = run
  })
  const now = asProgress(run)
  const moving = run !== ended?.run && isMoving(now)
  useEffect(() => {
    if (!moving) return
    const events = new EventSource(address('runEvents', { params: { id: run.id } }))
    let before: RunProgress['state'] | null = null
    const renew = () => {
      void renewed('run', 'runRows', 'wordings', 'rowChanges', 'runSetup', 'runs', 'desk')
    }
    events.onmessage = (message) => {
      const told = JSON.parse(message.data as string) as RunProgress
      setProgress(told)
      if (before !== null && before !== told.state) renew()
      before = told.state
      if (isMoving(told)) return
      events.close()
      setEnded({ run: latest.current, told })
      renew()
    }
    return () => {
      events.close()
      setProgress(null)
    }
  }, [moving, run.id, run.state])
  if (moving) return progress ?? now
  return ended?.run === run ? ended.told : now
}
