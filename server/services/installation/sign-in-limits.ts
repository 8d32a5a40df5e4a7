import { setTimeout as pause } from 'node:timers/promises'
import { RateLimiterRes } from 'rate-limiter-flexible'
import { perObject } from '#core/per-object.ts'
import type { App } from '#server/app/app.ts'
import { limiterOf } from '#server/ground/rate.ts'
import { Refusal } from '#server/ground/problem.ts'

const QUARTER = 15 * 60

/**
 * Tries count before any password is looked at, in the database, so that those sent side by side or to another process
 * count too. By address and account together few; by address more, for an office shares one; an account's own owner is
 * never shut out by others' tries: they only make each further one wait.
 */
const limiters = perObject(({ pool }: App) => {
  const limiter = (keyPrefix: string, points: number) =>
    limiterOf(pool, keyPrefix, { points, seconds: QUARTER })
  return { both: limiter('both', 10), address: limiter('address', 60), account: limiter('account', 30) }
})

/** Milliseconds a try waits once an account has had more than its share. */
const SLOWED = 2000

const tooMany = (rest: number) =>
  new Refusal(
    429,
    'Too many tries',
    `Too many passwords were tried from here. Try again in ${Math.max(1, Math.ceil(rest / 60_000))} minutes.`,
  )

/** Counts a try; refuses it where there were too many. */
export async function countTry(app: App, account: string, address: string): Promise<void> {
  const { both, address: from, account: to } = limiters(app)
  for (const [limiter, key] of [
    [from, address],
    [both, `${account} ${address}`],
  ] as const)
    await limiter.consume(keyOf(key)).catch((refused: unknown) => {
      if (refused instanceof RateLimiterRes) throw tooMany(refused.msBeforeNext)
      throw refused
    })
  await to.consume(keyOf(account)).catch(async (refused: unknown) => {
    if (!(refused instanceof RateLimiterRes)) throw refused
    await pause(SLOWED)
  })
}

/** Keys have a bounded length, whatever somebody types as their address. */
const keyOf = (text: string): string => text.slice(0, 120)

/** A right password takes back what its tries from there have cost. */
export async function forgetTries(app: App, account: string, address: string): Promise<void> {
  const { both, account: to } = limiters(app)
  await both.delete(keyOf(`${account} ${address}`))
  await to.delete(keyOf(account))
}

/** Passwords that may wait to be looked at; each takes a good part of a second, and longer queues help nobody. */
const WAITING = 12

let waiting = 0
let last: Promise<unknown> = Promise.resolve()

/** One password after the other, so that whatever else needs the threads of the process finds them free. */
export async function inQueue<T>(work: () => Promise<T>): Promise<T> {
  if (waiting >= WAITING)
    throw new Refusal(503, 'Busy', 'Many people are signing in just now. Try again in a few seconds.')
  waiting++
  const turn = last.then(work, work)
  last = turn.catch(() => undefined)
  return turn.finally(() => waiting--)
}
