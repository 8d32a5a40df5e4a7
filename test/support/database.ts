import pg from 'pg'

/** A database of its own for one group of tests, on the server that `./brevan test` has started. */
export async function freshDatabase(name: string): Promise<{ url: string; drop(): Promise<void> }> {
  const base = process.env['BREVAN_TEST_DATABASE']
  if (!base) throw new Error('BREVAN_TEST_DATABASE is not set: run the tests by ./brevan test.')
  const database = `test_${name}_${process.pid}`
  const admin = async (sql: string) => {
    const client = new pg.Client({ connectionString: base.replace(/\/[^/]*$/, '/postgres') })
    await client.connect()
    await client.query(sql).finally(() => client.end())
  }
  await admin(`drop database if exists ${database} with (force)`)
  await admin(`create database ${database}`)
  return {
    url: base.replace(/\/[^/]*$/, `/${database}`),
    drop: () => admin(`drop database if exists ${database} with (force)`),
  }
}
