import { expect } from 'chai'
import { type AgreementState, isEnded } from '#core/agreement/states.ts'
import { tellStory } from '#demo/story.ts'
import { readTrail } from '#server/services/agreements/trail.ts'
import { verifyAgreement } from '#server/services/agreements/verifying.ts'
import { Client } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'

interface Told {
  readonly id: string
  readonly number: string
  readonly state: AgreementState
  readonly made: Date
}

describe('the demo’s story so far', function () {
  this.timeout(180_000)
  let running: Running
  let ines: Client

  const told = async () =>
    (
      await running.app.pool.query<Told>(
        'select id, number, state, created_at as made from agreement order by number',
      )
    ).rows

  before(async () => {
    running = await startApp('story', { sheet: false, past: 0.05 })
    ines = await Client.signedIn(running.url, 'ines.hallow')
  })
  after(() => running?.stop())

  it('begins with agreements of two seasons, each with an edition and numbers of its own', async () => {
    const all = await told()
    for (const season of [2025, 2026]) {
      const numbers = all.flatMap(({ number }) => new RegExp(`^LP-${season}-(\\d+)$`).exec(number)?.[1] ?? [])
      expect(numbers.map(Number)).to.deep.equal(numbers.map((_, i) => i + 1))
      expect(numbers.length).to.be.above(3)
    }
    const { rows } = await running.app.pool.query<{ number: number; note: string }>(
      "select number, note from edition where note like 'For the season%' and template_id = (select id from template where name like 'Season%') order by number",
    )
    expect(rows.map(({ note }) => note)).to.deep.equal(
      [2025, 2026, 2027].map((year) => `For the season ${year}`),
    )
  })

  it('goes on where it was broken off, and tells the same', async () => {
    const [{ background }] = [await ines.call('desk')]
    expect(background.map(({ label }) => label)).to.deep.equal(['The past seasons'])
    const broken = { ...running.app, db: brittle(running.app.db, 160) }
    await tellStory(broken as typeof running.app).then(
      () => expect.fail('it was not broken off'),
      () => undefined,
    )
    await tellStory(running.app)
    expect((await ines.call('desk')).background).to.deep.equal([])
    const before = await told()
    await tellStory(running.app)
    expect(await told()).to.deep.equal(before)
  })

  it('leaves all that is long past ended, and some of the last weeks out', async () => {
    const long = Date.now() - 60 * 86_400_000
    const all = await told()
    for (const { number, state, made } of all)
      if (made.getTime() < long) expect(isEnded(state), `${number} is ${state}`).to.equal(true)
    expect(all.filter(({ state }) => state === 'executed').length).to.be.above(all.length / 2)
  })

  it('has trails that hold, in the order of time, all of it before now', async () => {
    for (const { id, number } of await told()) {
      expect((await verifyAgreement(running.app, id)).problems, number).to.deep.equal([])
      const times = (await readTrail(running.app.db, id)).entries.map(({ at }) => at)
      expect([...times].sort(), number).to.deep.equal(times)
      expect(times.at(-1)! < new Date().toISOString()).to.equal(true)
    }
  })

  it('leaves no mail to be sent, and none that holds a link', async () => {
    const { rows } = await running.app.pool.query<{ open: string }>(
      'select count(*) as open from mail where sent_at is null or body is not null',
    )
    expect(rows[0]!.open).to.equal('0')
  })
})

/** A database that goes away after so many calls. */
function brittle<T extends object>(db: T, calls: number): T {
  let left = calls
  return new Proxy(db, {
    get: (target, name) => {
      if (--left < 0) throw new Error('The database went away.')
      const value: unknown = Reflect.get(target, name)
      return typeof value === 'function' ? (value.bind(target) as unknown) : value
    },
  })
}
