import type { Pool } from 'pg'
import { RateLimiterPostgres } from 'rate-limiter-flexible'

/** Counts in the database, so that all processes count together; `seconds`: how long one that was counted counts. */
export const limiterOf = (
  pool: Pool,
  keyPrefix: string,
  { points, seconds }: { readonly points: number; readonly seconds: number },
) =>
  new RateLimiterPostgres({
    storeClient: pool,
    storeType: 'pool',
    tableName: 'rate_limit',
    tableCreated: true,
    clearExpiredByTimeout: false,
    keyPrefix,
    points,
    duration: seconds,
  })
