import type { Logger } from 'pino'
import type { PagePool } from '#server/lanes/pool.ts'
import type { Db } from '#server/db/connect.ts'
import type { AppPool } from '#server/db/open-transaction.ts'
import type { FileStore } from '#server/files/store.ts'
import type { Queue } from '#server/queue/queue.ts'
import type { Secrets } from '#server/ground/secrets.ts'
import type { Settings } from '#server/ground/settings.ts'

/** What every use case stands on. `now` is the clock; tests may turn it. */
export interface App {
  readonly settings: Settings
  readonly pool: AppPool
  /** Of this process, for as long as it lives: what it takes for a while is known by it. */
  readonly holder: string
  readonly db: Db
  readonly files: FileStore
  readonly pages: PagePool
  readonly queue: Queue
  /** Encrypts the secrets that the database keeps. */
  readonly secrets: Secrets
  readonly log: Logger
  readonly now: () => Date
}
