import { drizzle } from 'drizzle-orm/node-postgres'
import type { NodePgDatabase } from 'drizzle-orm/node-postgres'
import { migrate as runMigrations } from 'drizzle-orm/node-postgres/migrator'
import pg from 'pg'
import { roomFile } from '#server/files/room.ts'
import * as schema from './schema.ts'

export type Db = NodePgDatabase<typeof schema>

export const connect = (url: string, connections = 12): { pool: pg.Pool; db: Db } => {
  const pool = new pg.Pool({ connectionString: url, max: connections })
  // A connection that breaks while it is lent out fails the query in hand; without a listener it would end the process.
  pool.on('connect', (client) => client.on('error', () => undefined))
  return { pool, db: drizzle(pool, { schema }) }
}

export const onClient = (client: pg.PoolClient): Db => drizzle(client, { schema })

/** Brings the database to the newest schema; safe to run from several processes at once. */
export async function migrate(pool: pg.Pool): Promise<void> {
  const client = await pool.connect()
  try {
    await client.query('select pg_advisory_lock(727001)')
    await runMigrations(onClient(client), { migrationsFolder: roomFile('server/db/migrations') })
  } finally {
    await client.query('select pg_advisory_unlock(727001)').finally(() => client.release())
  }
}
