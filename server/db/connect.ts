import { readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres'
import { migrate as runMigrations } from 'drizzle-orm/node-postgres/migrator'
import pg from 'pg'
import { roomFile } from '#server/ground/room.ts'
import { AppPool } from './open-transaction.ts'
import * as schema from './schema.ts'

/** Queries of the tables: on the pool, or in a transaction. */
export type Db = NodePgDatabase<typeof schema>

/**
 * A machine that loses its power says nothing: its rows, locks and jobs are free once the database misses it, which by the
 * system's own settings takes two hours.
 */
const NOTICE_DEATH = '-c tcp_keepalives_idle=15 -c tcp_keepalives_interval=5 -c tcp_keepalives_count=3'

/** Opens a pool; `onConflict` hears of each statement that is said again. */
export const connect = (
  url: string,
  connections = 12,
  onConflict?: (tries: number, error: unknown) => void,
): { pool: AppPool; db: Db } => {
  const pool = new AppPool({ connectionString: url, max: connections, options: NOTICE_DEATH }, onConflict)
  // A connection that breaks while it is lent out fails the query in hand; without a listener it would end the process.
  pool.on('connect', (client) => client.on('error', () => undefined))
  return { pool, db: drizzle(pool, { schema }) }
}

/** Queries on one connection. */
export const onClient = (client: pg.PoolClient): Db => drizzle(client, { schema })

/**
 * Brings the database to the newest schema; safe to run from several processes at once. By its owner, where that is another
 * role than the app's: the app then may do what it does and no more, and can change neither a trail nor its table. Where
 * the app's role is not the owner and no owner is given, the schema is the owner's matter and stays.
 */
export async function migrate(urls: {
  readonly databaseUrl: string
  readonly ownerUrl: string | null
}): Promise<void> {
  const client = new pg.Client({ connectionString: urls.ownerUrl ?? urls.databaseUrl })
  await client.connect()
  try {
    if (urls.ownerUrl === null && !(await mayMigrate(client))) return
    await client.query('select pg_advisory_lock(727001)')
    await runMigrations(drizzle(client, { schema }), { migrationsFolder: MIGRATIONS }).catch(nameFile)
    const role = decodeURIComponent(new URL(urls.databaseUrl).username)
    if (urls.ownerUrl !== null) await grant(client, role)
  } finally {
    await client.end()
  }
}

const MIGRATIONS = roomFile('server/db/migrations')

/** Says in which file the statement stands that failed. */
async function nameFile(error: unknown): Promise<never> {
  const { query } = error as { query?: unknown }
  if (typeof query !== 'string') throw error
  for (const name of (await readdir(MIGRATIONS)).filter((each) => each.endsWith('.sql')).reverse())
    if ((await readFile(join(MIGRATIONS, name), 'utf8')).includes(query))
      throw new Error(`Migration ${name} failed`, { cause: error })
  throw error
}

async function mayMigrate(client: pg.Client): Promise<boolean> {
  const { rows } = await client.query<{ own: boolean }>(
    `select tableowner = current_user as own from pg_tables
     where schemaname = 'drizzle' and tablename = '__drizzle_migrations'`,
  )
  return rows[0]?.own ?? true
}

/** Tables of which the app's role may add rows and read them, and nothing else. */
const APPEND_ONLY = ['trail', 'installation_trail', 'trail_anchor', 'edition', 'rule_edition'] as const

async function grant(client: pg.Client, role: string): Promise<void> {
  const { rows } = await client.query<{ same: boolean }>('select current_user = $1 as same', [role])
  if (rows[0]!.same) return
  const to = pg.escapeIdentifier(role)
  await client.query(`
    grant usage on schema public to ${to};
    grant select, insert, update, delete on all tables in schema public to ${to};
    grant usage, select on all sequences in schema public to ${to};
    revoke all on ${APPEND_ONLY.join(', ')} from ${to};
    grant select, insert on ${APPEND_ONLY.join(', ')} to ${to};
    -- The queue makes its own schema, and asks to even where it is there.
    do $$ begin execute format('grant create on database %I to ${to}', current_database()); end $$;
    create schema if not exists pgboss authorization ${to};
    alter schema pgboss owner to ${to};
    do $$ declare each record; begin
      for each in select format('alter table %s owner to %I', c.oid::regclass, ${pg.escapeLiteral(role)}) as act
        from pg_class c join pg_namespace n on n.oid = c.relnamespace
        where n.nspname = 'pgboss' and c.relkind in ('r', 'p') and not c.relispartition
        union all select format('alter table %s owner to %I', c.oid::regclass, ${pg.escapeLiteral(role)})
        from pg_class c join pg_namespace n on n.oid = c.relnamespace
        where n.nspname = 'pgboss' and c.relkind = 'r' and c.relispartition
        union all select format('alter function %s owner to %I', p.oid::regprocedure, ${pg.escapeLiteral(role)})
        from pg_proc p join pg_namespace n on n.oid = p.pronamespace where n.nspname = 'pgboss'
        union all select format('alter type %s owner to %I', t.oid::regtype, ${pg.escapeLiteral(role)})
        from pg_type t join pg_namespace n on n.oid = t.typnamespace where n.nspname = 'pgboss' and t.typtype = 'e'
      loop execute each.act; end loop;
    end $$;`)
}
