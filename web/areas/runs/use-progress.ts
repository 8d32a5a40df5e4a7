import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import type { RunProgress, RunSummary } from '#contract/run.ts'
import { address } from '#web/frame/client.ts'

/** A run's progress while something moves, by server-sent events; a lost connection takes itself up again. */
export function useProgress(run: RunSummary): RunProgress {
  const queries = useQueryClient()
  const [progress, setProgress] = useState<RunProgress | null>(null)
  const moving = run.state === 'generating' || run.state === 'checking'
  useEffect(() => {
    if (!moving) return
    const events = new EventSource(address('runEvents', { params: { id: run.id } }))
    events.onmessage = (message) => {
      const now = JSON.parse(message.data as string) as RunProgress
      setProgress(now)
      if (now.state === 'generating' || now.state === 'checking') return
      events.close()
      for (const key of ['run', 'runRows', 'wordings', 'runs', 'desk'])
        void queries.invalidateQueries({ queryKey: [key] })
    }
    return () => events.close()
  }, [moving, run.id, queries])
  return moving && progress ? progress : { state: run.state, rows: run.rows, rate: null, secondsLeft: null }
}
