import { RateLimiterRes } from 'rate-limiter-flexible'
import { perObject } from '#core/per-object.ts'
import type { App } from '#server/app/app.ts'
import { limiterOf } from '#server/ground/rate.ts'

/** Calls that a key may make a minute: more than a program needs that waits for its answers. */
export const CALLS_A_MINUTE = 3000

const limiter = perObject(({ pool }: App) => limiterOf(pool, 'key', { points: CALLS_A_MINUTE, seconds: 60 }))

/** How a key stands after one more call; in the database, so that all processes count together. Seconds are rounded up. */
export async function countCall(app: App, key: string) {
  const told = ({ remainingPoints, msBeforeNext }: RateLimiterRes) => ({
    left: Math.max(0, remainingPoints),
    seconds: Math.max(1, Math.ceil(msBeforeNext / 1000)),
  })
  try {
    return { ok: true, ...told(await limiter(app).consume(key)) }
  } catch (refused) {
    if (refused instanceof RateLimiterRes) return { ok: false, ...told(refused) }
    throw refused
  }
}
