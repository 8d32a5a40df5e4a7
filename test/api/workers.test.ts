import { expect } from 'chai'
import { JOBS } from '#server/jobs/jobs.ts'
import { Presence } from '#server/jobs/presence.ts'
import { eventually } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'

describe('workers, each with the jobs it has in hand', () => {
  let running: Running

  before(async () => {
    running = await startApp('workers', { sheet: false, worker: false })
  })
  after(() => running?.stop())

  /** A job as the queue gives it to a worker, so many seconds ago. */
  async function taken(ago = 0): Promise<string> {
    const { pool, queue } = running.app
    await queue.send('follow-records', {})
    const { rows } = await pool.query<{ id: string }>(
      `update pgboss.job set state = 'active', started_on = now() - make_interval(secs => $1)
       where id = (select id from pgboss.job where name = 'follow-records' and state = 'created' limit 1) returning id`,
      [ago],
    )
    return rows[0]!.id
  }
  const stateOf = async (job: string) =>
    (await running.app.pool.query<{ state: string }>('select state from pgboss.job where id = $1', [job]))
      .rows[0]!.state
  const inHand = (...jobs: readonly string[]) =>
    eventually(async () => {
      const { rows } = await running.app.pool.query('select from worker_job where job = any($1)', [jobs])
      return rows.length === jobs.length
    }, 'the jobs to be in hand')
  const workers = async () =>
    (await running.app.pool.query<{ id: number }>('select id from worker order by id')).rows.map(
      ({ id }) => id,
    )
  /** Ends a worker's connection from outside, and nothing else of it: what the database sees of one that was killed. */
  async function kill(id: number): Promise<void> {
    await running.owner(
      `select pg_terminate_backend(pid, 10000) from pg_locks where locktype = 'advisory' and objid = $1 and granted`,
      [id],
    )
  }

  it('put back what the dead had in hand, and leave the living theirs', async () => {
    const [first, second] = [new Presence(running.app), new Presence(running.app)]
    await first.appear()
    await second.appear()
    const [one, other] = await workers()
    const jobs = [await taken(100), await taken(100)] as const
    let go = () => undefined as void
    const gate = new Promise<void>((resolve) => (go = resolve))
    const work = [first.during(jobs[0], () => gate), second.during(jobs[1], () => gate)]
    await inHand(...jobs)
    await first.freeDead()
    await second.freeDead()
    expect([await stateOf(jobs[0]), await stateOf(jobs[1])]).to.deep.equal(['active', 'active'])
    expect(await workers()).to.deep.equal([one, other])

    await kill(one!)
    await second.freeDead()
    expect([await stateOf(jobs[0]), await stateOf(jobs[1])]).to.deep.equal(['retry', 'active'])
    go()
    await Promise.all(work)
    await first.end()
    await second.end()
  })

  it('take up at once, when they start, what one left that died before', async () => {
    const dying = new Presence(running.app)
    await dying.appear()
    const id = (await workers()).at(-1)!
    const job = await taken()
    void dying.during(job, () => new Promise(() => undefined))
    await inHand(job)
    await kill(id)
    await dying.end()
    const next = new Presence(running.app)
    await running.app.pool.query(
      'insert into worker (id, started_at) overriding system value values ($1, now())',
      [id],
    )
    await next.appear()
    expect(await stateOf(job)).to.equal('retry')
    await next.end()
  })

  it('put back what nobody has said to have in hand, after a while', async () => {
    const worker = new Presence(running.app)
    await worker.appear()
    const [fresh, old] = [await taken(5), await taken(60)]
    await worker.freeDead()
    expect([await stateOf(fresh), await stateOf(old)]).to.deep.equal(['active', 'retry'])
    await worker.end()
  })

  it('leave no connection behind where they end while they are coming', async () => {
    const worker = new Presence(running.app)
    const coming = worker.appear()
    await worker.end()
    await coming
    const { pool } = running.app
    await eventually(
      () => Promise.resolve(pool.idleCount === pool.totalCount),
      'the connection to be given back',
    )
    expect(await workers()).to.deep.equal([])
  })

  it('know every kind of job', () => {
    for (const { lanes, retry } of Object.values(JOBS)) {
      expect(lanes).to.be.above(0)
      expect(retry.expireInSeconds).to.be.above(0)
    }
  })
})
