import { expect } from 'chai'
import { eq } from 'drizzle-orm'
import { person } from '#server/db/schema.ts'
import { Client, eventually } from '#test/support/client.ts'
import { bringIn } from '#test/support/forms.ts'
import { type Running, startApp } from '#test/support/running.ts'
import { clearedOnes, linkIn, partyOf, setUp } from '#test/support/signing.ts'
import { siteAccessPdf } from '#demo/forms/site-access.ts'

describe('who acts', () => {
  let running: Running
  let ines: Client
  let make: Awaited<ReturnType<typeof clearedOnes>>

  before(async () => {
    running = await startApp('who_acts', { sheet: false })
    ines = await Client.signedIn(running.url, 'ines.hallow')
    make = await clearedOnes(ines)
  })
  after(() => running?.stop())

  const idOf = async (email: string) =>
    (await running.app.db.select({ id: person.id }).from(person).where(eq(person.email, email)))[0]!.id

  it('is nobody by a code that was locked, not by the sender’s own device either', async () => {
    const made = await make()
    const grower = partyOf(made, 'Grower')
    await setUp(ines, made.id, { [grower.name]: { check: 'agreed code', code: 'Willow 4471' } })
    await ines.call('sendAgreements', { body: { agreements: [made.id] } })
    const params = { id: made.id, party: grower.id }
    const { path } = await ines.call('handDevice', { params })
    const token = await linkIn(ines, grower.email)
    const stranger = new Client(running.url)
    for (let i = 0; i < 5; i++)
      await stranger.refused('prove', { params: { token }, body: { code: `no ${i}` } })
    expect((await ines.refused('handDevice', { params })).message).to.contain('Too many wrong codes')
    // The link that was handed over before leads no further than any other.
    const device = path.replace('/sign/', '')
    const seen = await stranger.call('signing', { params: { token: device } })
    expect(seen.may).to.not.include('consent')
    expect((await stranger.refused('consent', { params: { token: device } })).status).to.equal(401)
    await ines.call('takeCourse', {
      params: { id: made.id },
      body: { course: 'new agreed code', party: grower.id, code: 'Alder 9902' },
    })
    expect((await stranger.call('signing', { params: { token: device } })).may).to.include('consent')
  })

  it('has opened an agreement at a touch: a program that only reads it has not', async () => {
    const made = await make()
    await ines.call('sendAgreements', { body: { agreements: [made.id] } })
    const token = await linkIn(ines, partyOf(made, 'Grower').email)
    const anyone = new Client(running.url)
    const acts = async () =>
      (await ines.call('trail', { params: { id: made.id } })).entries.map(({ act }) => act)
    await anyone.call('signing', { params: { token } })
    await anyone.call('signingReading', { params: { token } })
    await (await anyone.call('signingDocument', { params: { token } })).arrayBuffer()
    expect(await acts()).to.not.include('opened')
    await Promise.all([1, 2, 3].map(() => anyone.call('openSigning', { params: { token } })))
    expect((await acts()).filter((act) => act === 'opened')).to.have.length(1)
    await anyone.call('consent', { params: { token } })
    expect((await acts()).filter((act) => act === 'opened')).to.have.length(1)
  })

  it('is signed out everywhere who leaves, and signs in anew on return; own keys are taken back', async () => {
    const id = await idOf('petra.vance@larkmere.example')
    const petra = await Client.signedIn(running.url, 'petra.vance')
    expect((await petra.call('session')).person?.name).to.equal('Petra Vance')
    const { id: key } = await ines.call('makeKey', {
      body: { name: 'Hers', person: id, scopes: ['read templates'], days: null },
    })
    await ines.call('setLeft', { params: { id }, body: { left: true } })
    expect((await petra.call('session')).person).to.equal(null)
    await ines.call('setLeft', { params: { id }, body: { left: false } })
    expect((await petra.call('session')).person).to.equal(null)
    expect((await ines.call('keys')).find((each) => each.id === key)!.revokedAt).to.not.equal(null)
    const again = await Client.signedIn(running.url, 'petra.vance')
    expect((await again.call('session')).person?.name).to.equal('Petra Vance')
  })

  it('gets no secret of a key that opens more than they may themselves, neither a first one nor another', async () => {
    const silas = await idOf('silas.brandt@larkmere.example')
    const { id } = await running.app.db
      .update(person)
      .set({ rights: ['settings', 'runs'] })
      .where(eq(person.email, 'jonah.teel@larkmere.example'))
      .returning({ id: person.id })
      .then(([row]) => row!)
    const jonah = await Client.signedIn(running.url, 'jonah.teel')
    const wish = { name: 'Any', scopes: ['send agreements' as const], days: null }
    expect((await jonah.refused('makeKey', { body: { ...wish, person: silas } })).message).to.contain(
      'which you have not',
    )
    const theirs = await ines.call('makeKey', {
      body: { ...wish, person: await idOf('ines.hallow@larkmere.example') },
    })
    const refused = await jonah.refused('rotateKey', { params: { id: theirs.id }, body: { hours: 0 } })
    expect(refused.message).to.contain('which you have not')
    const own = await jonah.call('makeKey', { body: { ...wish, person: id } })
    expect(
      (await jonah.call('rotateKey', { params: { id: own.id }, body: { hours: 0 } })).secret,
    ).to.not.equal(own.secret)
  })

  it('sees, saves and gives up the agreements of a file that they began themselves, and nobody else’s', async () => {
    const ruth = await Client.signedIn(running.url, 'ruth.ambler')
    const { file } = await bringIn(ines, 'mine.pdf', await siteAccessPdf())
    const { id } = await ines.call('startOneOff', { body: { title: 'Mine', files: [file], record: null } })
    expect((await ines.call('oneOffs', { query: {} })).map((each) => each.id)).to.include(id)
    expect((await ruth.call('oneOffs', { query: {} })).map((each) => each.id)).to.not.include(id)
    const { draft, draftVersion } = await ines.call('oneOff', { params: { id } })
    for (const refused of [
      await ruth.refused('oneOff', { params: { id } }),
      await ruth.refused('saveOneOff', { params: { id }, body: { version: draftVersion, content: draft } }),
      await ruth.refused('makeOneOff', { params: { id }, body: { version: draftVersion } }),
      await ruth.refused('dropOneOff', { params: { id } }),
    ])
      expect(refused.status, refused.message).to.equal(404)
    expect((await ines.call('oneOff', { params: { id } })).name).to.equal('Mine')
  })

  it('is asked as of now where something goes at its time: of somebody who left it does not go', async () => {
    const made = await make()
    const silas = await Client.signedIn(running.url, 'silas.brandt')
    const at = new Date(Date.now() + 3_600_000).toISOString()
    await silas.call('sendAgreements', { body: { agreements: [made.id], unread: true, at } })
    await running.app.db
      .update(person)
      .set({ rights: ['approve'] })
      .where(eq(person.email, 'silas.brandt@larkmere.example'))
    const { sendDue } = await import('#server/services/signing/going.ts')
    await sendDue({ ...running.app, now: () => new Date(Date.now() + 2 * 3_600_000) })
    const now = await eventually(async () => ines.call('agreement', { params: { id: made.id } }), 'it')
    expect(now.state).to.equal('cleared')
    const { entries } = await ines.call('trail', { params: { id: made.id } })
    expect(JSON.stringify(entries.at(-1))).to.contain('rights do not include “send”')
  })
})
