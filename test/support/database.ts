import pg from 'pg'

/** A database of its own for one group of tests, on the server that `./brevan test` has started. */
export interface FreshDatabase {
  readonly name: string
  /** As the app's role, which may change no trail. */
  readonly url: string
  /** As the owner of the tables. */
  readonly ownerUrl: string
  drop(): Promise<void>
}

/** `from`: the name of a database that it begins as a copy of; nobody may be connected to that. */
export async function freshDatabase(name: string, from?: string): Promise<FreshDatabase> {
  const [owner, app] = [process.env['BREVAN_TEST_DATABASE'], process.env['BREVAN_TEST_APP']]
  if (!owner || !app) throw new Error('BREVAN_TEST_DATABASE is not set: run the tests by ./brevan test.')
  const database = `test_${name}_${process.pid}`
  const on = (url: string, which: string) => url.replace(/\/[^/]*$/, `/${which}`)
  const admin = async (sql: string) => {
    const client = new pg.Client({ connectionString: on(owner, 'postgres') })
    await client.connect()
    await client.query(sql).finally(() => client.end())
  }
  await admin(`drop database if exists ${database} with (force)`)
  await admin(`create database ${database}${from ? ` template ${from}` : ''}`)
  return {
    name: database,
    url: on(app, database),
    ownerUrl: on(owner, database),
    drop: () => admin(`drop database if exists ${database} with (force)`),
  }
}
