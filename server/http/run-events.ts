import type { Request, Response } from 'express'
import type { RunProgress } from '#contract/run.ts'
import type { App } from '#server/app/app.ts'
import { readRun } from '#server/services/runs/runs.ts'

const EVERY = 300
const EVERY_WHILE_MEASURING = 1000
/** Seconds over which the rate is taken. */
const WINDOW = 6

/** A run's progress as server-sent events (WHATWG HTML, 9.2), a message whenever something changed; ends when nothing moves any more. */
export async function runEvents(app: App, id: string, request: Request, response: Response): Promise<void> {
  await readRun(app, id)
  response.writeHead(200, {
    'Content-Type': 'text/event-stream',
    'Cache-Control': 'no-store',
    'X-Accel-Buffering': 'no',
  })
  const samples: { at: number; made: number }[] = []
  let told = ''
  let open = true
  request.on('close', () => (open = false))
  while (open) {
    const { state, rows, behind } = await readRun(app, id)
    const now = performance.now()
    samples.push({ at: now, made: rows.made })
    while (samples.length > 2 && now - samples[0]!.at > WINDOW * 1000) samples.shift()
    const seconds = (now - samples[0]!.at) / 1000
    const rate = state === 'generating' && seconds > 0.5 ? (rows.made - samples[0]!.made) / seconds : null
    const progress: RunProgress = { state, behind, rows, rate, secondsLeft: rate ? rows.ready / rate : null }
    const text = JSON.stringify(progress)
    if (text !== told) response.write(`data: ${text}\n\n`)
    told = text
    const measuring = state === 'checked' && rows.measured < rows.ready + rows.hand
    if (state !== 'generating' && state !== 'checking' && !behind && !measuring) break
    await new Promise((resolve) => setTimeout(resolve, measuring ? EVERY_WHILE_MEASURING : EVERY))
  }
  if (open) response.end()
}
