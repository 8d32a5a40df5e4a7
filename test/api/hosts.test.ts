import { type ChildProcess, spawn } from 'node:child_process'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import pg from 'pg'
import { startBucket, type TestBucket } from '#test/support/bucket.ts'
import { Client, eventually } from '#test/support/client.ts'
import { freshDatabase, type FreshDatabase } from '#test/support/database.ts'
import { type Host, startHost } from '#test/support/host.ts'
import { ended, isUp } from '#test/support/processes.ts'
import { freePort } from '#test/support/running.ts'
import { ROWS, thousand } from '#test/support/thousand.ts'

/** Bytes of documents by which a host is known to have made its part. */
const ITS_PART = 2_000_000

describe('a run of a thousand on two hosts, with one database and one bucket', () => {
  let database: FreshDatabase
  let bucket: TestBucket
  let folder = ''
  let env: NodeJS.ProcessEnv = {}
  let url = ''
  let web: ChildProcess
  const hosts: Host[] = []
  let client: Client
  let runId = ''

  const run = () => client.call('run', { params: { id: runId } })
  const start = (name: string, more: NodeJS.ProcessEnv = {}) =>
    spawn('node', [`dist/server/${name}.js`], {
      stdio: ['ignore', 'ignore', 'inherit'],
      env: { ...env, ...more },
    })

  before(async () => {
    database = await freshDatabase('hosts')
    bucket = await startBucket()
    folder = await mkdtemp(join(tmpdir(), 'brevan-hosts-'))
    const [port, smtp] = [await freePort(), await freePort()]
    url = `http://127.0.0.1:${port}`
    env = {
      ...process.env,
      ...bucket.env,
      DATABASE_URL: database.url,
      BREVAN_DATA: folder,
      // Hosts of one database have one key.
      BREVAN_SECRET_KEY: Buffer.alloc(32, 7).toString('base64'),
      BREVAN_PORT: String(port),
      BREVAN_SMTP_PORT: String(smtp),
      BREVAN_DEMO: 'yes',
      BREVAN_DEMO_PAST: 'no',
      BREVAN_THREADS: '1',
      LOG_LEVEL: 'silent',
      MALLOC_ARENA_MAX: '2',
    }
    await ended(start('migrate', { DATABASE_OWNER_URL: database.ownerUrl }))
    await ended(start('demo'))
    web = start('web')
    const reached = [Number(new URL(database.url).port), bucket.port, smtp]
    hosts.push(await startHost(env, reached), await startHost(env, reached))
    await eventually(() => isUp(url), 'the server', 40)
    client = await Client.signedIn(url, 'ines.hallow')
    const sheet = await client.call('uploadSheet', { query: { name: 'thousand.csv' }, body: thousand() })
    const template = (await client.call('templates')).find(({ name }) => name === 'Price schedule')!
    const { id } = await client.call('startRun', {
      body: { name: 'A thousand', templateId: template.id, sheetId: sheet.id },
    })
    runId = id
    await eventually(async () => (await run()).state === 'checked', 'the check', 60)
  })
  after(async () => {
    web.kill('SIGKILL')
    await ended(web)
    await Promise.all(hosts.map((host) => host.stop()))
    await bucket?.stop()
    await database?.drop()
    await rm(folder, { recursive: true, force: true })
  })

  it('is shared by both, and ended by one within a minute of the other’s death', async () => {
    await client.call('generate', { params: { id: runId } })
    await eventually(
      () => Promise.resolve(hosts.every((host) => host.sentTo(bucket.port) > ITS_PART)),
      'both',
      60,
    )
    const { made } = (await run()).rows
    expect(made, 'not over yet').to.be.below(ROWS - 200)
    await hosts[0]!.kill()
    const died = Date.now()
    const end = await eventually(
      async () => {
        const now = await run()
        return now.state === 'generated' && now
      },
      'the end of the run',
      60,
    )
    expect(end.rows).to.include({ ready: 0, hand: 0, made: ROWS, failed: 0 })
    console.log(
      `      ended ${((Date.now() - died) / 1000).toFixed(1)} s after, with ${ROWS - made} rows to go`,
    )
  })

  it('has every row once, its numbers in an unbroken row, and every document in the bucket', async () => {
    const connection = new pg.Client({ connectionString: database.url })
    await connection.connect()
    const query = async <T extends object>(sql: string) => (await connection.query<T>(sql)).rows
    try {
      const [counted] = await query<{ rows: number; agreements: number }>(
        `select count(distinct row)::int as rows, count(*)::int as agreements from claim join agreement using (id)`,
      )
      expect(counted).to.deep.equal({ rows: ROWS, agreements: ROWS })
      const numbers = await query<{ number: number }>('select number from claim order by number')
      expect(numbers.map(({ number }) => number)).to.deep.equal(Array.from({ length: ROWS }, (_, i) => i + 1))
      const last = await query<{ id: string }>('select id from agreement order by number desc limit 3')
      for (const { id } of last)
        expect((await client.call('agreementDocument', { params: { id } })).size).to.be.above(5000)
    } finally {
      await connection.end()
    }
  })
})
