import { sql } from 'drizzle-orm'
import type { PgTable } from 'drizzle-orm/pg-core'
import type { App } from './app.ts'
import { transaction } from './transaction.ts'
import { connection, folder, openLink, sealKey, webhook } from '#server/db/schema.ts'
import type { Sealed } from '#server/ground/secrets.ts'

/** Every place in the database where a secret is kept, as SQL reads and writes it. */
export const SEALED: readonly {
  readonly table: PgTable
  readonly column: string
  readonly within?: string
}[] = [
  { table: webhook, column: 'secret' },
  { table: connection, column: 'hook_secret' },
  { table: connection, column: 'auth', within: 'secret' },
  { table: folder, column: 'secret' },
  { table: openLink, column: 'token' },
  { table: sealKey, column: 'passphrase' },
  { table: sealKey, column: 'root_passphrase' },
  { table: sealKey, column: 'time_passphrase' },
]

/** Behind which those queue up that encrypt anew. */
const LOCK = 727_004

/**
 * Encrypts what stands in the clear, from before there was a key, and what an older key encrypted. Throws where a secret was
 * encrypted with a key that is not here. Answers how many secrets were written anew.
 */
export const renewSecrets = (app: App): Promise<number> =>
  transaction(app, async ({ db, secrets }) => {
    await db.execute(sql`select pg_advisory_xact_lock(${LOCK})`)
    let renewed = 0
    for (const { table, column, within } of SEALED) {
      const name = sql.identifier(column)
      const value = within === undefined ? name : sql`${name}->>${sql.raw(`'${within}'`)}`
      const { rows } = await db.execute<{ kept: string }>(
        sql`select distinct ${value} as kept from ${table} where ${value} <> ''`,
      )
      for (const { kept } of rows) {
        if (!secrets.isOld(kept)) {
          secrets.open(kept as Sealed)
          continue
        }
        const sealed = secrets.renewed(kept)
        const written =
          within === undefined
            ? sql`${sealed}`
            : sql`${name} || jsonb_build_object(${sql.raw(`'${within}'`)}, ${sealed}::text)`
        await db.execute(sql`update ${table} set ${name} = ${written} where ${value} = ${kept}`)
        renewed++
      }
    }
    return renewed
  })
