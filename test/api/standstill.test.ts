import { randomUUID } from 'node:crypto'
import { expect } from 'chai'
import { pino } from 'pino'
import { transaction } from '#server/app/transaction.ts'
import { migrate } from '#server/db/connect.ts'
import { isConflict, NoConnection } from '#server/db/open-transaction.ts'
import { JOBS } from '#server/jobs/jobs.ts'
import { Queue } from '#server/queue/queue.ts'
import { Client, eventually } from '#test/support/client.ts'
import { freshDatabase } from '#test/support/database.ts'
import { type Running, startApp } from '#test/support/running.ts'
import { SEASON_ANSWERS } from '#test/support/signing.ts'

const failure = (act: Promise<unknown>): Promise<Error> =>
  act.then(
    () => new Error('it did not fail'),
    (error: unknown) => error as Error,
  )

describe('hosts that start at the same moment', function () {
  this.timeout(300_000)

  it('make what is made once, ten side by side, twenty times, and nothing ends', async () => {
    for (let round = 0; round < 20; round++) {
      const database = await freshDatabase('starts')
      try {
        const urls = { databaseUrl: database.url, ownerUrl: database.ownerUrl }
        await Promise.all(Array.from({ length: 10 }, () => migrate(urls)))
        const queues = Array.from(
          { length: 10 },
          (_, i) => new Queue(database.url, pino({ level: 'silent' }), i % 2 === 0, JOBS),
        )
        await Promise.all(queues.map((queue) => queue.start()))
        await Promise.all(queues.map((queue) => queue.stop()))
      } finally {
        await database.drop()
      }
    }
  })

  it('stand in nobody’s way who works already', async () => {
    const running = await startApp('starting', { sheet: false })
    try {
      let done = false
      const busy = (async () => {
        while (!done) await running.app.queue.send('follow-records', {})
      })()
      for (let round = 0; round < 5; round++) {
        const queue = new Queue(running.app.settings.databaseUrl, pino({ level: 'silent' }), true, JOBS)
        await queue.start()
        await queue.stop()
      }
      done = true
      await busy
    } finally {
      await running.stop()
    }
  })
})

