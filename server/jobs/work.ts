import { keysOf } from '#core/keys-of.ts'
import type { App } from '#server/app/app.ts'
import { tellWebhooks } from '#server/services/webhooks/telling.ts'
import { JOBS } from './jobs.ts'
import { lendHand } from './making.ts'
import { Presence } from './presence.ts'

/** Milliseconds between two looks for runs in the making that this worker could lend a hand with, and after what died. */
const LOOK = 1500
const TELL = 1000
const SWEEP = 20_000
const FREE = 5000

/**
 * Takes up work: first what workers that died left behind, then the queues, and runs in the making, whoever began them.
 * Returns what ends it.
 */
export async function startWork(app: App): Promise<() => Promise<void>> {
  const presence = new Presence(app)
  await presence.appear()
  const every = (time: number, act: () => Promise<unknown>) =>
    setInterval(() => void act().catch(() => undefined), time)
  const timers = [
    every(LOOK, () => lendHand(app)),
    every(TELL, () => tellWebhooks(app)),
    every(SWEEP, () => app.files.sweep()),
    every(FREE, () => presence.freeDead()),
  ]
  await app.files.sweep()
  for (const name of keysOf(JOBS)) {
    const { lanes, act } = JOBS[name]
    await app.queue.work(name, lanes, (data, id) => presence.during(id, () => act(app, data as never)))
  }
  return async () => {
    timers.forEach(clearInterval)
    await app.queue.stop()
    await presence.end()
  }
}
