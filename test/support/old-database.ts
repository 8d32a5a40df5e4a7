import { cp, mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { drizzle } from 'drizzle-orm/node-postgres'
import { migrate } from 'drizzle-orm/node-postgres/migrator'
import type pg from 'pg'
import { roomFile } from '#server/ground/room.ts'

// A database as it was after an earlier migration, with a row in every table that it had then.

interface Journal {
  readonly entries: readonly { readonly idx: number; readonly tag: string }[]
}

const FOLDER = roomFile('server/db/migrations')
export const journal = async (): Promise<Journal> =>
  JSON.parse(await readFile(join(FOLDER, 'meta/_journal.json'), 'utf8')) as Journal

/** Brings an empty database to where it was after one of the migrations, and no further. */
export async function migrateTo(client: pg.Client, last: number): Promise<void> {
  const all = await journal()
  const entries = all.entries.filter(({ idx }) => idx <= last)
  const folder = await mkdtemp(join(tmpdir(), 'brevan-old-'))
  try {
    await mkdir(join(folder, 'meta'))
    await writeFile(join(folder, 'meta/_journal.json'), JSON.stringify({ ...all, entries }))
    for (const { tag } of entries) await cp(join(FOLDER, `${tag}.sql`), join(folder, `${tag}.sql`))
    await migrate(drizzle(client), { migrationsFolder: folder })
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

interface Column {
  readonly table: string
  readonly name: string
  readonly type: string
  readonly required: boolean
}
interface Constraint {
  readonly table: string
  readonly kind: 'f' | 'c'
  readonly columns: readonly string[]
  readonly to: string | null
  readonly toColumns: readonly string[] | null
  readonly said: string
}

const columnsOf = async (client: pg.Client): Promise<readonly Column[]> =>
  (
    await client.query<Column>(`
      select c.table_name as table, c.column_name as name, c.udt_name as type,
        c.is_nullable = 'NO' and c.column_default is null and c.is_identity = 'NO' and c.is_generated = 'NEVER' as required
      from information_schema.columns c
      join information_schema.tables t using (table_schema, table_name)
      where c.table_schema = 'public' and t.table_type = 'BASE TABLE' order by c.table_name, c.ordinal_position`)
  ).rows

const constraintsOf = async (client: pg.Client): Promise<readonly Constraint[]> =>
  (
    await client.query<Constraint>(`
      select rel.relname as table, con.contype as kind, pg_get_constraintdef(con.oid) as said, other.relname as to,
        (select array_agg(a.attname::text order by k.n) from unnest(con.conkey) with ordinality k(num, n)
          join pg_attribute a on a.attrelid = con.conrelid and a.attnum = k.num) as columns,
        (select array_agg(a.attname::text order by k.n) from unnest(con.confkey) with ordinality k(num, n)
          join pg_attribute a on a.attrelid = con.confrelid and a.attnum = k.num) as "toColumns"
      from pg_constraint con join pg_class rel on rel.oid = con.conrelid
      join pg_namespace n on n.oid = rel.relnamespace left join pg_class other on other.oid = con.confrelid
      where n.nspname = 'public' and con.contype in ('f', 'c')`)
  ).rows

/** The first of the values that a check allows a column; a hash where it asks for one. */
function firstAllowed(said: string): string | null {
  if (said.includes('[0-9a-f]{64}')) return 'a'.repeat(64)
  return /'((?:[^']|'')*)'::text/.exec(said)?.[1] ?? null
}

const PLAIN: Readonly<Record<string, string>> = {
  uuid: 'gen_random_uuid()',
  text: `'an old text'`,
  bool: 'true',
  int4: '1',
  int8: '1',
  timestamptz: `timestamptz '2026-01-15 12:00:00+00'`,
  date: `date '2026-01-15'`,
  jsonb: `'{}'::jsonb`,
  bytea: `'\\x00'::bytea`,
}
const plain = (type: string): string => {
  if (type.startsWith('_')) return `'{}'`
  const value = PLAIN[type]
  if (!value) throw new Error(`There is no value here for columns of the type ${type}.`)
  return value
}

/** Values, as SQL, of columns of which several have to fit together, by `table.column`. */
const FITTING: Readonly<Record<string, string>> = {
  'claim.occasion': `'an occasion'`,
  'sheet.columns': `'[]'::jsonb`,
  'claim.origin': `'{"kind":"record","record":"5f0c1c1e-0000-4000-8000-000000000001"}'::jsonb`,
}

/** Puts a row into every table; answers how many each has. */
export async function fill(client: pg.Client): Promise<ReadonlyMap<string, number>> {
  const columns = await columnsOf(client)
  const constraints = await constraintsOf(client)
  const left = new Set(columns.map(({ table }) => table))
  const required = (table: string) =>
    new Set(columns.filter((each) => each.table === table && each.required).map(({ name }) => name))
  while (left.size > 0) {
    const before = left.size
    for (const table of left) {
      const needed = required(table)
      const references = constraints.filter(
        ({ kind, table: from, columns: own }) =>
          kind === 'f' && from === table && own.some((name) => needed.has(name)),
      )
      // First what it refers to.
      if (references.some(({ to }) => to !== table && left.has(to!))) continue
      const values = new Map<string, string>()
      for (const { name, type } of columns.filter((each) => each.table === table && each.required))
        values.set(name, plain(type))
      for (const { kind, table: of, columns: own, said } of constraints) {
        if (kind !== 'c' || of !== table || own.length !== 1 || !values.has(own[0]!)) continue
        const allowed = firstAllowed(said)
        if (allowed !== null) values.set(own[0]!, `'${allowed}'`)
      }
      for (const { to, columns: own, toColumns } of references)
        own.forEach((name, i) => values.set(name, `(select ${toColumns![i]!} from "${to!}" limit 1)`))
      for (const { name } of columns.filter((each) => each.table === table)) {
        const given = FITTING[`${table}.${name}`]
        if (given !== undefined) values.set(name, given)
      }
      const names = [...values.keys()]
      await client.query(
        names.length
          ? `insert into "${table}" (${names.map((name) => `"${name}"`).join(', ')}) values (${names.map((name) => values.get(name)).join(', ')})`
          : `insert into "${table}" default values`,
      )
      left.delete(table)
    }
    if (left.size === before) throw new Error(`These tables refer to each other: ${[...left].join(', ')}.`)
  }
  return counts(client)
}

/** How many rows each table has. */
export async function counts(client: pg.Client): Promise<ReadonlyMap<string, number>> {
  const tables = [...new Set((await columnsOf(client)).map(({ table }) => table))]
  const found = new Map<string, number>()
  for (const table of tables) {
    const { rows } = await client.query<{ n: number }>(`select count(*)::int as n from "${table}"`)
    found.set(table, rows[0]!.n)
  }
  return found
}
