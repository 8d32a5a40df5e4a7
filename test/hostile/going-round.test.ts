import { expect } from 'chai'
import { BOOKING_HEADER, seasonSheet, signAll } from '#test/support/story.ts'
import { closeDay } from '#server/services/agreements/verifying.ts'
import { sweepNight } from '#server/services/signing/sweeping.ts'
import { ownKeys } from '#server/services/signing/seal-keys.ts'
import { Client, eventually } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'
import { backInForce, outOfForce, putInForce, rulesThat } from '#test/support/rules.ts'

describe('what nobody gets round', () => {
  let running: Running
  let ines: Client
  let petra: Client
  let season = ''

  before(async () => {
    running = await startApp('going_round', { sheet: false })
    ines = await Client.signedIn(running.url, 'ines.hallow')
    petra = await Client.signedIn(running.url, 'petra.vance')
    season = (await ines.call('templates')).find(({ name }) => name.startsWith('Season'))!.id
  })
  after(() => running?.stop())

  /** A run of a few sound bookings by somebody, made. */
  const made = async (by: Client, name: string, rows: number, from = 0, generatedBy = by) => {
    const sheet = await by.call('uploadSheet', {
      query: { name: `${name}.csv` },
      body: seasonSheet(rows, from),
    })
    const { id } = await by.call('startRun', {
      body: { name, templateId: season, sheetId: sheet.id, setup: { duplicates: 'allow' } },
    })
    const read = () => by.call('run', { params: { id } })
    await eventually(async () => (await read()).state === 'checked', 'the check')
    const setup = await by.call('runSetup', { params: { id } })
    await by.call('changeRun', {
      params: { id },
      body: { mapping: { ...setup.mapping, first_season: 'New grower' } },
    })
    await eventually(async () => (await read()).state === 'checked', 'the second check')
    await generatedBy.call('generate', { params: { id } })
    await eventually(async () => (await read()).state === 'generated', 'the making', 60)
    const { agreements } = await by.call('agreements', { query: { run: id } })
    return { id, sheet, agreements: agreements.toSorted((a, b) => (a.number < b.number ? -1 : 1)) }
  }

  it('a change by hand is of the words alone: no total, no signer, no formula comes with it', async () => {
    const { agreements } = await made(petra, 'By hand', 1)
    const params = { id: agreements[0]!.id }
    const wording = await petra.call('agreementWording', { params })
    const forged = structuredClone(wording.content)
    const total = forged.outline.find(({ name }) => name === 'total')!
    Object.assign(total, { computed: '1' })
    for (const role of forged.roles)
      if (role.fill.rule === 'standing person') Object.assign(role.fill, { email: 'petra@private.example' })
    const text = JSON.stringify(forged.document).replace('laying queen', 'young laying queen')
    await petra.call('saveWording', {
      params,
      body: { revision: wording.revision, content: forged, document: JSON.parse(text) as object, note: '' },
    })
    const after = await petra.call('agreementWording', { params })
    expect(after.content.outline).to.deep.equal(wording.content.outline)
    expect(after.content.roles).to.deep.equal(wording.content.roles)
    expect(JSON.stringify(after.content.document)).to.contain('young laying queen')
    const parties = (await petra.call('agreement', { params })).parties.map(({ email }) => email)
    expect(parties.join()).not.to.contain('private')
  })

  it('nobody approves what they shaped: who started it, changed its rows or set-up, or edited its words', async () => {
    const former = await outOfForce(ines)
    const lead = await Client.signedIn(running.url, 'ruth.ambler')
    await putInForce(ines, rulesThat([['total > 0', 'sales lead']]))
    // Ruth Ambler leads sales, and is given what she needs to have a hand in it.
    await running.owner(
      `update person set rights = rights || '{runs}'::text[] where post = 'sales lead' and not 'runs' = any(rights)`,
    )
    const edited = await made(petra, 'Edited', 1, 3)
    const mended = await made(petra, 'Mended', 1, 4)
    const mine = async (id: string) => {
      const found = await lead.call('agreement', { params: { id } })
      return found.steps.find(({ approver, state }) => approver === 'sales lead' && state === 'waiting')!
    }
    const first = edited.agreements[0]!.id
    expect((await mine(first)).mine).to.equal(true)
    const wording = await lead.call('agreementWording', { params: { id: first } })
    const document = JSON.parse(
      JSON.stringify(wording.content.document).replace('laying queen', 'quiet laying queen'),
    ) as object
    await lead.call('saveWording', { params: { id: first }, body: { revision: 1, document, note: '' } })
    const step = await mine(first)
    expect(step.mine).to.equal(false)
    const refused = await lead.refused('decide', {
      params: { id: first, step: step.id },
      body: { decision: 'approve' },
    })
    expect(refused.status).to.equal(403)
    expect((await lead.call('desk')).approvals.some(({ agreement }) => agreement.id === first)).to.equal(
      false,
    )
    // What she mended in the sheet comes into agreements that are made again from it.
    const column = mended.sheet.columns.find(({ name }) => name === 'Acres')!
    await lead.call('mendCells', {
      params: { id: mended.sheet.id },
      body: { cells: [{ row: 2, column: column.name, value: '77' }] },
    })
    await eventually(
      async () => (await petra.call('run', { params: { id: mended.id } })).rows.changed === 1,
      'the change to be seen',
    )
    await petra.call('redoRows', { params: { id: mended.id }, body: {} })
    const second = mended.agreements[0]!.id
    await eventually(
      async () => (await petra.call('agreement', { params: { id: second } })).revision === 2,
      'the making again',
    )
    expect((await mine(second)).mine).to.equal(false)
    await outOfForce(ines)
    await backInForce(ines, former)
  })

  it('a shelf guards every act on what was made from its templates', async () => {
    const { id, agreements } = await made(petra, 'Guarded', 1, 5)
    const shelf = await ines.call('makeShelf', { body: { name: 'Locked', rights: [] } })
    await ines.call('shelveTemplate', { params: { id: season }, body: { shelf: shelf.id } })
    const teams = await ines.call('teams')
    const hers = teams.find(
      ({ members }) => members.includes('Ines Hallow') && !members.includes('Petra Vance'),
    )
    expect(hers, 'a team that Ines Hallow is in, and Petra Vance is not').not.to.equal(undefined)
    await ines.call('saveShelf', {
      params: { id: shelf.id },
      body: { name: 'Locked', rights: [{ team: hers!.id, use: true, edit: true, publish: true }] },
    })
    const params = { id }
    const refusals = await Promise.all([
      petra.refused('generate', { params }),
      petra.refused('changeRun', { params, body: { name: 'Mine' } }),
      petra.refused('decideRows', { params, body: { rows: [2], decision: 'leave out' } }),
      petra.refused('answerRow', { params: { ...params, row: 2 }, body: { answers: { crop: 'x' } } }),
      petra.refused('redoRows', { params, body: {} }),
      petra.refused('cancelRun', { params }),
      petra.refused('runFile', { params, query: { name: 'a.pdf' }, body: new Uint8Array([1]) }),
      petra.refused('routeAgain', { params: { id: agreements[0]!.id } }),
    ])
    for (const refused of refusals) expect(refused.status, refused.message).to.equal(403)
    await ines.call('shelveTemplate', { params: { id: season }, body: { shelf: null } })
  })

  it('the trail names who had it made, not who set it up; and every act on the installation stands in its own', async () => {
    const { agreements } = await made(petra, 'Made by another', 1, 6, ines)
    const { entries } = await ines.call('trail', { params: { id: agreements[0]!.id } })
    expect(entries[0]).to.include({ act: 'made', actor: 'Ines Hallow' })
    const trail = await ines.call('installationTrail', { query: { limit: '200' } })
    expect(trail).to.include({ verified: true, problem: null })
    const acts = trail.entries.map(({ actor, act }) => `${actor}: ${act}`)
    expect(acts).to.include('Ines Hallow: Take a table out of force, or put it back')
    expect(acts).to.include('Ines Hallow: Change a shelf’s name and rights')
    expect(acts.filter((act) => act.startsWith('Petra Vance: ')).length).to.be.greaterThan(5)
    // What failed left nothing.
    const before = trail.total
    await petra.refused('setRulesInForce', { params: { id: season }, body: { inForce: false } })
    expect((await ines.call('installationTrail', { query: { limit: '1' } })).total).to.equal(before)
  })

  it('once everyone has signed, nothing but the seal follows', async () => {
    const { agreements } = await made(ines, 'Signed', 1, 7)
    const id = agreements[0]!.id
    await signAll(running, ines, id, { seal: false })
    const refused = await ines.refused('takeCourse', { params: { id }, body: { course: 'withdraw' } })
    expect(refused.message).to.match(/Everyone has signed|that is executed cannot be/)
    expect((await ines.call('agreement', { params: { id } })).moves).not.to.include('withdraw')
    await eventually(
      async () => (await ines.call('agreement', { params: { id } })).state === 'executed',
      'the seal',
      60,
    )
  })

  it('a trail cut at its end, a swapped file, a changed name, value or date of the record: each shows', async () => {
    const { agreements } = await made(ines, 'Verified', 4, 8)
    const [first, second, third, fourth] = agreements.map(({ id }) => id)
    const check = async (id: string) => {
      const { verified, problem } = await ines.call('trail', { params: { id } })
      return verified ? 'sound' : problem!
    }
    await signAll(running, ines, first!, { seal: true })
    await closeDay(running.app)
    for (const id of [first!, second!, third!, fourth!]) expect(await check(id)).to.equal('sound')
    // Behind the app's back, with all triggers off.
    const behind = async (sql: string, values: readonly unknown[]) => {
      await running.owner('set session_replication_role = replica')
      await running.owner(sql, values)
      await running.owner('set session_replication_role = origin')
    }
    await behind(`update party set name = 'Somebody Else' where agreement_id = $1`, [second])
    expect(await check(second!)).to.contain('name, email address or role')
    await behind(`update agreement set data = jsonb_set(data, '{crop}', '"plums"') where id = $1`, [third])
    expect(await check(third!)).to.contain('data were changed')
    await behind(`delete from trail where agreement_id = $1 and seq > 1`, [fourth])
    expect(await check(fourth!)).to.contain('missing at the end')
    // Whoever changes the agreement's own note of it too is found by the day's end.
    await behind(
      `update agreement set trail_length = 1, trail_head = (select hash from trail where agreement_id = $1 and seq = 1) where id = $1`,
      [fourth],
    )
    expect(await check(fourth!)).to.contain('At the end of')
    await behind(
      `update blank_value set value = '{"kind":"typed","text":"Somebody Else"}' where party_id in (select id from party where agreement_id = $1) and value->>'kind' = 'typed'`,
      [first],
    )
    expect(await check(first!)).to.contain('filled in was changed')
    await behind(
      `update agreement set executed_sha256 = (select file_sha256 from revision where agreement_id = $1 limit 1) where id = $1`,
      [first],
    )
    expect(await check(first!)).to.contain('executed file is not the one')
    await closeDay(running.app)
    const { entries } = await ines.call('installationTrail', { query: { limit: '5' } })
    const verdict = entries.find(({ act }) => act === 'verification found differences')
    expect(verdict?.detail['differing']).to.equal(4)
    await behind(`update installation_trail set actor = 'Nobody' where seq = 3`, [])
    expect(await ines.call('installationTrail', { query: { limit: '1' } })).to.include({
      verified: false,
      problem: 'Entry 3: It was changed after it was written.',
    })
  })

  it('several processes that make the seal’s key at once come to one', async () => {
    await running.app.pool.query('delete from seal_key')
    const keys = await Promise.all(
      Array.from({ length: 4 }, () => ownKeys(running.app, 'Larkmere Pollination')),
    )
    expect(
      new Set(keys.map(({ seal, root, time }) => [seal, root, time].map((each) => each.passphrase).join()))
        .size,
    ).to.equal(1)
  })

  it('has the columns of the bookings', () => expect(BOOKING_HEADER).to.include('Acres'))

  it('what signers handed in and took back is cleaned up, and nothing else', async () => {
    const { rows: before } = await running.app.pool.query<{ n: string }>('select count(*) as n from file')
    await sweepNight(running.app)
    const { rows: after } = await running.app.pool.query<{ n: string }>('select count(*) as n from file')
    expect(after[0]!.n).to.equal(before[0]!.n)
  })
})
