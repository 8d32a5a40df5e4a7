import type { Logger } from 'pino'
import type { PagePool } from '#server/worker-pools/pool.ts'
import type { Db } from '#server/db/connect.ts'
import type { AppPool } from '#server/db/open-transaction.ts'
import type { FileRecords, FileStore } from '#server/files/store.ts'
import type { JobData, JobName } from '#server/queue/job-data.ts'
import type { Queue } from '#server/queue/queue.ts'
import type { Secrets } from '#server/ground/secrets.ts'
import type { Settings } from '#server/ground/settings.ts'

/** What a use case stands on, whether in a transaction or outside of any: `db` is the transaction's inside of one. */
export interface Ground {
  readonly settings: Settings
  /** Of this process, for as long as it lives: what it takes for a while is known by it. */
  readonly holder: string
  readonly db: Db
  /** Which files there are; their bytes are read and stored outside of transactions alone. */
  readonly files: FileRecords
  /** Encrypts the secrets that the database keeps. */
  readonly secrets: Secrets
  readonly log: Logger
  /** The one clock; tests may turn it. */
  readonly now: () => Date
}

/** Outside of any transaction: besides, all that takes time. */
export interface App extends Ground {
  readonly pool: AppPool
  readonly files: FileStore
  readonly pages: PagePool
  readonly queue: Queue
}

/**
 * One transaction. It has no pool, draws nothing, and reads and stores no file, so that inside it nothing waits for anything else;
 * what is drawn, sealed or fetched comes before or after it.
 */
export interface Work extends Ground {
  /** Asks for a job that starts only if the transaction commits. */
  enqueue<N extends JobName>(name: N, data: JobData[N]): Promise<void>
}
