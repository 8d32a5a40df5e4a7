import { type ChildProcess, spawn } from 'node:child_process'
import { readdir } from 'node:fs/promises'
import { expect } from 'chai'
import { Client, eventually } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'

describe('a worker killed in the middle of a run', () => {
  let running: Running
  let ines: Client
  const workers: ChildProcess[] = []

  /** A worker as a process of its own, as `./brevan demo` starts it. */
  const startWorker = () => {
    const { settings } = running.app
    const worker = spawn('node', ['dist/server/worker.js'], {
      stdio: 'ignore',
      env: {
        ...process.env,
        DATABASE_URL: settings.databaseUrl,
        BREVAN_DATA: settings.dataFolder,
        BREVAN_SMTP_PORT: String(settings.smtpPort),
        LOG_LEVEL: 'error',
      },
    })
    workers.push(worker)
    return worker
  }

  before(async () => {
    running = await startApp('crash', { worker: false })
    ines = await Client.signedIn(running.url, 'ines.hallow')
  })
  after(async () => {
    for (const worker of workers) worker.kill('SIGKILL')
    await running?.stop()
  })

  it('makes every row exactly once after it is started again, with numbers in an unbroken row', async () => {
    const sheet = (await ines.call('sheets')).find(({ name }) => name.startsWith('bookings'))
    const template = (await ines.call('templates')).find(({ name }) => name.startsWith('Season'))
    const { id } = await ines.call('startRun', {
      body: { name: 'Season 2027', templateId: template!.id, sheetId: sheet!.id },
    })
    const read = () => ines.call('run', { params: { id } })
    let worker = startWorker()
    await eventually(async () => (await read()).state === 'checked', 'the check')
    await ines.call('generate', { params: { id } })
    for (const enough of [25, 90]) {
      await eventually(async () => (await read()).rows.made >= enough, `${enough} rows`)
      worker.kill('SIGKILL')
      await new Promise((resolve) => worker.once('exit', resolve))
      const atDeath = (await read()).rows
      expect(atDeath.made).to.be.within(enough, 218)
      worker = startWorker()
    }
    const end = await eventually(
      async () => {
        const now = await read()
        return now.state === 'generated' && now
      },
      'the end of the run',
      90,
    )
    expect(end.rows).to.include({ ready: 0, hand: 21, made: 219, failed: 0 })
    const { agreements } = await ines.call('agreements', { query: { run: id } })
    expect(new Set(agreements.map(({ number }) => number)).size).to.equal(219)
    expect(agreements.map(({ number }) => Number(number.slice(-4))).sort((a, b) => a - b)).to.deep.equal(
      Array.from({ length: 219 }, (_, i) => i + 1),
    )
    const { rows } = await running.app.pool.query<{ rows: number; made: number }>(
      `select count(distinct row)::int as rows, count(*)::int as made
       from claim join agreement using (id) where run_id = $1`,
      [id],
    )
    expect(rows[0]).to.deep.equal({ rows: 219, made: 219 })
  })

  it('leaves no file behind that nothing refers to', async () => {
    const folder = `${running.app.settings.dataFolder}/files`
    const stored = (await readdir(folder, { recursive: true }))
      .map((path) => path.split('/').at(-1)!)
      .filter((name) => name.length >= 64)
    const { rows } = await running.app.pool.query<{ sha256: string }>('select sha256 from file')
    expect(stored.sort()).to.deep.equal(rows.map(({ sha256 }) => sha256).sort())
  })
})
