import { AsyncLocalStorage } from 'node:async_hooks'
import { setTimeout as pause } from 'node:timers/promises'
import pg, { type PoolClient } from 'pg'

// The law of transactions: inside one, nothing waits for anything else. A second connection is never asked for, and what
// takes long (drawing, sealing, keeping files) is done before it or after it.

interface OpenTransaction {
  readonly pool: pg.Pool
  readonly client: PoolClient
  open: boolean
}

const current = new AsyncLocalStorage<OpenTransaction>()

const openOne = (): OpenTransaction | null => {
  const found = current.getStore()
  return found?.open ? found : null
}

/** Runs `act` as the inside of a transaction that `client` has begun; what it leaves running afterwards is outside again. */
export async function insideOf<T>(pool: pg.Pool, client: PoolClient, act: () => Promise<T>): Promise<T> {
  const own: OpenTransaction = { pool, client, open: true }
  try {
    return await current.run(own, act)
  } finally {
    own.open = false
  }
}

/** Throws inside a transaction. `what` would have held its locks and its connection for as long as it takes. */
export function onlyOutside(what: string): void {
  if (openOne()) throw new Error(`Inside a transaction: ${what}.`)
}

/** Whether a statement or transaction failed because others were in its way, and may simply be done again (class 40). */
export function isConflict(error: unknown): boolean {
  const { code, cause } = (error ?? {}) as { code?: unknown; cause?: unknown }
  return code === '40001' || code === '40P01' || (cause !== undefined && isConflict(cause))
}

/** Tries that what met a conflict gets. */
const TRIES = 6
/** Milliseconds before the second try; twice as long before each further one, and up to as long again by chance. */
const FIRST_PAUSE = 15

/** Does `act` again where it met a conflict, after pauses that grow; `told` hears of each time. */
export async function againOnConflict<T>(
  act: () => Promise<T>,
  told: (tries: number, error: unknown) => void,
): Promise<T> {
  for (let tries = 1; ; tries++)
    try {
      return await act()
    } catch (error) {
      if (!isConflict(error) || tries >= TRIES) throw error
      told(tries, error)
      await pause(FIRST_PAUSE * 2 ** (tries - 1) * (1 + Math.random()))
    }
}

/** No connection became free in time. */
export class NoConnection extends Error {
  constructor() {
    super('The database had no connection free in time.')
  }
}

/** Milliseconds that a connection is waited for. */
const WAIT = 10_000

type Connected = (
  error: Error | undefined,
  client: PoolClient | undefined,
  done: (release?: unknown) => void,
) => void
type Say = (...said: unknown[]) => unknown

/**
 * A pool whose statements belong to the transaction that is open where they are said: inside one they go by its own
 * connection. A statement by itself that met a conflict is said again; `told` hears of each time.
 */
export class AppPool extends pg.Pool {
  constructor(config: pg.PoolConfig, told: (tries: number, error: unknown) => void = () => undefined) {
    super({ connectionTimeoutMillis: WAIT, ...config })
    const alone = this.query.bind(this) as Say
    const say: Say = (...said) => {
      const inside = openOne()
      if (inside?.pool === this) return Reflect.apply(inside.client.query as Say, inside.client, said)
      if (typeof said.at(-1) === 'function') return alone(...said)
      return againOnConflict(() => alone(...said) as Promise<unknown>, told).catch(inTime)
    }
    this.query = say as pg.Pool['query']
  }

  override connect(): Promise<PoolClient>
  override connect(callback: Connected): void
  override connect(callback?: Connected): Promise<PoolClient> | void {
    if (openOne()?.pool !== this) return callback ? super.connect(callback) : super.connect().catch(inTime)
    const refused = new Error('Inside a transaction: a second connection was asked for.')
    return callback ? callback(refused, undefined, () => undefined) : Promise.reject(refused)
  }
}

function inTime(error: unknown): never {
  throw error instanceof Error && error.message === 'timeout exceeded when trying to connect'
    ? new NoConnection()
    : error
}
