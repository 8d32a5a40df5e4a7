import { type ChildProcess, spawn } from 'node:child_process'
import { mkdtemp, readdir, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import pg from 'pg'
import { Client, eventually } from '#test/support/client.ts'
import { type Cluster, ownCluster } from '#test/support/cluster.ts'
import { ended, isUp } from '#test/support/processes.ts'
import { freePort } from '#test/support/running.ts'
import { ROWS, thousand } from '#test/support/thousand.ts'

describe('a run of a thousand while its programs are killed', () => {
  let cluster: Cluster
  let folder = ''
  let client: Client
  let runId = ''
  let env: NodeJS.ProcessEnv = {}
  let url = ''
  let web: ChildProcess
  const workers: ChildProcess[] = []

  const start = (name: string) =>
    spawn('node', [`dist/server/${name}.js`], { stdio: ['ignore', 'ignore', 'inherit'], env })
  const kill = async (child: ChildProcess) => {
    child.kill('SIGKILL')
    await ended(child)
  }
  const healthy = () => eventually(() => isUp(url), 'the server', 40)
  const made = async () => (await client.call('run', { params: { id: runId } })).rows.made
  const reached = (rows: number) =>
    eventually(
      () =>
        made().then(
          (now) => now >= rows,
          () => false,
        ),
      `${rows} rows`,
      60,
    )
  const query = async <T extends object>(sql: string): Promise<T[]> => {
    const connection = new pg.Client({ connectionString: cluster.url })
    await connection.connect()
    return (await connection.query<T>(sql).finally(() => connection.end())).rows
  }

  before(async () => {
    cluster = await ownCluster()
    folder = await mkdtemp(join(tmpdir(), 'brevan-kills-'))
    const [port, smtp] = [await freePort(), await freePort()]
    url = `http://127.0.0.1:${port}`
    env = {
      ...process.env,
      DATABASE_URL: cluster.url,
      BREVAN_DATA: folder,
      BREVAN_PORT: String(port),
      BREVAN_SMTP_PORT: String(smtp),
      BREVAN_DEMO: 'yes',
      BREVAN_DEMO_PAST: 'no',
      BREVAN_THREADS: '1',
      LOG_LEVEL: 'silent',
    }
    await ended(start('demo'))
    web = start('web')
    workers.push(start('worker'))
    await healthy()
    client = await Client.signedIn(url, 'ines.hallow')
    const sheet = await client.call('uploadSheet', {
      query: { name: 'thousand.csv' },
      body: thousand(),
    })
    const template = (await client.call('templates')).find(({ name }) => name === 'Price schedule')!
    const { id } = await client.call('startRun', {
      body: { name: 'A thousand', templateId: template.id, sheetId: sheet.id },
    })
    runId = id
    await eventually(
      async () => (await client.call('run', { params: { id } })).state === 'checked',
      'the check',
      60,
    )
    await client.call('generate', { params: { id } })
  })
  after(async () => {
    for (const child of [web, ...workers]) child.kill('SIGKILL')
    await Promise.all([web, ...workers].map(ended))
    await cluster?.remove()
    await rm(folder, { recursive: true, force: true })
  })

  it('goes on after a worker, the server and the database have been killed in turn', async () => {
    await reached(100)
    await kill(workers[0]!)
    workers.push(start('worker'))
    await reached(200)
    await kill(web)
    web = start('web')
    await healthy()
    await reached(350)
    cluster.kill()
    await eventually(() => fetch(`${url}/api/health`).then(({ ok }) => !ok), 'the server to miss it')
    await cluster.start()
    await healthy()
    await reached(450)
  })

  it('is shared by a second worker, whichever of them began', async () => {
    workers.push(start('worker'))
    const end = await eventually(
      async () => {
        const run = await client.call('run', { params: { id: runId } })
        return run.state === 'generated' && run
      },
      'the end',
      120,
    )
    expect(end.rows).to.include({ ready: 0, hand: 0, made: ROWS, failed: 0 })
  })

  it('has every row once, and its numbers in an unbroken row', async () => {
    const [counted] = await query<{ rows: number; agreements: number }>(
      `select count(distinct row)::int as rows, count(*)::int as agreements 
       from claim join agreement using (id) where run_id = '${runId}'`,
    )
    expect(counted).to.deep.equal({ rows: ROWS, agreements: ROWS })
    const numbers = await query<{ number: number }>('select number from claim order by number')
    expect(numbers.map(({ number }) => number)).to.deep.equal(Array.from({ length: ROWS }, (_, i) => i + 1))
  })

  it('leaves no file that nothing refers to, and none half written', async () => {
    const known = new Set(
      (await query<{ sha256: string }>('select sha256 from file')).map(({ sha256 }) => sha256),
    )
    await eventually(
      async () => {
        const stored = (await readdir(join(folder, 'files'), { recursive: true })).map((path) =>
          path.split('/').at(-1)!,
        )
        return stored.filter((name) => name.length >= 36).every((name) => known.has(name))
      },
      'the sweep',
      45,
    )
    const files = (await readdir(join(folder, 'files'), { recursive: true })).filter((name) =>
      /[0-9a-f]{64}$/.test(name),
    )
    expect(files.length).to.equal(known.size)
  })
})
