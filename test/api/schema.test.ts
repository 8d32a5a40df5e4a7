import { expect } from 'chai'
import { generateDrizzleJson, generateMigration } from 'drizzle-kit/api'
import pg from 'pg'
import { migrate } from '#server/db/connect.ts'
import * as schema from '#server/db/schema.ts'
import { freshDatabase } from '#test/support/database.ts'

/** What the catalog of a database says of its tables: columns, constraints and indexes, a line each. */
const CATALOG = `
  select format('%s.%s %s%s%s', r.relname, a.attname, format_type(a.atttypid, a.atttypmod),
      case when a.attnotnull then ' not null' else '' end,
      coalesce(case a.attgenerated when '' then ' default ' else ' generated ' end || pg_get_expr(d.adbin, d.adrelid), '')) as line
    from pg_attribute a join pg_class r on r.oid = a.attrelid
    left join pg_attrdef d on d.adrelid = a.attrelid and d.adnum = a.attnum
    where r.relkind = 'r' and r.relnamespace = 'public'::regnamespace and a.attnum > 0 and not a.attisdropped
  union all
  select format('%s: %s %s', r.relname, c.conname, pg_get_constraintdef(c.oid))
    from pg_constraint c join pg_class r on r.oid = c.conrelid where r.relnamespace = 'public'::regnamespace
  union all
  select indexdef from pg_indexes where schemaname = 'public'`

async function catalogOf(
  name: string,
  fill: (client: pg.Client, urls: { databaseUrl: string; ownerUrl: string }) => Promise<void>,
) {
  const database = await freshDatabase(name)
  const client = new pg.Client({ connectionString: database.ownerUrl })
  await client.connect()
  try {
    await fill(client, { databaseUrl: database.url, ownerUrl: database.ownerUrl })
    const { rows } = await client.query<{ line: string }>(CATALOG)
    return rows.map(({ line }) => line).sort()
  } finally {
    await client.end()
    await database.drop()
  }
}

describe('the migrations', () => {
  it('make of an empty database what the schema says', async () => {
    const migrated = await catalogOf('schema_migrated', (_, urls) => migrate(urls))
    const said = await catalogOf('schema_said', async (client) => {
      // A schema has no word for extensions.
      await client.query('create extension pg_trgm')
      const statements = await generateMigration(generateDrizzleJson({}), generateDrizzleJson(schema))
      for (const statement of statements) await client.query(statement)
    })
    const [missing, more] = [
      said.filter((line) => !migrated.includes(line)),
      migrated.filter((line) => !said.includes(line)),
    ]
    expect({ missing, more }).to.deep.equal({ missing: [], more: [] })
  })
})
