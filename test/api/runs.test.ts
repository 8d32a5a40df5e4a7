import { readFile } from 'node:fs/promises'
import { expect } from 'chai'
import { startWork } from '#server/jobs/work.ts'
import { readSettings } from '#server/ground/settings.ts'
import { makeApp } from '#server/start.ts'
import { Client, eventually } from '#test/support/client.ts'
import { idle, type Running, startApp } from '#test/support/running.ts'
import type { RunProgress } from '#contract/run.ts'

describe('runs', () => {
  let running: Running
  let ines: Client
  let templateId = ''
  let sheetId = ''

  const start = async (name: string) => {
    // The same growers run after run here: they are not asked about.
    const { id } = await ines.call('startRun', {
      body: { name, templateId, sheetId, setup: { duplicates: 'allow' } },
    })
    await eventually(
      async () => (await ines.call('run', { params: { id } })).state === 'checked',
      'the check',
    )
    return id
  }
  const read = (id: string) => ines.call('run', { params: { id } })

  before(async () => {
    running = await startApp('runs')
    ines = await Client.signedIn(running.url, 'ines.hallow')
    templateId = (await ines.call('templates')).find(({ name }) => name.startsWith('Season'))!.id
    sheetId = (await ines.call('sheets')).find(({ name }) => name.startsWith('bookings'))!.id
  })
  after(() => running?.stop())

  it('keep the rows that need a hand with their own reasons, told once', async () => {
    const id = await start('Reasons')
    const rows = await ines.call('runRows', { params: { id } })
    const reasons = rows
      .filter(({ state }) => state === 'needs a hand')
      .map(({ problems }) => problems.map(({ message }) => message))
    expect(reasons).to.have.length(21)
    // A price that is missing makes the total missing; that follows and is not told.
    expect(reasons.every((each) => each.length === 1)).to.equal(true)
    expect(reasons.flat()).to.include.members([
      '“as last year” is not a number.',
      '“partly” is neither yes nor no.',
      '46114 is a number, not a date: the cell has lost its date format.',
      '“quince” is none of: almond, apple, blueberry, cherry, pear, plum.',
    ])
  })

  it('can be paused and gone on with; asking twice to generate changes nothing', async () => {
    const id = await start('Paused')
    await ines.call('generate', { params: { id } })
    await ines.call('generate', { params: { id } })
    await eventually(async () => (await read(id)).rows.made >= 10, 'ten rows')
    await ines.call('pauseRun', { params: { id } })
    // Whatever was in hand is made when the answer is there: nothing moves after it.
    const paused = (await read(id)).rows.made
    expect(paused).to.be.within(10, 218)
    await eventually(() => idle(running.app, 'generate-run'), 'the end of the job')
    expect((await read(id)).rows.made).to.equal(paused)
    expect((await read(id)).state).to.equal('paused')
    expect((await ines.refused('pauseRun', { params: { id } })).status).to.equal(409)
    await ines.call('generate', { params: { id } })
    await eventually(async () => (await read(id)).state === 'generated', 'the end', 60)
    expect((await read(id)).rows.made).to.equal(219)
    expect((await ines.refused('generate', { params: { id } })).message).to.equal(
      'No row is ready to be made.',
    )
  })

  it('are known at the customer whose name they carry, though their sheet belongs to no record', async () => {
    const { agreements } = await ines.call('agreements', { query: { limit: '50' } })
    const nameOn = async (agreement: string) => {
      const { rows } = await running.app.pool.query<{ name: string; record: string | null }>(
        `select data->>'grower.name' as name, record_id as record from agreement where id = $1`,
        [agreement],
      )
      return rows[0]!
    }
    const { name, record } = await nameOn(agreements[0]!.id)
    expect(record).to.equal(null)
    const records = (await ines.call('records', { params: { kind: 'customer' }, query: { search: name } }))
      .records
    const id =
      records.find((each) => each.name === name)?.id ??
      (await ines.call('makeRecord', { params: { kind: 'customer' }, body: { data: { name } } })).id
    const of = (record: string) => ines.call('record', { params: { kind: 'customer', id: record } })
    const { named } = await of(id)
    expect(named.map((each) => each.id)).to.include(agreements[0]!.id)
    for (const each of named) expect(await nameOn(each.id)).to.deep.equal({ name, record: null })
    const other = await ines.call('makeRecord', {
      params: { kind: 'customer' },
      body: { data: { name: `${name.slice(0, 5)}%_` } },
    })
    expect((await of(other.id)).named).to.deep.equal([])
  })

  it('tell their progress as server-sent events, with rate and time left', async () => {
    const id = await start('Events')
    const session = await fetch(`${running.url}/api/demo-session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: '{"email":"ines.hallow@larkmere.example"}',
    })
    const cookie = session.headers.getSetCookie()[0]!.split(';')[0]!
    await ines.call('generate', { params: { id } })
    const response = await fetch(`${running.url}/api/runs/${id}/events`, { headers: { cookie } })
    expect(response.headers.get('content-type')).to.equal('text/event-stream')
    const messages = (await response.text())
      .split('\n\n')
      .filter(Boolean)
      .map((message) => JSON.parse(message.replace(/^data: /, '')) as RunProgress)
    const made = messages.map(({ rows }) => rows.made)
    expect(made).to.deep.equal([...made].sort((a, b) => a - b))
    expect(messages.at(-1)).to.deep.include({ state: 'generated', secondsLeft: null })
    expect(
      messages.some(
        ({ rate, secondsLeft }) => rate !== null && rate > 0 && secondsLeft !== null && secondsLeft > 0,
      ),
    ).to.equal(true)
  })

  it('are shared by two workers without a row made twice', async () => {
    const { settings } = running.app
    const second = await makeApp(
      'worker',
      readSettings({
        DATABASE_URL: settings.databaseUrl,
        BREVAN_DATA: settings.dataFolder,
        BREVAN_SMTP_PORT: String(settings.smtpPort),
        LOG_LEVEL: 'silent',
      }),
    )
    await second.queue.start()
    const stop = await startWork(second)
    const id = await start('Shared')
    await ines.call('generate', { params: { id } })
    // The second worker is given the run as a restarted one would find it.
    await second.queue.send('generate-run', { runId: id })
    await eventually(async () => (await read(id)).state === 'generated', 'the end', 60)
    await stop()
    await second.pages.stop()
    await second.pool.end()
    expect((await read(id)).rows).to.include({ ready: 0, hand: 21, made: 219, failed: 0 })
    const { rows } = await running.app.pool.query<{ last: number; numbers: number }>(
      `select max(number)::int as last, count(*)::int as numbers from claim`,
    )
    expect(rows[0]!.last).to.equal(rows[0]!.numbers)
    // Whoever made a row first: numbers follow the rows.
    const { rows: order } = await running.app.pool.query<{ number: number }>(
      `select number from claim where run_id = $1 order by row`,
      [id],
    )
    const numbers = order.map(({ number }) => number)
    expect(numbers).to.have.length(219)
    expect(numbers).to.deep.equal(numbers.toSorted((a, b) => a - b))
  })

  it('of which one row fails make the others, and try that row again with its own number', async () => {
    const csv = (await readFile('demo/sheets/bookings-2027.csv', 'utf8')).split('\r\n')
    const sheet = await ines.call('uploadSheet', {
      query: { name: 'five.csv' },
      body: new TextEncoder().encode(csv.slice(0, 6).join('\r\n')),
    })
    const params = { id: sheet.id, template: templateId }
    const { columns } = await ines.call('mapping', { params })
    await ines.call('saveMapping', { params, body: { columns: { ...columns, first_season: 'New grower' } } })
    const { id } = await ines.call('startRun', {
      body: { name: 'Five', templateId, sheetId: sheet.id, setup: { duplicates: 'allow' } },
    })
    await eventually(async () => (await read(id)).state === 'checked', 'the check')
    // A fault of the machine, not of the data: the database refuses one agreement's insertion.
    await running.owner(
      `create function fail_row() returns trigger language plpgsql as $$ begin if exists (select from claim where claim.id = new.id and row = 4 and run_id = '${id}') then raise exception 'disk on fire'; end if; return new; end $$`,
    )
    await running.owner(
      'create trigger fail_row before insert on agreement for each row execute function fail_row()',
    )
    await ines.call('generate', { params: { id } })
    await eventually(async () => (await read(id)).state === 'generated', 'the end')
    expect((await read(id)).rows).to.include({ ready: 0, hand: 0, made: 4, failed: 1 })
    expect(
      (await ines.call('runRows', { params: { id } })).find(({ state }) => state === 'failed')!.problems[0]!
        .message,
    ).to.contain('could not be made')
    await running.owner('drop trigger fail_row on agreement')
    await ines.call('generate', { params: { id } })
    await eventually(async () => (await read(id)).rows.made === 5, 'the fifth')
    const numbers = (await ines.call('agreements', { query: { run: id } })).agreements
      .map(({ number }) => Number(number.slice(-4)))
      .sort((a, b) => a - b)
    expect(numbers.at(-1)! - numbers[0]!).to.equal(4)
  })

  it('of a new edition leave agreements made before with theirs', async () => {
    const before = (await ines.call('agreements', { query: { limit: '1' } })).agreements[0]!
    const template = await ines.call('template', { params: { id: templateId } })
    const { version } = await ines.call('saveDraft', {
      params: { id: templateId },
      body: { version: template.draftVersion, content: { ...template.draft, title: 'Season agreement' } },
    })
    const edition = await ines.call('publish', { params: { id: templateId }, body: { version } })
    expect(edition.number).to.equal(2)
    expect((await ines.call('agreement', { params: { id: before.id } })).edition).to.equal(1)
    expect(
      (await ines.refused('publish', { params: { id: templateId }, body: { version } })).message,
    ).to.contain('Nothing has changed since edition 2')
  })
})
