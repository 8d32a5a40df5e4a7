import type { Logger } from 'pino'
import type { Pool } from 'pg'
import type { PagePool } from '#server/lanes/pool.ts'
import type { Db } from '#server/db/connect.ts'
import type { FileStore } from '#server/files/store.ts'
import type { Queue } from '#server/queue/queue.ts'
import type { Settings } from '#server/ground/settings.ts'

/** What every use case stands on. `now` is the clock; tests may turn it. */
export interface App {
  readonly settings: Settings
  readonly pool: Pool
  readonly db: Db
  readonly files: FileStore
  readonly pages: PagePool
  readonly queue: Queue
  readonly log: Logger
  readonly now: () => Date
}
