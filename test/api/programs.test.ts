import { expect } from 'chai'
import type { Api } from '#contract/api.ts'
import { type Scope, SCOPES } from '#contract/scope.ts'
import type { Answer } from '#contract/route.ts'
import { Client, eventually } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'
import { saleOf } from '#test/support/sale.ts'

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
  after(() => running?.stop())

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
      expect(ines.heard.get('www-authenticate')).to.equal('Bearer')
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

    it('that are a team’s, may no more than it, and outlive whoever they were made for', async () => {
      const teams = await ines.call('teams')
      const desk = teams.find(({ name }) => name === 'Contract desk')!
      const sales = teams.find(({ name }) => name === 'Sales')!
      const wish = { name: 'Team', scopes: ['read templates'], days: null }
      const notHers = await ines.refused('makeKey', { body: { ...wish, team: sales.id } })
      expect(notHers.problem.faults![0]!.pointer).to.equal('/team')
      const { id, secret } = await ines.call('makeKey', { body: { ...wish, team: desk.id } })
      expect((await ines.call('keys')).find((each) => each.id === id)).to.include({ team: 'Contract desk' })
      const own = withKey(secret)
      const before = (await own.call('programTemplates')).map(({ name }) => name)
      // Ines leaves: a key of her own would be refused, the team's goes on in Maren's name, with what the team may.
      const hers = withKey((await makeKey(['read templates'])).secret)
      await running.app.pool.query(`update person set left_at = now() where name = 'Ines Hallow'`)
      expect((await hers.refused('programTemplates')).status).to.equal(401)
      const after = (await own.call('programTemplates')).map(({ name }) => name)
      await running.app.pool.query(`update person set left_at = null where name = 'Ines Hallow'`)
      expect(before).to.include.members(after)
      ines = await Client.signedIn(running.url, 'ines.hallow')
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
        body: { template, data: saleOf('Fennel Bottom Farm') },
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
      const body = { template, data: saleOf('Marlpit Gardens') }
      const answers = await Promise.all(
        Array.from({ length: 100 }, () => program.call('programStart', { body, headers })),
      )
      expect(new Set(answers.map(({ id }) => id)).size).to.equal(1)
      await made(answers[0]!.id)
      expect((await program.call('programStart', { body, headers })).state).to.equal('made')
      expect(await count()).to.equal(before + 1)
      const other = await program.refused('programStart', {
        body: { template, data: saleOf('Another') },
        headers,
      })
      expect(other.status).to.equal(422)
      expect(other.message).to.contain('another call')
    })

    it('and are told at its place what is wrong; then nothing is taken', async () => {
      const before = await count()
      const data = saleOf('Harrow Lane', {
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
      const rows = [saleOf('One'), saleOf('Two', { payment: 'in kind' }), saleOf('Three')].map((data) => ({
        data,
      }))
      const headers = { 'idempotency-key': 'batch-1' }
      const answered = await program.call('programStarts', { body: { template, rows }, headers })
      expect(answered.map(({ state }) => state)).to.deep.equal(['taken', 'refused', 'taken'])
      expect(answered[1]!.problems.map(({ pointer }) => pointer)).to.deep.equal(['/rows/1/data/payment'])
      for (const { start } of answered) if (start) await made(start)
      const again = await program.call('programStarts', { body: { template, rows }, headers })
      expect(again.map(({ start }) => start)).to.deep.equal(answered.map(({ start }) => start))
    })

    it('about a record, with which they stay; of none that is not there', async () => {
      const all = await program.call('programRecords', {
        params: { kind: 'customer' },
        query: { limit: '3' },
      })
      expect(all.records).to.have.length(3)
      expect(all.more).to.equal(true)
      const [about] = (
        await program.call('programRecords', {
          params: { kind: 'customer' },
          query: { name: all.records[0]!.name.toUpperCase() },
        })
      ).records
      const { id } = await program.call('programStart', {
        body: { template, record: about!.id, data: saleOf('Of a record') },
      })
      const { agreement } = await made(id)
      const page = await program.call('programAgreements', { query: { record: about!.id } })
      expect(page.agreements.map((each) => each.id)).to.deep.equal([agreement])
      const { agreements } = await ines.call('agreements', { query: { record: about!.id } })
      expect(agreements.map((each) => each.id)).to.deep.equal([agreement])
      const detail = await ines.call('record', { params: { kind: 'customer', id: about!.id } })
      expect(detail.agreements.map((each) => each.id)).to.include(agreement)
      const nowhere = await program.refused('programStart', {
        body: { template, record: template, data: saleOf('Nowhere') },
      })
      expect(nowhere.problem.faults!.map(({ pointer }) => pointer)).to.deep.equal(['/record'])
      const rows = [{ data: saleOf('A') }, { record: template, data: saleOf('B') }]
      const answered = await program.call('programStarts', { body: { template, rows } })
      expect(answered.map(({ state }) => state)).to.deep.equal(['taken', 'refused'])
    })

    it('as a run that people read and mend: once, its rows with lists one agreement each', async () => {
      const rows = [
        saleOf('Run one'),
        saleOf('Run two', { handover: 'soon' }),
        saleOf('Run three', { lots: [] }),
      ].map((data) => ({ data }))
      const body = { template, name: 'From the portal', rows }
      const headers = { 'idempotency-key': 'run-1' }
      const answers = await Promise.all(
        [1, 2, 3].map(() => program.call('programStartRun', { body, headers })),
      )
      expect(new Set(answers.map(({ id }) => id)).size).to.equal(1)
      const { id } = answers[0]!
      const checked = await eventually(async () => {
        const found = await program.call('programRun', { params: { id } })
        return found.state === 'checked' && found
      }, 'the check')
      expect(checked.rows).to.include({ ready: 1, hand: 2 })
      expect((await ines.call('runs')).filter(({ name }) => name === 'From the portal')).to.have.length(1)
      await ines.call('generate', { params: { id } })
      await eventually(
        async () => (await program.call('programRun', { params: { id } })).rows.made === 1,
        'what is ready',
      )
      const { agreements } = await ines.call('agreements', { query: { run: id } })
      expect(agreements[0]!.name).to.contain('Run one')
      const other = await program.refused('programStartRun', { body: { ...body, name: 'Another' }, headers })
      expect(other.message).to.contain('another call')
      const unknown = await program.refused('programStartRun', {
        body: { template, name: 'No', rows: [{ data: { colour: 'amber' } }] },
        headers: { 'idempotency-key': 'run-2' },
      })
      expect(unknown.problem.faults!.map(({ pointer }) => pointer)).to.deep.equal(['/rows/0/data/colour'])
      // Mended, it may come again as the same call.
      await program.call('programStartRun', {
        body: { template, name: 'Yes', rows: [{ data: saleOf('Mended') }] },
        headers: { 'idempotency-key': 'run-2' },
      })
    })

    it('of a packet, whose documents need each value once', async () => {
      const [packet] = await program.call('programPackets')
      const { schema, templates } = await program.call('programPacket', { params: { id: packet!.id } })
      expect(templates.length).to.be.greaterThan(1)
      expect(Object.keys(schema['properties'] as object)).to.include.members(['grower', 'season'])
      const refused = await program.refused('programStart', { body: { packet: packet!.id, data: {} } })
      const { required } = schema as { required: string[] }
      expect(refused.problem.faults!.map(({ pointer }) => pointer.split('/')[2])).to.include.members(
        required.filter((name) => name !== 'lots'),
      )
      const both = await program.refused('programStart', {
        body: { packet: packet!.id, template, data: {} },
      })
      expect(both.message).to.contain('a template or a packet')
    })

    it('and learn nothing of what another key started', async () => {
      const { id } = await program.call('programStart', {
        body: { template, data: saleOf('Quillon Valley') },
      })
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
        (await his.refused('programStart', { body: { template, data: saleOf('Closed') } })).status,
      ).to.be.within(403, 404)
      await running.app.pool.query('update template set shelf_id = $1 where id = $2', [shelf, template])
    })
  })

  it('are told of by the desk where something they started could not be made, and have it made again', async () => {
    const { id } = await program.call('programStart', { body: { template, data: saleOf('Broken off') } })
    await made(id)
    // As if it could not have been made.
    await running.app.pool.query(
      `update program_start set state = 'refused', agreement_id = null, ended_at = now(), tries = 5,
         problems = '[{"pointer": "", "message": "no room"}]' where id = $1`,
      [id],
    )
    const [trouble] = await ines.call('troubles')
    expect(trouble).to.include({ kind: 'start', id, name: 'Hive portal', problem: 'no room' })
    const jonah = await Client.signedIn(running.url, 'jonah.teel')
    expect(await jonah.call('troubles')).to.deep.equal([])
    expect((await jonah.refused('startAgain', { params: { id } })).status).to.equal(403)
    await ines.call('startAgain', { params: { id } })
    const before = await count()
    await made(id)
    // It had been made after all: there is no second one.
    expect(await count()).to.equal(before)
    expect((await ines.refused('startAgain', { params: { id } })).status).to.equal(409)
  })

  it('ask people to answer a form, once per reference, and see what was made of it', async () => {
    const { id } = await ines.call('makeIntake', { body: { templates: [template] } })
    expect((await program.call('programForms')).map((each) => each.id)).to.include(id)
    const { schema } = await program.call('programForm', { params: { id } })
    expect(Object.keys(schema['properties'] as object)).to.include.members(['buyer', 'lots'])
    const ask = (data: object, reference: string) => ({
      params: { id },
      headers: { 'idempotency-key': reference },
      body: { name: 'Ada Moss', email: 'ada@moss.example', language: 'fr', days: 3, data },
    })
    const wrong = await program.refused('programAsk', ask({ handover: 'soon', buyr: {} }, 'form-0'))
    expect(wrong.problem.faults?.map(({ pointer }) => pointer)).to.have.members([
      '/data/handover',
      '/data/buyr',
    ])
    const asked = await Promise.all(
      Array.from({ length: 10 }, () => program.call('programAsk', ask(saleOf('Moss Lane'), 'form-1'))),
    )
    expect(new Set(asked.map((each) => each.id)).size).to.equal(1)
    const [url, ...more] = asked.flatMap((each) => each.url ?? [])
    expect(more).to.deep.equal([])
    const token = url!.split('/').at(-1)!
    const outsider = new Client(running.url)
    const { answer } = await outsider.call('form', { params: { token } })
    expect(answer?.answers).to.include({ 'buyer.name': 'Moss Lane', handover: '2027-05-10' })
    await outsider.call('handInAnswers', {
      params: { token },
      body: { answers: answer!.answers, language: 'fr' },
    })
    const stands = await eventually(async () => {
      const now = await program.call('programAnswer', { params: { id: asked[0]!.id } })
      return now.state === 'made' && now
    }, 'the agreement')
    expect(stands.agreements).to.have.length(1)
    const other = withKey((await makeKey()).secret)
    expect((await other.refused('programAnswer', { params: { id: asked[0]!.id } })).status).to.equal(404)
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
        body: { template, data: saleOf('Sedge Harbor Bees') },
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
      body: { template, data: saleOf('Large', { note: 'x'.repeat(5_000_000) }) },
    })
    expect(large.status).to.equal(413)
    expect(large.message).to.contain('2 MB')
  })
})
