import { expect } from 'chai'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { TheirKind } from '#core/connection/kinds.ts'
import { pullConnections } from '#server/services/connections/pulling.ts'
import { Client, eventually } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'
import { mailTo } from '#test/support/signing.ts'
import { CLIENT, CustomerSystem } from '../../demo/customer-system/system.ts'

describe('a customer system', () => {
  let running: Running
  let ines: Client
  let system: CustomerSystem
  let address = ''
  let id = ''
  let secret = ''
  type Connection = Answer<Api['connections']>[number]

  before(async () => {
    // Pulls are asked for by the test itself.
    running = await startApp('connections', { sheet: false, worker: true })
    Object.assign(running.app.settings, { inner: ['127.0.0.1'] })
    ines = await Client.signedIn(running.url, 'ines.hallow')
    system = new CustomerSystem()
    for (let i = 1; i <= 60; i++)
      system.add(
        `Willow Farm ${i}`,
        i % 2 ? [{ item: 'Full colony', quantity: i, unit: 'colony', price: 245.5 }] : [],
      )
    address = await system.start()
  })
  after(async () => {
    await running?.stop()
    await system?.stop()
  })

  const auth = () => ({
    kind: 'client',
    tokenUrl: `${address}/oauth/token`,
    client: CLIENT.client,
    secret: CLIENT.secret,
    scope: '',
  })
  const wish = (more: object = {}) => ({
    name: 'Growers',
    address,
    description: '/openapi.json',
    auth: auth(),
    kinds: [] as TheirKind[],
    everyMinutes: null as number | null,
    ...more,
  })
  const read = async (): Promise<Connection> =>
    (await ines.call('connections')).find((each) => each.id === id)!
  const save = async (more: object) => {
    const { version } = await read()
    return ines.call('saveConnection', { params: { id }, body: { ...wish(more), version } })
  }
  const tried = async () =>
    (await ines.call('tryConnection', { params: { id } })).steps.map(({ name, ok, said }) => ({
      name,
      ok,
      said,
    }))
  const pull = async () => {
    await ines.call('pullNow', { params: { id } })
    await pullConnections(running.app)
    return eventually(async () => {
      const now = await read()
      return !now.busy && now.dueAt === null && now.failures === 0
        ? now
        : now.failures > 0 && !now.busy
          ? now
          : null
    }, 'the pull')
  }
  const find = async (kind: 'customer' | 'deal', search: string) => {
    const { records } = await ines.call('records', { params: { kind }, query: { search } })
    return records.find(({ name }) => name.endsWith(search))
  }

  it('is tried step by step: the first that fails says why', async () => {
    ;({ id, secret } = await ines.call('makeConnection', { body: wish({ address: 'http://127.0.0.1:9' }) }))
    expect(secret).to.match(/^whsec_/)
    await save({ address: 'http://127.0.0.1:9', auth: { kind: 'none' } })
    expect(await tried()).to.deep.equal([
      { name: 'The address answers', ok: false, said: 'Nothing listens at that address.' },
    ])
    await save({ auth: { ...auth(), secret: 'wrong' } })
    expect((await tried()).at(-1)).to.deep.equal({
      name: 'It knows who calls',
      ok: false,
      said: 'No token: it answered 401, invalid_client.',
    })
    await save({ description: '/growers', auth: { kind: 'key', header: 'X-Api-Key', secret: CLIENT.key } })
    expect((await tried()).at(-1)?.said).to.equal('No kind of record is described there.')
    await save({})
    expect((await tried()).map(({ ok }) => ok)).to.deep.equal([true, true, true])
  })

  it('keeps what opens it to itself, and what was not given anew as it was', async () => {
    const shown = JSON.stringify(await ines.call('connections'))
    expect(shown).to.not.contain(CLIENT.secret)
    await save({ auth: { ...auth(), secret: '' } })
    expect((await tried()).every(({ ok }) => ok)).to.equal(true)
    const trail = await running.app.pool.query(`select detail from installation_trail`)
    expect(JSON.stringify(trail.rows)).to.not.contain(CLIENT.secret)
    const maren = await Client.signedIn(running.url, 'petra.vance')
    expect((await maren.refused('connections')).status).to.equal(403)
  })

  /** Its kinds as somebody maps them. */
  const mapped = async (): Promise<TheirKind[]> => {
    const { kinds } = await ines.call('findKinds', { params: { id }, body: { path: null } })
    return kinds.map((kind): TheirKind =>
      kind.name === 'growers'
        ? { ...kind, into: 'customer' }
        : {
            ...kind,
            into: 'deal',
            mapping: {
              name: 'title',
              status: 'state',
              'lines.item': 'lines[].item',
              'lines.quantity': 'lines[].quantity',
              'lines.unit': 'lines[].unit',
              'lines.price': 'lines[].price',
            },
            owner: { field: 'grower_id', kind: 'growers' },
          },
    )
  }

  it('tells its kinds by its description or a sample, and is read page by page into records', async () => {
    const { kinds } = await ines.call('findKinds', { params: { id }, body: { path: null } })
    expect(kinds.map(({ name }) => name)).to.deep.equal(['growers', 'bookings'])
    const growers = kinds[0]!
    expect(growers).to.deep.include({
      since: 'changed_since',
      push: { status: 'agreement.status', link: 'agreement.link', files: 'files' },
    })
    expect(growers.mapping).to.include({ name: 'name', email: 'contact.email', legal_form: 'legal.form' })
    const sample = await ines.call('findKinds', { params: { id }, body: { path: '/bookings' } })
    expect(sample.kinds[0]!.fields.map(({ name }) => name)).to.include('lines')
    await save({ kinds: await mapped() })
    const now = await pull()
    expect(now).to.include({ problem: null, records: 90, conflicts: 0, faulty: 0, waiting: 0 })
    const deal = (await find('deal', 'Willow Farm 7'))!
    expect(deal.customer?.name).to.equal('Willow Farm 7')
    expect(deal.data['lines']).to.deep.equal([
      { item: 'Full colony', quantity: '7', unit: 'colony', price: '245.5' },
    ])
    // Nothing has changed: nothing is made twice, and only what changed is asked for.
    const before = system.heard.length
    expect((await pull()).records).to.equal(90)
    expect(system.heard.slice(before).some((call) => call.includes('changed_since'))).to.equal(true)
  })

  it('is read again when it calls, signed; whoever is not known is not heard', async () => {
    system.hook = { url: `${running.url}/api/connections/${id}/hook`, secret: 'whsec_d3Jvbmc=' }
    expect(await system.tell()).to.equal(401)
    system.hook = { url: `${running.url}/api/connections/${id}/hook`, secret }
    const grower = system.growers[4]!
    Object.assign(grower, { address: '77 Hive Row', updated_at: system.now() })
    expect(await system.tell()).to.equal(204)
    await eventually(async () => {
      await pullConnections(running.app)
      return (await find('customer', 'Willow Farm 5'))?.data['address'] === '77 Hive Row'
    }, 'the change')
  })

  it('never overwrites what we changed: both changed is a conflict, which somebody settles', async () => {
    const ours = (await find('customer', 'Willow Farm 9'))!
    await ines.call('saveRecord', {
      params: { kind: 'customer', id: ours.id },
      body: { data: { ...ours.data, address: 'Ours', phone: '+1 503 555 0199' }, version: ours.version },
    })
    const theirs = system.growers[8]!
    Object.assign(theirs, { address: 'Theirs', legal: { form: 'Cooperative' }, updated_at: system.now() })
    expect((await pull()).conflicts).to.equal(1)
    const [conflict] = await ines.call('conflicts', { params: { id } })
    expect(conflict!.differences).to.deep.equal([{ field: 'address', ours: 'Ours', theirs: 'Theirs' }])
    expect((await find('customer', 'Willow Farm 9'))!.data).to.include({ address: 'Ours' })
    const { kind, theirId } = conflict!
    await ines.call('settleConflict', { params: { id }, body: { kind, theirId, take: true } })
    expect((await find('customer', 'Willow Farm 9'))!.data).to.include({
      address: 'Theirs',
      phone: '+1 503 555 0199',
    })
    expect(
      (await ines.refused('settleConflict', { params: { id }, body: { kind, theirId, take: false } })).status,
    ).to.equal(409)
    expect((await pull()).conflicts).to.equal(0)
  })

  it('that changes a type overnight loses nothing: the rest is taken, and what drifted is told', async () => {
    const before = (await find('customer', 'Willow Farm 11'))!
    Object.assign(system.growers[10]!, { address: 'After the night', updated_at: system.now() })
    Object.assign(system.bookings[5]!, { state: 'agreed', updated_at: system.now() })
    system.faults.add('types')
    const now = await pull()
    expect(now.drift.map(({ kind, what, field }) => `${kind} ${what} ${field}`)).to.include.members([
      'growers gone name',
      'bookings type lines[].quantity',
    ])
    expect(now.faulty).to.be.greaterThan(0)
    const after = (await find('customer', 'Willow Farm 11'))!
    expect(after.data).to.deep.equal({ ...before.data, address: 'After the night' })
    const deal = (await find('deal', 'Willow Farm 11'))!
    expect(deal.data).to.deep.include({
      status: 'agreed',
      lines: [{ item: 'Full colony', quantity: '11', unit: 'colony', price: '245.5' }],
    })
    system.faults.delete('types')
    for (const each of [system.growers[10]!, system.bookings[5]!]) each.updated_at = system.now()
    expect((await pull()).faulty).to.equal(0)
  })

  it('that fails is tried again with growing pauses, tells somebody, and comes back whole', async () => {
    const says: Record<string, RegExp> = {
      down: /answered 503/,
      circle: /go in a circle/,
      elsewhere: /answered 302/,
      huge: /larger than 5 MB/,
      words: /no JSON|answered 200/,
      refuses: /refuses who calls|No token/,
    }
    system.add('Willow Farm 61', [])
    for (const [fault, said] of Object.entries(says)) {
      system.faults.add(fault as never)
      // What is kept of tokens is of a system that knew us.
      const now = await pull()
      expect(now.problem, fault).to.match(said)
      expect(now.dueAt, fault).to.not.equal(null)
      system.faults.delete(fault as never)
    }
    expect((await read()).failures).to.equal(Object.keys(says).length)
    expect(await mailTo(ines, 'ines.hallow@larkmere.example', /^Growers cannot be read$/)).to.contain(
      'several times in a row',
    )
    expect((await ines.call('troubles')).map(({ kind, name }) => `${kind} ${name}`)).to.include(
      'connection Growers',
    )
    const well = await pull()
    expect(well).to.include({ problem: null, failures: 0, records: 91 })
    expect((await ines.call('troubles')).filter(({ kind }) => kind === 'connection')).to.deep.equal([])
  })

  it('is ended with what it opened; its records stay', async () => {
    await ines.call('endConnection', { params: { id } })
    expect(await ines.call('connections')).to.deep.equal([])
    expect(await find('customer', 'Willow Farm 61')).to.not.equal(undefined)
    const kept = await running.app.pool.query<{ auth: { secret: string } }>(`select auth from connection`)
    expect(kept.rows[0]!.auth.secret).to.equal('')
    expect(await system.tell()).to.equal(401)
  })
})
