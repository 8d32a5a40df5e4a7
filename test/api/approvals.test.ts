import { randomUUID } from 'node:crypto'
import { expect } from 'chai'
import { Temporal } from 'temporal-polyfill'
import { eq } from 'drizzle-orm'
import { agreement, person, step } from '#server/db/schema.ts'
import { digestApprovals, watchApprovals } from '#server/services/agreements/watching.ts'
import { seeded } from '#demo/random.ts'
import { Client, eventually, Refused } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'
import { outOfForce, putInForce, rulesThat } from '#test/support/rules.ts'
import { seasonSheet } from '#test/support/story.ts'

const ANSWERS = {
  season: '2027',
  'bloom.start': '2027-03-20',
  'bloom.end': '2027-04-02',
  first_season: 'no',
  colonies: '420',
  frames: '8',
  price_per_colony: '210',
  payment_days: '30',
}

describe('approvals', () => {
  let running: Running
  let templateId = ''
  let customers: readonly { readonly id: string }[] = []
  const by: Record<string, Client> = {}
  const ids: Record<string, string> = {}
  const who = (name: string) => by[name]!

  before(async () => {
    running = await startApp('approvals', { sheet: false })
    for (const email of [
      'ines.hallow',
      'petra.vance',
      'ruth.ambler',
      'gideon.farrow',
      'maren.oakes',
      'silas.brandt',
    ])
      by[email.split('.')[0]!] = await Client.signedIn(running.url, email)
    for (const each of await running.app.db.select().from(person))
      ids[each.name.split(' ')[0]!.toLowerCase()] = each.id
    templateId = (await who('ines').call('templates')).find(({ name }) => name.startsWith('Season'))!.id
    customers = (await who('ines').call('records', { params: { kind: 'customer' } })).records
  })
  after(() => running?.stop())

  let next = 0
  /** An agreement that Petra Vance makes of a customer. */
  const make = async (more: Readonly<Record<string, string>> = {}) => {
    const { id } = await who('petra').call('makeOneAgreement', {
      params: { kind: 'customer', id: customers[next++ % 40]!.id },
      body: { templateId, answers: { ...ANSWERS, ...more }, occasion: randomUUID(), another: true },
    })
    return id
  }
  const read = (id: string, as = 'petra') => who(as).call('agreement', { params: { id } })
  const waiting = async (id: string, as: string) => (await read(id, as)).steps.filter(({ mine }) => mine)
  const decide = async (
    id: string,
    as: string,
    body: Readonly<Record<string, unknown>> = { decision: 'approve' },
  ): Promise<void> => {
    const [mine] = await waiting(id, as)
    if (!mine) throw new Error(`${as} has nothing to decide`)
    await who(as).call('decide', { params: { id, step: mine.id }, body })
  }
  const rules = async (...tables: Parameters<typeof rulesThat>[]) => {
    await outOfForce(who('ines'))
    for (const table of tables) await putInForce(who('ines'), rulesThat(...table))
  }
  const acts = async (id: string) =>
    (await who('ines').call('trail', { params: { id } })).entries.map(({ act, detail }) => ({
      act,
      ...detail,
    }))
  const byHand = async (id: string, as: string, from: string, to: string) => {
    const wording = await who(as).call('agreementWording', { params: { id } })
    const text = JSON.stringify(wording.content.document)
    expect(text).to.contain(from)
    await who(as).call('saveWording', {
      params: { id },
      body: { revision: wording.revision, document: JSON.parse(text.replace(from, to)) as object, note: '' },
    })
  }

  describe('by a table', () => {
    it('say the values, the row and the edition that led there, in the trail too', async () => {
      await rules([[['total > 80000', 'operations director']]])
      const id = await make()
      const [asked] = await waiting(id, 'silas')
      expect(asked!.reason).to.equal('Total $88,200.00 is over $80,000.00')
      expect(asked!.reasons[0]).to.include({ name: 'Approvals of a test', edition: 1, row: 1 })
      expect((await acts(id)).find(({ act }) => act === 'put to approval')).to.include({
        rows: 'row 1 of Approvals of a test, edition 1',
      })
      expect((await read(await make({ colonies: '10' }))).state).to.equal('cleared')
    })

    it('go one after the other where the table says so, and the later ones cannot be given before', async () => {
      const table = rulesThat([
        ['total > 1', 'legal'],
        ['total > 2', 'finance'],
        ['total > 3', 'operations director'],
      ])
      const outputs = [{ key: 'approver' as const }, { key: 'order' as const }]
      const rows = table.rows.map((row, i) => ({ ...row, then: { ...row.then, order: i < 2 ? '1' : '2' } }))
      await outOfForce(who('ines'))
      await putInForce(who('ines'), { ...table, outputs, rows })
      const id = await make()
      expect(
        (await read(id)).thread
          .slice(0, 2)
          .map((column) => column.map(({ label, status }) => `${label} ${status}`)),
      ).to.deep.equal([['finance holds', 'legal holds'], ['operations director to come']])
      const later = (await read(id)).steps.find(({ approver }) => approver === 'operations director')!
      const refused = await who('silas').refused('decide', {
        params: { id, step: later.id },
        body: { decision: 'approve' },
      })
      expect(refused.status).to.equal(409)
      await decide(id, 'maren')
      await decide(id, 'gideon')
      expect((await read(id)).state).to.equal('in approval')
      // Back to one who has approved: theirs alone is asked for again, then the later one.
      const legal = (await read(id)).steps.find(({ approver, present }) => approver === 'legal' && present)!
      await decide(id, 'silas', { decision: 'return', note: 'Look at the landowner again.', to: legal.id })
      const after = (await read(id)).steps.filter(({ present }) => present)
      expect(after.map(({ approver, state, kept }) => [approver, state, kept])).to.have.deep.members([
        ['legal', 'waiting', false],
        ['finance', 'approved', true],
        ['operations director', 'to come', false],
      ])
      await decide(id, 'maren')
      await decide(id, 'silas')
      expect((await read(id)).state).to.equal('cleared')
    })

    it('of a team and of whoever leads the owner’s team; one of several names is enough', async () => {
      await running.owner(`update team set lead_id = $1 where name = 'Sales'`, [ids['ruth']])
      await rules([
        [
          ['total > 1', 'lead of the owner'],
          ['total > 2', 'finance or legal'],
        ],
      ])
      const id = await make()
      expect(await waiting(id, 'ruth')).to.have.length(1)
      await decide(id, 'maren')
      await decide(id, 'ruth')
      expect((await read(id)).state).to.equal('cleared')
      // Somebody of the contract desk is responsible for this customer: whoever leads that is asked.
      await running.owner(`update team set lead_id = $1 where name = 'Contract desk'`, [ids['maren']])
      const params = { kind: 'customer', id: customers[next % 40]!.id }
      await who('petra').call('setResponsible', { params, body: { person: ids['ines'] } })
      const [lead] = (await read(await make())).steps.filter(
        ({ approver }) => approver === 'lead of the owner',
      )
      expect(lead!.deciders).to.deep.equal(['Maren Oakes'])
      // Of a deal that nobody is said to be responsible for, it is whoever is for its customer.
      const { deals } = await who('petra').call('record', { params })
      const { id: ofDeal } = await who('petra').call('makeOneAgreement', {
        params: { kind: 'deal', id: deals[0]!.id },
        body: { templateId, answers: ANSWERS, occasion: randomUUID(), another: true },
      })
      const [ledBy] = (await read(ofDeal)).steps.filter(({ approver }) => approver === 'lead of the owner')
      expect(ledBy!.deciders).to.deep.equal(['Maren Oakes'])
    })

    it('that refuses keep it from being made, and a table of days and copies sets them', async () => {
      const table = rulesThat([['colonies > 400', 'x']])
      await outOfForce(who('ines'))
      await putInForce(who('ines'), {
        ...table,
        outputs: [{ key: 'refuse' }],
        rows: [{ ...table.rows[0]!, then: { refuse: 'Not more than 400 without insurance' } }],
      })
      const refused = await who('petra').refused('makeOneAgreement', {
        params: { kind: 'customer', id: customers[0]!.id },
        body: { templateId, answers: ANSWERS, occasion: randomUUID(), another: true },
      })
      expect(refused.message).to.equal(
        'Not to be made: Not more than 400 without insurance (row 1 of Approvals of a test, edition 1)',
      )
      await outOfForce(who('ines'))
      await putInForce(who('ines'), {
        ...table,
        outputs: [{ key: 'signBy' }, { key: 'copies' }],
        rows: [{ ...table.rows[0]!, then: { signBy: '5', copies: 'finance@larkmere.example' } }],
      })
      const id = await make()
      expect((await read(id)).copies).to.include('finance@larkmere.example')
      await who('ines').call('sendAgreements', { body: { agreements: [id], unread: true } })
      // The end of the fifth day from now, where the organisation is.
      const { signByDay } = await read(id)
      expect(signByDay).to.equal(Temporal.Now.plainDateISO('America/Los_Angeles').add({ days: 5 }).toString())
    })
  })

  describe('after an edit', () => {
    it('exactly those fall whose values changed; the others count on, and the trail says which and why', async () => {
      await rules([
        [
          ['total > 80000', 'operations director'],
          ['land.leased', 'legal'],
          ['agreement.changed_by_hand', 'finance'],
        ],
      ])
      const sheet = await who('petra').call('uploadSheet', {
        query: { name: 'edit.csv' },
        body: seasonSheet(30),
      })
      const run = await who('petra').call('startRun', {
        body: { name: 'Edits', templateId, sheetId: sheet.id, setup: { duplicates: 'allow' } },
      })
      const state = () => who('petra').call('run', { params: { id: run.id } })
      await eventually(async () => (await state()).state === 'checked', 'the check')
      const setup = await who('petra').call('runSetup', { params: { id: run.id } })
      await who('petra').call('changeRun', {
        params: { id: run.id },
        body: { mapping: { ...setup.mapping, first_season: 'New grower' } },
      })
      await eventually(async () => (await state()).state === 'checked', 'the second check')
      await who('petra').call('mendCells', {
        params: { id: sheet.id },
        body: {
          cells: [
            { row: 2, column: 'Colonies', value: '800' },
            { row: 2, column: 'Leased land', value: 'yes' },
            { row: 2, column: 'Landowner', value: 'Amos Pell' },
            { row: 2, column: 'Landowner’s e-mail', value: 'amos.pell@brightwaterland.example' },
          ],
        },
      })
      await eventually(async () => (await state()).state === 'checked', 'the third check')
      await who('petra').call('generate', { params: { id: run.id } })
      await eventually(async () => (await state()).state === 'generated', 'the run', 60)
      const { agreements } = await who('petra').call('agreements', { query: { run: run.id } })
      const id = (await Promise.all(agreements.map(({ id: each }) => read(each)))).find(
        ({ steps }) => steps.length === 2,
      )!.id
      await decide(id, 'silas')
      await decide(id, 'maren')
      expect((await read(id)).state).to.equal('cleared')
      await who('petra').call('mendCells', {
        params: { id: sheet.id },
        body: { cells: [{ row: 2, column: 'Colonies', value: '820' }] },
      })
      await eventually(async () => (await state()).rows.changed === 1, 'the change to be seen')
      await who('petra').call('redoRows', { params: { id: run.id }, body: {} })
      await eventually(async () => (await read(id)).revision === 2, 'the making again')
      const now = await read(id)
      expect(now.state).to.equal('in approval')
      expect(now.steps.map(({ approver, state: how, kept }) => [approver, how, kept])).to.have.deep.members([
        ['operations director', 'waiting', false],
        ['legal', 'approved', true],
      ])
      const told = await acts(id)
      expect(told.find(({ act }) => act === 'approval fallen')).to.include({
        as: 'operations director',
        by: 'Silas Brandt',
      })
      expect(told.find(({ act }) => act === 'approval fallen'))
        .to.have.property('reason')
        .that.matches(/^total > 80000 was Total \$[\d,.]+ and is Total \$[\d,.]+$/)
      expect(told.find(({ act }) => act === 'approval kept')).to.include({ as: 'legal', by: 'Maren Oakes' })
    })

    it('of the words, those fall that rest on the words; who edited cannot have approved', async () => {
      await rules([
        [
          ['agreement.changed_by_hand', 'finance'],
          ['total > 1', 'operations director'],
        ],
      ])
      const id = await make()
      await byHand(id, 'petra', 'laying queen', 'young laying queen')
      await decide(id, 'gideon')
      await decide(id, 'silas')
      await byHand(id, 'ruth', 'young laying queen', 'quiet laying queen')
      const steps = (await read(id)).steps.map(({ approver, state }) => [approver, state])
      expect(steps).to.have.deep.members([
        ['finance', 'waiting'],
        ['operations director', 'approved'],
      ])
      // What was returned and is the same is not asked of the others again.
      await decide(id, 'gideon', { decision: 'return', note: 'Say which queen.' })
      await who('petra').call('routeAgain', { params: { id } })
      expect(
        (await read(id)).steps
          .filter(({ present }) => present)
          .map(({ state }) => state)
          .sort(),
      ).to.deep.equal(['approved', 'waiting'])
    })

    it('a table put in force while agreements are on their way changes none of their routes', async () => {
      await rules([[['total > 1', 'legal']]])
      const id = await make()
      const table = (await who('ines').call('rules')).find(({ inForce }) => inForce)!
      const { draft, version, onTheirWay } = await who('ines').call('ruleTable', { params: { id: table.id } })
      expect(onTheirWay).to.equal(1)
      draft.rows[0]!.then.approver = 'finance'
      const saved = await who('ines').call('saveRuleDraft', {
        params: { id: table.id },
        body: { version, draft },
      })
      await who('ines').call('publishRules', { params: { id: table.id }, body: saved })
      expect(
        (await read(id)).steps.map(({ approver, reasons }) => [approver, reasons[0]!.edition]),
      ).to.deep.equal([['legal', 1]])
      expect((await read(await make())).steps[0]!.reasons[0]!.edition).to.equal(2)
    })
  })

  describe('of one who is away', () => {
    let today = ''
    let later = ''

    before(async () => {
      // The day that it is where the organisation is.
      today = (await who('gideon').call('absences')).today
      later = new Date(Date.parse(today) + 5 * 86_400_000).toISOString().slice(0, 10)
    })

    it('go to the stand-in, whose name stands in the trail with whom they stood in for', async () => {
      await rules([[['total > 1', 'finance']]])
      const id = await make()
      const { id: absence } = await who('gideon').call('addAbsence', {
        body: { from: today, to: later, standIn: ids['maren'] },
      })
      expect(await waiting(id, 'gideon')).to.have.length(0)
      expect(
        (await who('maren').call('desk')).approvals.find(({ agreement: { id: of } }) => of === id),
      ).to.include({
        standsInFor: 'Gideon Farrow',
      })
      await decide(id, 'maren')
      expect((await acts(id)).find(({ act }) => act === 'approved')).to.include({
        as: 'finance',
        for: 'Gideon Farrow',
      })
      const circle = await who('maren').refused('addAbsence', {
        body: { from: today, to: today, standIn: ids['gideon'] },
      })
      expect(circle.message).to.contain('Gideon Farrow → Maren Oakes')
      const others = await who('petra').refused('dropAbsence', { params: { id: absence } })
      expect(others.status).to.equal(403)
      await who('gideon').call('dropAbsence', { params: { id: absence } })
    })

    it('nobody approves their own as a stand-in; what nobody may decide is seen at once, by those who keep the rules', async () => {
      await running.owner(`update person set rights = rights || '{runs}'::text[] where name = 'Maren Oakes'`)
      const { id } = await who('maren').call('makeOneAgreement', {
        params: { kind: 'customer', id: customers[5]!.id },
        body: { templateId, answers: ANSWERS, occasion: randomUUID(), another: true },
      })
      const { id: absence } = await who('gideon').call('addAbsence', {
        body: { from: today, to: later, standIn: ids['maren'] },
      })
      expect((await read(id)).steps[0]!.deciders).to.deep.equal([])
      const refused = await who('maren').refused('decide', {
        params: { id, step: (await read(id)).steps[0]!.id },
        body: { decision: 'approve' },
      })
      expect(refused.message).to.contain('Nobody approves an agreement that they started')
      expect((await who('ines').call('desk')).holes.map(({ id: of }) => of)).to.include(id)
      await who('gideon').call('dropAbsence', { params: { id: absence } })
      expect((await read(id)).steps[0]!.deciders).to.deep.equal(['Gideon Farrow'])
    })

    it('who has left is asked no more; the holder of the post is, or it is a hole', async () => {
      await rules([[['total > 1', 'Silas Brandt']]])
      const id = await make()
      await who('ines').call('setLeft', { params: { id: ids['silas']! }, body: { left: true } })
      expect((await read(id)).steps[0]!.deciders).to.deep.equal([])
      await running.owner(`update person set post = 'operations director' where name = 'Ruth Ambler'`)
      expect((await read(id)).steps[0]!.deciders).to.deep.equal(['Ruth Ambler'])
      await running.owner(`update person set post = 'sales lead' where name = 'Ruth Ambler'`)
      await who('ines').call('setLeft', { params: { id: ids['silas']! }, body: { left: false } })
      // Whoever returns signs in anew.
      by['silas'] = await Client.signedIn(running.url, 'silas.brandt')
    })
  })

  describe('and what goes with them', () => {
    it('a step is handed over, reminded of once an hour, and asked about; the answer stays with the agreement', async () => {
      await rules([[['total > 1', 'finance']]])
      const id = await make()
      const [mine] = await waiting(id, 'gideon')
      const params = { id, step: mine!.id }
      const author = await who('gideon').refused('handOverStep', { params, body: { to: ids['petra'] } })
      expect(author.status).to.equal(422)
      await who('gideon').call('handOverStep', { params, body: { to: ids['ruth'], note: 'You know them.' } })
      expect(await waiting(id, 'ruth')).to.have.length(1)
      await who('petra').call('remindApprover', { params })
      expect((await who('petra').refused('remindApprover', { params })).status).to.equal(409)
      await who('ruth').call('askQuestion', { params, body: { text: 'Whose price is this?' } })
      const [asked] = (await who('petra').call('desk')).questions
      await who('petra').call('answerQuestion', {
        params: { id, question: asked!.id },
        body: { text: 'Agreed on the telephone.' },
      })
      expect((await read(id, 'ruth')).questions[0]).to.include({
        answer: 'Agreed on the telephone.',
        answeredBy: 'Petra Vance',
      })
      const mail = await eventually(
        async () => (await who('ines').call('receivedMails', { query: { search: 'Still to approve' } }))[0],
        'the reminder',
      )
      const { text } = await who('ines').call('receivedMail', { params: { id: mail.id } })
      expect(text).to.contain(`/approvals/${mine!.id}`).and.to.contain('Total $88,200.00 is over $1.00')
    })

    it('many are approved at once only after one of each wording was opened', async () => {
      await rules([[['total > 1', 'operations director']]])
      const made = [await make(), await make(), await make({ first_season: 'yes' })]
      const steps = await Promise.all(
        made.map(async (id) => ({ agreement: id, step: (await waiting(id, 'silas'))[0]!.id })),
      )
      const none = await who('silas').call('approveMany', { body: { steps } })
      expect(none.approved).to.equal(0)
      await who('silas').call('agreementDocument', { params: { id: made[0]! } })
      const wordings = await Promise.all(made.map(async (id) => (await read(id)).wording))
      const same = wordings.filter((each) => each === wordings[0]).length
      const some = await who('silas').call('approveMany', { body: { steps } })
      expect(some.approved).to.equal(same)
      expect(some.refused).to.have.length(made.length - same)
    })

    it('overdue, they go to whom the table names too, once; one mail a day to those who want that', async () => {
      const table = rulesThat([['total > 1', 'finance']], { escalateTo: 'operations director' })
      await outOfForce(who('ines'))
      await putInForce(who('ines'), {
        ...table,
        outputs: [{ key: 'approver' }, { key: 'days' }],
        rows: [{ ...table.rows[0]!, then: { approver: 'finance', days: '2' } }],
      })
      await who('gideon').call('setApprovalMail', { body: { mail: 'daily' } })
      const id = await make()
      expect(await waiting(id, 'silas')).to.have.length(0)
      const at = { ...running.app, now: () => new Date(Date.now() + 3 * 86_400_000) }
      await watchApprovals(at)
      await watchApprovals(at)
      expect(await waiting(id, 'silas')).to.have.length(1)
      expect((await acts(id)).filter(({ act }) => act === 'overdue')).to.have.length(1)
      // On this very day, so that the worker's own digest of it is the same one.
      const { today } = await who('gideon').call('absences')
      const noon = new Date(`${today}T20:00:00Z`)
      const night = { ...running.app, now: () => new Date(noon.getTime() - 12 * 3_600_000) }
      await digestApprovals(night)
      await digestApprovals({ ...running.app, now: () => noon })
      await digestApprovals({ ...running.app, now: () => noon })
      const digests = await eventually(async () => {
        const found = await who('ines').call('receivedMails', { query: { search: 'gideon.farrow' } })
        const daily = found.filter(({ subject }) => / to approve$/.test(subject))
        return daily.length ? daily : null
      }, 'the digest')
      expect(digests).to.have.length(1)
    })

    it('what differs is told: from the standard wording, and from the last one with this customer', async () => {
      await outOfForce(who('ines'))
      const body = (more: object) => ({
        templateId,
        answers: { ...ANSWERS, ...more },
        occasion: randomUUID(),
        another: true,
      })
      const params = { kind: 'customer', id: customers[30]!.id }
      await who('petra').call('makeOneAgreement', { params, body: body({}) })
      const { id } = await who('petra').call('makeOneAgreement', { params, body: body({ colonies: '500' }) })
      await byHand(id, 'petra', 'laying queen', 'young laying queen')
      const found = await who('maren').call('differences', { params: { id } })
      expect(
        found.standard!.flatMap(({ words }) => words).find(({ kind }) => kind === 'added')!.text,
      ).to.contain('young')
      expect(found.last!.values.find(({ label }) => label === 'Colonies')).to.include({
        before: '420',
        after: '500',
      })
    })
  })

  describe('whatever is done in whatever order, and at once', () => {
    it('nothing goes out with an approval missing, none is given twice by one act, none by an author', async function () {
      const seeds = Number(process.env['APPROVAL_SEEDS'] ?? 4)
      await rules([
        [
          ['total > 80000', 'operations director or finance'],
          ['land.leased', 'legal'],
          ['agreement.changed_by_hand', 'team Contract desk'],
        ],
      ])
      await running.owner(`update person set rights = '{runs,approve,send,templates,rules,settings}'::text[]`)
      const people = ['ines', 'petra', 'ruth', 'gideon', 'maren', 'silas']
      for (let seed = 1; seed <= seeds; seed++) {
        const { pick, next: random } = seeded(seed)
        const id = await make({ colonies: pick(['100', '420']) })
        for (let turn = 0; turn < 14; turn++) {
          const acts = Array.from({ length: 3 }, () => anything(id, pick(people), random()))
          // Refusals are the law at work; anything else is a fault.
          for (const result of await Promise.allSettled(acts))
            if (result.status === 'rejected' && !(result.reason instanceof Refused)) throw result.reason
          await holdsTrue(id, `seed ${seed}, turn ${turn}`)
        }
      }
    })

    const anything = async (id: string, as: string, drawn: number): Promise<unknown> => {
      const now = await read(id, as)
      const open = now.steps.filter(({ present, state }) => present && state === 'waiting')
      const one = open[Math.floor(drawn * 1000) % Math.max(1, open.length)]
      const params = { id, step: one?.id ?? randomUUID() }
      if (drawn < 0.5) return who(as).call('decide', { params, body: { decision: 'approve' } })
      if (drawn < 0.6) {
        const earlier = now.steps.find(({ present, state }) => present && state === 'approved')
        return who(as).call('decide', {
          params,
          body: { decision: 'return', note: 'No.', to: drawn < 0.55 ? (earlier?.id ?? null) : null },
        })
      }
      if (drawn < 0.7) return who(as).call('routeAgain', { params: { id } })
      if (drawn < 0.78)
        return who(as).call('handOverStep', { params, body: { to: ids[as === 'ruth' ? 'maren' : 'ruth'] } })
      if (drawn < 0.86) {
        const wording = await who(as).call('agreementWording', { params: { id } })
        const words = JSON.stringify(wording.content.document).replace(
          /laying queen(?: \d+)?/,
          `laying queen ${Math.floor(drawn * 9999)}`,
        )
        return who(as).call('saveWording', {
          params: { id },
          body: { revision: wording.revision, document: JSON.parse(words) as object, note: '' },
        })
      }
      return who(as).call('sendAgreements', { body: { agreements: [id], unread: true } })
    }

    const holdsTrue = async (id: string, where: string): Promise<void> => {
      const { db } = running.app
      const [row] = await db.select().from(agreement).where(eq(agreement.id, id))
      const all = await db.select().from(step).where(eq(step.agreementId, id))
      const own = all.filter(({ revision }) => revision === row!.revision)
      const round = Math.max(0, ...own.map((each) => each.round))
      const present = own.filter((each) => each.round === round)
      const states = present.map(({ state }) => state)
      if (row!.state === 'cleared' || row!.state === 'out')
        expect(
          states.every((state) => state === 'approved'),
          `${where}: ${row!.state} with ${states.join()}`,
        ).to.equal(true)
      if (row!.state === 'in approval') expect(states, `${where}: waits for nobody`).to.include('waiting')
      for (const each of present)
        if (each.state === 'approved')
          expect(row!.shapedBy, `${where}: by an author`).not.to.include(each.decidedBy)
      const given = (await acts(id)).filter(({ act }) => act === 'approved').length
      expect(given, `${where}: acts and approvals`).to.equal(
        all.filter(({ state, keptFrom }) => state === 'approved' && keptFrom === null).length,
      )
    }
  })
})