describe('a transaction', () => {
  let running: Running
  before(async () => {
    running = await startApp('standstill', { connections: 4 })
  })
  after(() => running?.stop())

  it('asks for no second connection, draws nothing, and stores no file; what is read in it sees what it wrote', async () => {
    const { app } = running
    await transaction(app, async ({ db }) => {
      expect((await failure(app.pool.connect())).message).to.contain('second connection')
      expect((await failure(transaction(app, () => Promise.resolve()))).message).to.contain(
        'second connection',
      )
      expect((await failure(app.files.put(Buffer.from('x'), 'text/plain'))).message).to.contain('stored')
      expect((await failure(app.pages.readPicture(new Uint8Array()))).message).to.contain('readPicture')
      await db.execute(`create temporary table mine (x int) on commit drop`)
      await app.db.execute('insert into mine values (1)')
    })
    // What it leaves running is outside again.
    let later = Promise.resolve<unknown>(null)
    await transaction(app, () => {
      later = new Promise((resolve) => setTimeout(resolve, 50)).then(() => app.pool.query('select 1'))
      return Promise.resolve()
    })
    await later
  })

  it('that meets a deadlock is run again, and both end', async () => {
    const { app } = running
    await running.owner('create table crossed (id int primary key, n int)')
    await running.owner('insert into crossed values (1, 0), (2, 0)')
    await running.owner('grant all on crossed to public')
    let together = 0
    const cross = (first: number, second: number) =>
      transaction(app, async ({ db }) => {
        await db.execute(`update crossed set n = n + 1 where id = ${first}`)
        together++
        // Only the first tries of both meet; what is run again goes through.
        if (together <= 2) await eventually(() => Promise.resolve(together >= 2), 'the other')
        await db.execute(`update crossed set n = n + 1 where id = ${second}`)
      })
    await Promise.all([cross(1, 2), cross(2, 1)])
    expect(together).to.equal(3)
    const { rows } = await app.pool.query<{ n: number }>('select n from crossed order by id')
    expect(rows.map(({ n }) => n)).to.deep.equal([2, 2])
    expect(isConflict({ code: '40P01' }) && isConflict({ cause: { code: '40001' } })).to.equal(true)
    expect(isConflict({ code: '23505' }) || isConflict(null)).to.equal(false)
  })

  it('that gets no connection in time says so, in words and as 503', async () => {
    const { app } = running
    // One is the worker's own.
    const held = await Promise.all([app.pool.connect(), app.pool.connect(), app.pool.connect()])
    const told = await failure(app.pool.query('select 1'))
    expect(told).to.be.instanceOf(NoConnection)
    const answer = await fetch(`${running.url}/api/templates`, { headers: { cookie: 'brevan_session=x' } })
    expect([answer.status, ((await answer.json()) as { title: string }).title]).to.deep.equal([503, 'Busy'])
    held.forEach((client) => client.release())
  }).timeout(60_000)

  it('never waits for another: six runs at once, makers of single ones beside them, on four connections', async () => {
    const ines = await Client.signedIn(running.url, 'ines.hallow')
    const templateId = (await ines.call('templates')).find(({ name }) => name.startsWith('Season'))!.id
    const sheet = (await ines.call('sheets')).find(({ name }) => name.startsWith('bookings'))!
    const { records } = await ines.call('records', { params: { kind: 'customer' } })
    const runs: string[] = []
    for (let i = 0; i < 6; i++)
      runs.push(
        (
          await ines.call('startRun', {
            body: { name: `Run ${i}`, templateId, sheetId: sheet.id, setup: { duplicates: 'allow' } },
          })
        ).id,
      )
    const stateOf = async (id: string) => (await ines.call('run', { params: { id } })).state
    for (const id of runs) await eventually(async () => (await stateOf(id)) === 'checked', 'the check', 120)
    await Promise.all(runs.map((id) => ines.call('generate', { params: { id } })))
    const single = async (maker: number) => {
      for (let i = 0; i < 3; i++)
        await ines.call('makeOneAgreement', {
          params: { kind: 'customer', id: records[maker * 3 + i]!.id },
          body: { templateId, answers: SEASON_ANSWERS, occasion: randomUUID(), another: true },
        })
    }
    await Promise.all([0, 1, 2].map(single))
    for (const id of runs) await eventually(async () => (await stateOf(id)) === 'generated', 'the run', 400)
    const { rows } = await running.app.pool.query<{ number: number; made: boolean }>(
      `select claim.number, agreement.id is not null as made from claim left join agreement using (id)
       where series_id = (select series_id from template where id = $1) order by claim.number`,
      [templateId],
    )
    expect(rows.map(({ number }) => number)).to.deep.equal(rows.map((_, i) => i + 1))
    expect(rows.every(({ made }) => made)).to.equal(true)
    expect(rows.length).to.be.at.least(6 * 219 + 9)
  }).timeout(900_000)

  it('that fails leaves no number: it is given back, or is the next one’s', async () => {
    const ines = await Client.signedIn(running.url, 'ines.hallow')
    const templateId = (await ines.call('templates')).find(({ name }) => name.startsWith('Season'))!.id
    const { records } = await ines.call('records', { params: { kind: 'customer' } })
    const make = () =>
      ines.call('makeOneAgreement', {
        params: { kind: 'customer', id: records[20]!.id },
        body: { templateId, answers: SEASON_ANSWERS, occasion: randomUUID(), another: true },
      })
    const last = async () =>
      (
        await running.app.pool.query<{ n: number }>(
          'select last_number as n from series where id = (select series_id from template where id = $1)',
          [templateId],
        )
      ).rows[0]!.n
    const before = await last()
    await running.owner(
      `create function full_disk() returns trigger language plpgsql as $$ begin raise 'full'; end $$`,
    )
    await running.owner('create trigger full_disk before insert on revision execute function full_disk()')
    // Two at once: whichever number is given back first, the other's is not the last any more.
    await Promise.all([failure(make()), failure(make()), failure(make())])
    await running.owner('drop trigger full_disk on revision')
    const { rows } = await running.app.pool.query<{ number: number }>('select number from free_number')
    expect((await last()) - rows.length).to.equal(before)
    for (let i = 0; i <= rows.length; i++) await make()
    expect(await last()).to.equal(before + rows.length + 1)
    expect((await running.app.pool.query('select from free_number')).rowCount).to.equal(0)
  })
})
