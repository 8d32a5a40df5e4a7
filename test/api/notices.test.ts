import { randomUUID } from 'node:crypto'
import { expect } from 'chai'
import { read, utils } from 'xlsx'
import { arrivalNotice } from '#demo/arrival-notice.ts'
import { sendDue } from '#server/services/signing/going.ts'
import { Client, eventually } from '#test/support/client.ts'
import { letters } from '#test/support/letters.ts'
import { type Running, startApp } from '#test/support/running.ts'
import { SEASON_ANSWERS, linkIn, mailTo, partyOf, setUp } from '#test/support/signing.ts'

const HOUR = 3_600_000
const LETTER_ANSWERS = { season: '2027', 'bloom.start': '2027-03-20', colonies: '120' }

describe('notices, and sending many', () => {
  let running: Running
  let ines: Client
  let season = ''
  let notice = ''
  let customers: readonly { readonly id: string; readonly name: string }[] = []
  let next = 0

  before(async () => {
    running = await startApp('notices', { sheet: false })
    ines = await Client.signedIn(running.url, 'ines.hallow')
    const templates = await ines.call('templates')
    season = templates.find(({ name }) => name.startsWith('Season'))!.id
    notice = templates.find(({ name }) => name === arrivalNotice.title)!.id
    customers = (await ines.call('records', { params: { kind: 'customer' } })).records
  })
  after(() => running?.stop())

  const agreement = (id: string) => ines.call('agreement', { params: { id } })
  async function make(templateId: string) {
    for (;;) {
      const { id } = await ines.call('makeOneAgreement', {
        params: { kind: 'customer', id: customers[next++]!.id },
        body: {
          templateId,
          answers: templateId === notice ? LETTER_ANSWERS : SEASON_ANSWERS,
          occasion: randomUUID(),
          another: true,
        },
      })
      const made = await agreement(id)
      if (made.state === 'cleared' && (templateId === notice || made.parties.length === 2)) return made
    }
  }
  const send = (ids: readonly string[], at: Date | null = null) =>
    ines.call('sendAgreements', {
      body: { agreements: [...ids], unread: true, at: at?.toISOString() ?? null },
    })

  describe('a run of letters that nobody signs', () => {
    let run = ''
    const addresses = Array.from(
      { length: 20 },
      (_, i) => `ada.finch${i + 1}@${i === 4 || i === 11 ? 'nowhere.invalid' : 'growers.example'}`,
    )

    before(async () => {
      run = await letters(ines, addresses, ['broker@holding.example'])
    })

    it('is delivered at once, each as the mail’s own text, and says of each row whether it arrived', async () => {
      const { agreements } = await ines.call('agreements', { query: { run } })
      expect(agreements).to.have.length(20)
      expect(await send(agreements.map(({ id }) => id))).to.deep.equal({ sent: 20, refused: [], unread: 0 })
      for (const { id } of agreements) expect((await agreement(id)).state).to.equal('delivered')
      const text = await mailTo(ines, 'ada.finch3@growers.example', /arrive/)
      expect(text).to.contain('the 102 colonies for Orchard 03 in Polk County arrive between March 11, 2027')
      expect(text).not.to.contain('/sign/')
      await mailTo(ines, 'broker@holding.example', /arrive/)
      // What came back (RFC 3464) is known of its row alone.
      const lost = await eventually(async () => {
        const all = await Promise.all(agreements.map(({ id }) => agreement(id)))
        const back = all.filter(({ parties }) => parties.some(({ undelivered }) => undelivered))
        return back.length === 2 && all.every(({ parties }) => parties[0]!.arrivedAt) && back
      }, 'two letters that came back')
      expect(lost.map(({ parties }) => parties[0]!.email)).to.have.members([
        'ada.finch5@nowhere.invalid',
        'ada.finch12@nowhere.invalid',
      ])
      expect(lost[0]!.parties[0]!.undelivered).to.contain('There is no host nowhere.invalid')
      expect((await ines.call('desk')).undelivered.map(({ to }) => to)).to.include(
        'ada.finch5@nowhere.invalid',
      )
      const { id: output } = await ines.call('makeOutput', {
        params: { id: run },
        body: { kind: 'result sheet' },
      })
      await eventually(
        async () =>
          (await ines.call('outputs', { params: { id: run } })).some(
            (each) => each.id === output && each.state === 'ready',
          ),
        'the result sheet',
      )
      const file = await ines.call('output', { params: { id: run, output } })
      const book = read(Buffer.from(await file.arrayBuffer()))
      const said = utils.sheet_to_json<Record<string, string>>(book.Sheets[book.SheetNames[0]!]!)
      expect(said.map(({ State }) => State)).to.deep.equal(
        addresses.map((to) => (to.endsWith('.invalid') ? 'not delivered' : 'delivered')),
      )
      const listed = (await ines.call('agreements', { query: { run } })).agreements
      expect(listed.filter(({ undelivered }) => undelivered).map(({ id }) => id)).to.have.members(
        lost.map(({ id }) => id),
      )
      expect(said.filter(({ Arrived }) => Arrived === 'yes')).to.have.length(18)
      expect(said[4]!['Arrived']).to.contain('nowhere.invalid')
    })

    it('goes once more to an address that was corrected, and to nobody twice', async () => {
      const { agreements } = await ines.call('agreements', { query: { run } })
      const at = agreements.find(({ name }) => name.includes('Orchard 05'))!
      const before = await agreement(at.id)
      expect(before.courses).to.deep.equal([])
      await ines.call('takeCourse', {
        params: { id: at.id },
        body: { course: 'correct address', party: before.parties[0]!.id, email: 'ada.five@growers.example' },
      })
      await mailTo(ines, 'ada.five@growers.example', /arrive/)
      expect((await agreement(at.id)).parties[0]!.undelivered).to.equal(null)
      expect((await agreement(at.id)).undelivered).to.equal(false)
      const again = await send([at.id])
      expect(again.sent).to.equal(0)
      expect(again.refused[0]!.problem).to.contain('cannot be delivered')
      const { verified } = await ines.call('trail', { params: { id: at.id } })
      expect(verified).to.equal(true)
    })
  })

  describe('at a chosen time', () => {
    it('goes then and not before, for whoever set it, and can be held', async () => {
      const [one, other] = [await make(season), await make(season)]
      const at = new Date(Date.now() + 5 * HOUR)
      expect((await send([one.id, other.id], at)).sent).to.equal(2)
      expect((await agreement(one.id)).goesAt).to.equal(at.toISOString())
      await ines.call('holdAgreement', { params: { id: other.id } })
      const clock = (ms: number) => sendDue({ ...running.app, now: () => new Date(at.getTime() + ms) })
      await clock(-1000)
      expect((await agreement(one.id)).state).to.equal('cleared')
      await Promise.all([clock(0), clock(0)])
      const gone = await agreement(one.id)
      expect([gone.state, gone.goesAt]).to.deep.equal(['out', null])
      expect((await agreement(other.id)).state).to.equal('cleared')
      const grower = partyOf(gone, 'Grower').email
      await linkIn(ines, grower)
      const mails = await ines.call('receivedMails', { query: { search: grower } })
      expect(mails).to.have.length(1)
      const { entries } = await ines.call('trail', { params: { id: one.id } })
      expect(entries.map(({ act }) => act)).to.include.members(['time to go set', 'sent'])
    })

    it('is held where it cannot go any more, and whoever set it is told why', async () => {
      const made = await make(season)
      const at = new Date(Date.now() + HOUR)
      await send([made.id], at)
      await setUp(ines, made.id, { [partyOf(made, 'Grower').name]: { email: '' } })
      await sendDue({ ...running.app, now: () => at })
      const held = await agreement(made.id)
      expect([held.state, held.goesAt]).to.deep.equal(['cleared', null])
      const [me] = (await ines.call('session')).person ? ['ines.hallow'] : ['']
      expect(await mailTo(ines, me!, /^Not sent/)).to.contain('there is no email address')
    })

    it('is neither past nor further than a year', async () => {
      const made = await make(season)
      for (const at of [new Date(Date.now() - 1000), new Date(Date.now() + 400 * 24 * HOUR)])
        expect(
          (await ines.refused('sendAgreements', { body: { agreements: [made.id], at: at.toISOString() } }))
            .status,
        ).to.equal(422)
    })
  })

  describe('many at once', () => {
    it('sets what they have in common, with merge fields filled for each, and leaves the rest as it is', async () => {
      const made = [await make(season), await make(season), await make(season)]
      const ids = made.map(({ id }) => id)
      const own = partyOf(made[1]!, 'Grower').name
      await setUp(ines, ids[1]!, { [own]: { message: 'As agreed by telephone.' } })
      const before = await ines.call('sendingOfMany', { body: { agreements: ids } })
      expect(before.rows.find(({ id }) => id === ids[1])!.differs).to.deep.equal(['message to one'])
      expect(before.teams.map(({ name }) => name)).to.include('Contract desk')
      const team = before.teams.find(({ name }) => name === 'Contract desk')!.id
      const answer = await ines.call('setSendingOfMany', {
        body: {
          agreements: ids,
          common: {
            message: 'For {{grower.name}}: {{colonies}} colonies.',
            team,
            roles: { grower: { check: 'mail code', mayHandOver: true } },
            copies: [{ name: 'Broker', email: 'broker@holding.example', copyNow: false }],
          },
        },
      })
      expect(answer).to.deep.equal({ set: 3, refused: [] })
      for (const { id, parties } of made) {
        const now = await ines.call('sendingOf', { params: { id } })
        const grower = now.parties.find(({ name }) => name === partyOf({ parties } as never, 'Grower').name)!
        expect([grower.check, grower.mayHandOver]).to.deep.equal(['mail code', true])
        expect(now.message).to.match(/^For .+: 120 colonies\.$/)
        expect(now.parties.map(({ email }) => email)).to.include('broker@holding.example')
        expect(now.team).to.equal(team)
      }
      const after = await ines.call('sendingOf', { params: { id: ids[1]! } })
      expect(after.parties.find(({ name }) => name === own)!.message).to.equal('As agreed by telephone.')
      // The mail is from the team; the sender stays who sent it.
      await send(ids)
      const { email } = partyOf(made[0]!, 'Grower')
      const token = await linkIn(ines, email)
      expect((await new Client(running.url).call('signing', { params: { token } })).from).to.match(
        /^Contract desk, /,
      )
    })

    it('refuses names that there is no field of, a team one is not in, and says which cannot be set', async () => {
      const made = await make(season)
      const set = (common: object) =>
        ines.call('setSendingOfMany', { body: { agreements: [made.id], common } })
      expect((await set({ message: 'For {{no.such}}' })).refused[0]!.problem).to.contain('“no.such”')
      expect((await set({ team: randomUUID() })).refused[0]!.problem).to.contain('one of the team')
      await send([made.id])
      expect((await set({ message: 'Late' })).refused[0]!.problem).to.contain('is out')
    })

    it('keeps messages under a name, fills them for one, and drops them', async () => {
      const made = await make(season)
      const words = { subject: 'For {{grower.name}}', message: 'Season {{season}}, {{nothing}}.' }
      await ines.call('keepMessage', { body: { name: 'Renewal', subject: 'Old', message: 'Old' } })
      await ines.call('keepMessage', { body: { name: 'Renewal', ...words } })
      const kept = (await ines.call('savedMessages')).filter(({ name }) => name === 'Renewal')
      expect(kept.map(({ message }) => message)).to.deep.equal([words.message])
      const filled = await ines.call('fillMessage', { params: { id: made.id }, body: words })
      expect(filled.unknown).to.deep.equal(['nothing'])
      expect(filled.message).to.equal('Season 2027, .')
      await ines.call('dropMessage', { params: { id: kept[0]!.id } })
      expect((await ines.call('savedMessages')).map(({ name }) => name)).not.to.include('Renewal')
    })
  })

  describe('one of them', () => {
    it('takes no signer, and a template of one has nothing to sign', async () => {
      const made = await make(notice)
      const sheet = await ines.call('sendingOf', { params: { id: made.id } })
      expect(sheet.previews[0]!.paragraphs.join(' ')).to.contain('They come by night.')
      const refused = await ines.refused('setSending', {
        params: { id: made.id },
        body: { ...sheet, parties: [...sheet.parties, { ...sheet.parties[0]!, id: null, kind: 'assenter' }] },
      })
      expect(refused.message).to.contain('Nobody signs a notice')
    })

    it('goes as its pages where it is set so, with the files that go along', async () => {
      const template = await ines.call('template', { params: { id: notice } })
      const content = { ...arrivalNotice, sending: { ...arrivalNotice.sending, notice: 'attachment' } }
      const { version } = await ines.call('saveDraft', {
        params: { id: notice },
        body: { version: template.draftVersion, content },
      })
      await ines.call('publish', { params: { id: notice }, body: { version, note: 'As pages' } })
      const made = await make(notice)
      await send([made.id])
      const { email } = made.parties[0]!
      await mailTo(ines, email, /arrive/)
      const [mail] = await ines.call('receivedMails', { query: { search: email } })
      const { attachments } = await ines.call('receivedMail', { params: { id: mail!.id } })
      expect(attachments.map(({ name }) => name)).to.deep.equal([
        `Notice of arrival ${made.name.split(', ')[1]} 2027.pdf`,
      ])
    })
  })
})
