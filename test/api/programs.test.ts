import { expect } from 'chai'
import type { Api } from '#contract/api.ts'
import { SCOPES } from '#contract/scope.ts'
import type { Scope } from '#contract/scope.ts'
import type { Answer } from '#contract/route.ts'
import { Client, eventually } from '#test/support/client.ts'
import { startApp } from '#test/support/running.ts'
import type { Running } from '#test/support/running.ts'

/** A sale as a program sends it: groups, a list, numbers as numbers. */
const sale = (name: string, more: object = {}) => ({
  buyer: {
    name,
    contact: 'Ottilie Crane',
    email: 'ottilie.crane@fennelbottom.example',
    address: '3 Mill Row, Sedge Harbor',
  },
  handover: '2027-05-10',
  payment: 'in advance',
  lots: [
    { kind: 'Nucleus colony', grade: 'A', quantity: 12, price: '168.50' },
    { kind: 'Queen', grade: 'B', quantity: 3, price: 42 },
  ],
  ...more,
})

describe('programs that call', () => {
  let running: Running
  let ines: Client
  let template = ''
  let key = ''
  let program: Client
  const makeKey = async (scopes: readonly Scope[] = SCOPES, days: number | null = null) =>
    ines.call('makeKey', { body: { name: 'Hive portal', scopes, days } })
  const withKey = (secret: string) => new Client(running.url, secret)
  const made = (id: string) =>
    eventually(async () => {
      const found = await program.call('programStarted', { params: { id } })
      return found.state === 'made' && found
    }, 'the agreement')
  const count = async () =>
    (await running.app.pool.query<{ n: number }>('select count(*)::int as n from agreement')).rows[0]!.n

  before(async () => {
    running = await startApp('programs')
    ines = await Client.signedIn(running.url, 'ines.hallow')
    template = (await ines.call('templates')).find(({ name }) => name === 'Colony sale')!.id
    ;({ secret: key } = await makeKey())
    program = withKey(key)
  })
  after(() => running.stop())

  describe('have keys', () => {
    it('whose secret is told once and kept nowhere', async () => {
      const { id, secret } = await makeKey()
      const listed = (await ines.call('keys')).find((each) => each.id === id)!
      expect(secret.startsWith(`${listed.begins}.`)).to.equal(true)
      expect(listed).to.include({ person: 'Ines Hallow', lastUsedAt: null, revokedAt: null })
      expect(JSON.stringify(await ines.call('keys'))).to.not.contain(secret.split('.')[1])
      const { rows } = await running.app.pool.query(`select * from api_key`)
      expect(JSON.stringify(rows)).to.not.contain(secret.split('.')[1])
      const trail = await running.app.pool.query(`select detail from installation_trail`)
      expect(JSON.stringify(trail.rows)).to.not.contain(secret.split('.')[1])
    })

    it('that open what their scopes name and nothing else; a cookie opens nothing there', async () => {
      const reader = withKey((await makeKey(['read templates'])).secret)
      expect((await reader.call('programTemplates')).map(({ name }) => name)).to.include('Colony sale')
      for (const name of ['programAgreements', 'programStarted', 'programTrail', 'programSend'] as const) {
        const { status } = await reader.refused(name, { params: { id: template } })
        expect(status, name).to.equal(403)
      }
      expect((await ines.refused('programTemplates')).status).to.equal(401)
      expect((await reader.refused('templates')).status).to.equal(401)
    })

    it('that can be exchanged with an overlap, and taken back at once', async () => {
      const first = await makeKey(['read templates'])
      const second = await ines.call('rotateKey', { params: { id: first.id }, body: { hours: 2 } })
      expect(second.secret).to.not.equal(first.secret)
      await withKey(first.secret).call('programTemplates')
      await withKey(second.secret).call('programTemplates')
      const third = await ines.call('rotateKey', { params: { id: first.id }, body: { hours: 0 } })
      expect((await withKey(second.secret).refused('programTemplates')).status).to.equal(401)
      await ines.call('revokeKey', { params: { id: first.id } })
      const gone = await withKey(third.secret).refused('programTemplates')
      expect(gone.message).to.equal(
        (await withKey(`${'x'.repeat(12)}.${'y'.repeat(43)}`).refused('programTemplates')).message,
      )
    })

    it('that end on their day and with their person’s work here', async () => {
      const { id, secret } = await makeKey(['read templates'], 1)
      const own = withKey(secret)
      await own.call('programTemplates')
      await running.app.pool.query(
        `update api_key set expires_at = now() - interval '1 minute' where id = $1`,
        [id],
      )
      expect((await own.refused('programTemplates')).status).to.equal(401)
      const petra = await running.app.pool.query<{ id: string }>(
        `select id from person where name = 'Petra Vance'`,
      )
      const hers = await ines.call('makeKey', {
        body: { name: 'Hers', person: petra.rows[0]!.id, scopes: ['read templates'], days: null },
      })
      await running.app.pool.query(`update person set left_at = now() where name = 'Petra Vance'`)
      expect((await withKey(hers.secret).refused('programTemplates')).status).to.equal(401)
    })

    it('that nobody gives more rights than they have themselves', async () => {
      const ruth = await running.app.pool.query<{ id: string }>(
        `select id from person where name = 'Ruth Ambler'`,
      )
      const refused = await ines.refused('makeKey', {
        body: { name: 'Hers', person: ruth.rows[0]!.id, scopes: ['read templates'], days: null },
      })
      expect(refused.message).to.contain('approve')
    })

    it('whose calls are counted, and told', async () => {
      await program.call('programTemplates')
      const left = () => Number(/r=(\d+);t=\d+/.exec(program.heard.get('ratelimit') ?? '')![1])
      const before = left()
      await program.call('programTemplates')
      expect(left()).to.equal(before - 1)
      expect(program.heard.get('ratelimit-policy')).to.match(/^"key";q=\d+;w=60$/)
    })
  })

  describe('start agreements', () => {
    it('of nested values by a schema that says what they are', async () => {
      const { schema } = await program.call('programTemplate', { params: { id: template } })
      expect(Object.keys(schema['properties'] as object)).to.include.members(['buyer', 'handover', 'lots'])
      const started = await program.call('programStart', {
        body: { template, data: sale('Fennel Bottom Farm') },
      })
      expect(started).to.include({ state: 'taken', agreement: null })
      expect(program.heard.get('location')).to.equal(started.at)
      const { agreement } = await made(started.id)
      const told = await program.call('programAgreement', { params: { id: agreement! } })
      expect(told.name).to.contain('Fennel Bottom Farm')
      expect(told.parties.map(({ email }) => email)).to.include('ottilie.crane@fennelbottom.example')
      const { entries } = await program.call('programTrail', { params: { id: agreement! } })
      expect(entries[0]!.detail).to.include({ origin: 'call', named: 'Hive portal' })
      const pdf = await program.call('programDocument', { params: { id: agreement! } })
      expect((await pdf.text()).slice(0, 5)).to.equal('%PDF-')
      expect((await ines.call('agreement', { params: { id: agreement! } })).origin.kind).to.equal('call')
    })

    it('once, however often they ask with the same idempotency key, side by side too', async () => {
      const before = await count()
      const headers = { 'idempotency-key': 'order-4711' }
      const body = { template, data: sale('Marlpit Gardens') }
      const answers = await Promise.all(
        Array.from({ length: 100 }, () => program.call('programStart', { body, headers })),
      )
      expect(new Set(answers.map(({ id }) => id)).size).to.equal(1)
      await made(answers[0]!.id)
      expect((await program.call('programStart', { body, headers })).state).to.equal('made')
      expect(await count()).to.equal(before + 1)
      const other = await program.refused('programStart', {
        body: { template, data: sale('Another') },
        headers,
      })
      expect(other.status).to.equal(422)
      expect(other.message).to.contain('another call')
    })

    it('and are told at its place what is wrong; then nothing is taken', async () => {
      const before = await count()
      const data = sale('Harrow Lane', {
        handover: 'soon',
        lots: [{ kind: 'Queen', grade: 'Z', quantity: 'many', price: 1 }],
        colour: 'amber',
      })
      const { status, problem } = await program.refused('programStart', { body: { template, data } })
      expect(status).to.equal(422)
      expect(problem.faults!.map(({ pointer }) => pointer)).to.have.members([
        '/data/handover',
        '/data/lots/0/grade',
        '/data/lots/0/quantity',
        '/data/colour',
      ])
      expect(await count()).to.equal(before)
    })

    it('in one call, each row by itself', async () => {
      const rows = [sale('One'), sale('Two', { payment: 'in kind' }), sale('Three')].map((data) => ({ data }))
      const headers = { 'idempotency-key': 'batch-1' }
      const answered = await program.call('programStarts', { body: { template, rows }, headers })
      expect(answered.map(({ state }) => state)).to.deep.equal(['taken', 'refused', 'taken'])
      expect(answered[1]!.problems.map(({ pointer }) => pointer)).to.deep.equal(['/rows/1/data/payment'])
      for (const { start } of answered) if (start) await made(start)
      const again = await program.call('programStarts', { body: { template, rows }, headers })
      expect(again.map(({ start }) => start)).to.deep.equal(answered.map(({ start }) => start))
    })

    it('and learn nothing of what another key started', async () => {
      const { id } = await program.call('programStart', { body: { template, data: sale('Quillon Valley') } })
      await made(id)
      const other = withKey((await makeKey()).secret)
      expect((await other.refused('programStarted', { params: { id } })).status).to.equal(404)
    })

    it('of templates that their person may use, and of no other', async () => {
      const team = (await ines.call('teams')).find(({ members }) => !members.includes('Jonah Teel'))!
      const { id } = await ines.call('makeShelf', {
        body: { name: 'Closed', rights: [{ team: team.id, use: true, edit: false, publish: false }] },
      })
      const { shelf } = (await ines.call('templates')).find((each) => each.id === template)!
      await running.app.pool.query('update template set shelf_id = $1 where id = $2', [id, template])
      const jonah = await running.app.pool.query<{ id: string }>(
        `select id from person where name = 'Jonah Teel'`,
      )
      const { secret } = await ines.call('makeKey', {
        body: { name: 'His', person: jonah.rows[0]!.id, scopes: SCOPES, days: null },
      })
      const his = withKey(secret)
      expect((await his.call('programTemplates')).map((each) => each.id)).to.not.include(template)
      expect((await his.refused('programTemplate', { params: { id: template } })).status).to.equal(404)
      expect(
        (await his.refused('programStart', { body: { template, data: sale('Closed') } })).status,
      ).to.be.within(403, 404)
      await running.app.pool.query('update template set shelf_id = $1 where id = $2', [shelf, template])
    })
  })

  describe('follow agreements', () => {
    it('page by page, in the order in which they changed, none left out', async () => {
      const seen: string[] = []
      let cursor: string | null = null
      for (;;) {
        const page: Answer<Api['programAgreements']> = await program.call('programAgreements', {
          query: { limit: '2', ...(cursor ? { cursor } : {}) },
        })
        seen.push(...page.agreements.map(({ id }) => id))
        cursor = page.next
        if (!page.more) break
      }
      const { rows } = await running.app.pool.query<{ id: string }>(
        `select id from agreement order by changed_at, id`,
      )
      expect(seen).to.deep.equal(rows.map(({ id }) => id))
      expect((await program.refused('programAgreements', { query: { cursor: 'bm8' } })).status).to.equal(422)
    })

    it('and send those that are ready, once', async () => {
      const { id } = await program.call('programStart', {
        body: { template, data: sale('Sedge Harbor Bees') },
      })
      const agreement = (await made(id)).agreement!
      const states = await Promise.all(
        [1, 2, 3].map(() =>
          program.call('programSend', { params: { id: agreement } }).then(({ state }) => state),
        ),
      )
      expect(new Set(states)).to.deep.equal(new Set(['out']))
      const { entries } = await program.call('programTrail', { params: { id: agreement } })
      expect(entries.filter(({ act }) => act === 'sent')).to.have.length(1)
    })
  })

  it('that send too much, or nested too deep, are refused in words', async () => {
    const deep = JSON.parse(`${'{"a":'.repeat(250)}1${'}'.repeat(250)}`) as object
    expect((await program.refused('programStart', { body: { template, data: deep } })).message).to.contain(
      'deeper',
    )
    const large = await program.refused('programStart', {
      body: { template, data: sale('Large', { note: 'x'.repeat(5_000_000) }) },
    })
    expect(large.status).to.equal(413)
    expect(large.message).to.contain('2 MB')
  })
})
