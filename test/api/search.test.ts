import { expect } from 'chai'
import { Client } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'

describe('what is found by its name, from anywhere', () => {
  let running: Running
  let ines: Client
  const found = async (q: string, kinds?: string) =>
    (await ines.call('search', { query: kinds ? { q, kinds } : { q } })).map(
      ({ kind, label }) => `${kind}: ${label}`,
    )

  before(async () => {
    running = await startApp('search', { worker: false })
    ines = await Client.signedIn(running.url, 'ines.hallow')
  })
  after(() => running?.stop())

  it('is what begins with the words, of every kind', async () => {
    const some = await found('king')
    expect(some[0]).to.match(/^(customer|deal): Kings/)
    expect(some).to.include('customer: Kingsgate Growers')
    expect(await found('season')).to.include.members([
      'template: Season pollination agreement',
      'packet: Season packet',
    ])
    expect(await found('bookings')).to.include('sheet: bookings-2027.xlsx')
  })

  it('is found by a wrong letter, a missing one, and one too many', async () => {
    for (const wrong of ['Kingzgate', 'Kingsgte', 'Kinggsgate', 'kingsgaet growers'])
      expect(await found(wrong), wrong).to.include('customer: Kingsgate Growers')
    // Half of the trigrams are others then: the threshold of the database's own would not do.
    expect(await found('Irendale')).to.include('customer: Irondale Orchards')
    expect(await found('qqqqqqqq')).to.deep.equal([])
  })

  it('takes the signs of patterns as letters', async () => {
    for (const sign of ['%', '_', '\\', "'"]) expect(await found(`${sign}${sign}`), sign).to.deep.equal([])
  })

  it('is what was changed last where nothing is written, and of some kinds alone where asked so', async () => {
    const { records } = await ines.call('records', { params: { kind: 'customer' } })
    const last = records.at(-1)!
    const { version, data } = await ines.call('record', { params: { kind: 'customer', id: last.id } })
    await ines.call('saveRecord', {
      params: { kind: 'customer', id: last.id },
      body: { version, data: { ...data, phone: '+1 541 555 0177' } },
    })
    expect((await found('', 'customer,deal'))[0]).to.equal(`customer: ${last.name}`)
    expect((await found('e', 'contact')).every((each) => each.startsWith('contact: '))).to.equal(true)
    expect((await ines.refused('search', { query: { q: 'e', kinds: 'customer,secret' } })).status).to.equal(
      422,
    )
  })

  it('is no template of a shelf that is shut to whoever looks', async () => {
    const shut = (await ines.call('shelves')).length
    expect(shut).to.be.above(0)
    const gideon = await Client.signedIn(running.url, 'gideon.farrow')
    const seen = new Set((await gideon.call('templates')).map(({ id }) => id))
    const all = await ines.call('templates')
    for (const { id, name } of all) {
      const hits = await gideon.call('search', { query: { q: name, kinds: 'template' } })
      expect(
        hits.some((hit) => hit.id === id),
        name,
      ).to.equal(seen.has(id))
    }
    expect(
      all.some(({ id }) => !seen.has(id)),
      'one is shut',
    ).to.equal(true)
  })
})
