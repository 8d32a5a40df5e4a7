import { randomUUID } from 'node:crypto'
import { expect } from 'chai'
import { Client, eventually } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'

describe('one agreement of one record, without a run', () => {
  let running: Running
  let ines: Client
  let templateId: string
  let customer: { readonly id: string; readonly name: string }
  const params = () => ({ kind: 'customer', id: customer.id })
  /** What the season's agreement needs and a customer's record does not say. */
  const answers = {
    season: '2027',
    'bloom.start': '2027-03-20',
    'bloom.end': '2027-04-02',
    first_season: 'no',
    colonies: '420',
    frames: '8',
    price_per_colony: '210',
    payment_days: '30',
  }
  const counted = async () => {
    const { rows } = await running.app.pool.query<{ claims: number; made: number; last: number }>(
      `select (select count(*) from claim)::int as claims, (select count(*) from agreement)::int as made,
        (select max(last_number) from series)::int as last`,
    )
    return rows[0]!
  }

  before(async () => {
    running = await startApp('one_agreement')
    ines = await Client.signedIn(running.url, 'ines.hallow')
    templateId = (await ines.call('templates')).find(({ name }) => name.startsWith('Season'))!.id
    const { records } = await ines.call('records', { params: { kind: 'customer' } })
    customer = records[3]!
  })
  after(() => running?.stop())

  it('is proved with what is missing at its field, and with the pages as they would be', async () => {
    const proof = await ines.call('recordProof', { params: params(), body: { templateId } })
    const missing = proof.values.filter(({ problem }) => problem !== null)
    expect(missing.map(({ name }) => name)).to.have.members(Object.keys(answers))
    expect(missing[0]!.problem).to.match(/^“.+” is missing\.$/)
    expect(proof.values.find(({ name }) => name === 'grower.name')).to.include({
      said: customer.name,
      column: 'Customer',
    })
    expect(Buffer.from(proof.pdf!, 'base64').subarray(0, 5).toString()).to.equal('%PDF-')
    expect(proof.pages).to.be.within(4, 7)
    const { rows } = await running.app.pool.query(
      `select from installation_trail where act like 'What an agreement made of%'`,
    )
    expect(rows, 'asking is no act').to.have.length(0)
  })

  it('says how each answer reads, what it asks of approvers, and what cannot be read', async () => {
    const ask = (more: Record<string, string>) =>
      ines.call('recordProof', { params: params(), body: { templateId, answers: { ...answers, ...more } } })
    const whole = await ask({})
    expect(whole.values.filter(({ problem }) => problem !== null)).to.deep.equal([])
    expect(whole.approvals.map(({ approver }) => approver)).to.deep.equal(['operations director'])
    expect(whole.values.find(({ name }) => name === 'price_per_colony')!.said).to.equal('$210.00')
    const wrong = await ask({ colonies: '4oo' })
    expect(wrong.values.find(({ name }) => name === 'colonies')!.problem).to.equal('“4oo” is not a number.')
    // What is given goes before what the record says.
    expect((await ask({ 'grower.name': 'Sedge Harbor' })).name).to.contain('Sedge Harbor')
  })

  it('takes no value for a field that its templates do not have', async () => {
    const body = { templateId, answers: { ...answers, colour: 'red' } }
    const refused = await ines.refused('recordProof', { params: params(), body })
    expect(refused.status).to.equal(422)
    expect(refused.problem.faults).to.deep.equal([
      { pointer: '/answers/colour', detail: 'There is no such field.' },
    ])
  })

  it('is refused while something is missing, and leaves no number behind', async () => {
    const before = await counted()
    const refused = await ines.refused('makeOneAgreement', {
      params: params(),
      body: { templateId, answers: { ...answers, price_per_colony: '' }, occasion: randomUUID() },
    })
    expect(refused.status).to.equal(422)
    expect(refused.problem.faults).to.deep.include({
      pointer: '/answers/price_per_colony',
      detail: '“Price per colony” is missing.',
    })
    expect(await counted()).to.deep.equal(before)
  })

  it('leaves no number behind where the database refuses it', async () => {
    const before = await counted()
    await running.owner(
      `create function refuse() returns trigger language plpgsql as $$ begin raise exception 'full'; end $$`,
    )
    await running.owner(
      'create trigger full_disk before insert on revision for each row execute function refuse()',
    )
    const body = { templateId, answers, occasion: randomUUID() }
    expect((await ines.refused('makeOneAgreement', { params: params(), body })).status).to.equal(500)
    await running.owner('drop trigger full_disk on revision')
    expect(await counted()).to.deep.equal(before)
  })

  it('asked for five times at once on one occasion, is made once; its trail says of what', async () => {
    const before = await counted()
    const body = { templateId, answers, occasion: randomUUID() }
    const made = await Promise.all(
      Array.from({ length: 5 }, () => ines.call('makeOneAgreement', { params: params(), body })),
    )
    expect(new Set(made.map(({ id }) => id)).size).to.equal(1)
    const { id } = made[0]!
    expect(await counted()).to.deep.equal({
      claims: before.claims + 1,
      made: before.made + 1,
      last: before.last + 1,
    })
    // And again much later: the same one, though the customer has a live agreement now.
    expect(await ines.call('makeOneAgreement', { params: params(), body })).to.deep.equal({ id })
    const agreement = await ines.call('agreement', { params: { id } })
    expect(agreement).to.deep.include({
      origin: { kind: 'record', record: customer.id },
      record: { id: customer.id, kind: 'customer', name: customer.name },
      state: 'in approval',
      wordingRead: true,
    })
    const { entries, verified } = await ines.call('trail', { params: { id } })
    expect(verified).to.equal(true)
    expect(entries[0]).to.deep.include({ act: 'made', actor: 'Ines Hallow' })
    expect(entries[0]!.detail).to.include({ origin: 'record', named: customer.name })
  })

  it('is asked about where the customer has a live one, and made all the same if said so', async () => {
    const body = { templateId, answers, occasion: randomUUID() }
    const refused = await ines.refused('makeOneAgreement', { params: params(), body })
    expect(refused.status).to.equal(409)
    expect(refused.message).to.contain('has a live agreement already')
    const { id } = await ines.call('makeOneAgreement', { params: params(), body: { ...body, another: true } })
    expect((await ines.call('agreement', { params: { id } })).revision).to.equal(1)
  })

  it('takes its number between those of a run that is being made, with no gap and none twice', async () => {
    const sheet = (await ines.call('sheets')).find(({ name }) => name.startsWith('bookings'))!
    const { id: run } = await ines.call('startRun', {
      body: { name: 'Beside', templateId, sheetId: sheet.id, setup: { duplicates: 'allow' } },
    })
    const state = async () => (await ines.call('run', { params: { id: run } })).state
    await eventually(async () => (await state()) === 'checked', 'the check')
    await ines.call('generate', { params: { id: run } })
    for (let i = 0; i < 6; i++)
      await ines.call('makeOneAgreement', {
        params: params(),
        body: { templateId, answers, occasion: randomUUID(), another: true },
      })
    await eventually(async () => (await state()) === 'generated', 'the run', 90)
    const { rows } = await running.app.pool.query<{ number: number }>(
      `select claim.number from claim join agreement using (id) where series_id =
        (select series_id from template where id = $1) order by claim.number`,
      [templateId],
    )
    expect(rows.map(({ number }) => number)).to.deep.equal(rows.map((_, i) => i + 1))
  })

  it('is made of a deal by a packet, and of nothing that is no such record', async () => {
    const packet = (await ines.call('packets')).find(({ problem }) => problem === null)!
    const { records } = await ines.call('records', {
      params: { kind: 'deal' },
      query: { where: 'status = "agreed"' },
    })
    const deal = { kind: 'deal', id: records[1]!.id }
    const proof = await ines.call('recordProof', { params: deal, body: { packetId: packet.id } })
    expect(proof.documents).to.have.length(packet.templates.length)
    const { id } = await ines.call('makeOneAgreement', {
      params: deal,
      body: { packetId: packet.id, occasion: randomUUID(), another: true },
    })
    expect((await ines.call('agreement', { params: { id } })).parts).to.have.length(packet.templates.length)
    const elsewhere = { params: { kind: 'customer', id: deal.id }, body: { templateId } }
    expect((await ines.refused('recordProof', elsewhere)).status).to.equal(404)
    const neither = await ines.refused('recordProof', { params: params(), body: {} })
    expect(neither.status).to.equal(422)
  })

  it('is for those who may make runs, and approved by nobody who made it', async () => {
    const gideon = await Client.signedIn(running.url, 'gideon.farrow')
    const body = { templateId, answers, occasion: randomUUID(), another: true }
    expect((await gideon.refused('recordProof', { params: params(), body: { templateId } })).status).to.equal(
      403,
    )
    expect((await gideon.refused('makeOneAgreement', { params: params(), body })).status).to.equal(403)
    // Another person's key is another occasion.
    const { id } = await ines.call('makeOneAgreement', { params: params(), body })
    const petra = await Client.signedIn(running.url, 'petra.vance')
    expect((await petra.call('makeOneAgreement', { params: params(), body })).id).not.to.equal(id)
  })

  it('is made of values that somebody types, without a record, and says so in its trail', async () => {
    const empty = await ines.call('typedProof', { body: { templateId } })
    expect(empty.record).to.equal(null)
    const needed = empty.values.filter(({ required }) => required)
    expect(needed.map(({ missing }) => missing)).to.deep.equal(needed.map(() => true))
    expect(Buffer.from(empty.pdf!, 'base64').subarray(0, 5).toString()).to.equal('%PDF-')
    const typed = {
      ...Object.fromEntries(
        needed.map(({ name, type, choices }) => [
          name,
          choices?.[0] ??
            {
              email: 'rosa@sedgeharbor.example',
              phone: '+1 541 555 0142',
              date: '2027-03-20',
              number: '8',
              money: '210',
              percent: '3',
            }[type as string] ??
            (type === 'yes/no' ? 'no' : 'Sedge Harbor'),
        ]),
      ),
      ...answers,
    }
    const whole = await ines.call('typedProof', { body: { templateId, answers: typed } })
    expect(whole.values.filter(({ problem }) => problem !== null)).to.deep.equal([])
    expect(whole.values.find(({ name }) => name === 'price_per_colony')!.said).to.equal('$210.00')
    const body = { templateId, answers: typed, occasion: randomUUID(), another: true }
    const { id } = await ines.call('makeTyped', { body })
    expect(await ines.call('makeTyped', { body }), 'asked twice').to.deep.equal({ id })
    const made = await ines.call('agreement', { params: { id } })
    expect(made.origin).to.include({ kind: 'typed' })
    const { entries } = await ines.call('trail', { params: { id } })
    expect(entries[0]!.detail).to.deep.include({ origin: 'typed', named: 'Ines Hallow' })
    const refused = await ines.refused('makeTyped', {
      body: { ...body, occasion: randomUUID(), answers: { ...typed, colonies: 'many' } },
    })
    expect(refused.problem.faults).to.deep.equal([
      { pointer: '/answers/colonies', detail: '“many” is not a number.' },
    ])
  })

  it('has the items of its lists typed, and says of each item what is wrong with it', async () => {
    const sale = (await ines.call('templates')).find(({ name }) => name === 'Colony sale')!.id
    const ask = (lists: Record<string, Record<string, string>[]>) =>
      ines.call('typedProof', { body: { templateId: sale, lists } })
    const list = (await ask({})).values.find(({ type }) => type === 'list')!
    expect(list.problem).to.equal(`“${list.label}” has no items.`)
    const item = Object.fromEntries(
      list.items.map(({ name, type, choices }) => [
        name,
        choices?.[0] ?? (type === 'text' ? 'Queens' : type === 'date' ? '2027-03-04' : '3'),
      ]),
    )
    const numeric = list.items.find(({ type }) => ['number', 'money', 'percent'].includes(type))!
    const wrong = (await ask({ [list.name]: [item, { ...item, [numeric.name]: 'a lot' }] })).values.find(
      ({ type }) => type === 'list',
    )!
    expect(wrong.itemProblems).to.deep.equal([
      { item: 1, name: numeric.name, message: '“a lot” is not a number.' },
    ])
    const right = (await ask({ [list.name]: [item, item] })).values.find(({ type }) => type === 'list')!
    expect(right).to.deep.include({ problem: null, itemProblems: [] })
    const refused = await ines.refused('typedProof', {
      body: { templateId: sale, lists: { [list.name]: [{ colour: 'red' }] } },
    })
    expect(refused.problem.faults![0]).to.include({ pointer: `/lists/${list.name}/0/colour` })
  })
})
