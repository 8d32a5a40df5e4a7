import { randomUUID } from 'node:crypto'
import { expect } from 'chai'
import { Temporal } from 'temporal-polyfill'
import { eq } from 'drizzle-orm'
import { SMTPServer } from 'smtp-server'
import type { Sending } from '#contract/sending.ts'
import { agreement, link, mail } from '#server/db/schema.ts'
import { sweepNight } from '#server/services/signing/sweeping.ts'
import { deliverMail } from '#server/services/agreements/delivering.ts'
import { Client, eventually } from '#test/support/client.ts'
import { freePort, type Running, startApp } from '#test/support/running.ts'
import { SEASON_ANSWERS, linkIn, mailTo, partyOf, setUp, watchAt } from '#test/support/signing.ts'
import { signAs } from '#test/support/story.ts'

const ZONE = 'America/Los_Angeles'
const DAY = 86_400_000

describe('sending and signing', () => {
  let running: Running
  let ines: Client
  let templateId = ''
  let customers: readonly { readonly id: string; readonly name: string }[] = []
  let next = 0

  before(async () => {
    running = await startApp('signing', { sheet: false })
    ines = await Client.signedIn(running.url, 'ines.hallow')
    templateId = (await ines.call('templates')).find(({ name }) => name.startsWith('Season'))!.id
    customers = (await ines.call('records', { params: { kind: 'customer' } })).records
  })
  after(() => running?.stop())

  const read = (id: string) => ines.call('agreement', { params: { id } })
  const anyone = () => new Client(running.url)
  const course = (id: string, body: object) => ines.call('takeCourse', { params: { id }, body })

  /** An agreement that nobody has to approve, cleared, whose parties are all spoken to in English. */
  async function make() {
    for (;;) {
      const customer = customers[next++]!
      const { id } = await ines.call('makeOneAgreement', {
        params: { kind: 'customer', id: customer.id },
        body: { templateId, answers: SEASON_ANSWERS, occasion: randomUUID(), another: true },
      })
      const made = await read(id)
      if (made.state !== 'cleared' || made.parties.length !== 2) continue
      const { previews } = await ines.call('sendingOf', { params: { id } })
      if (previews.every(({ language }) => language === 'en')) return made
    }
  }
  const send = async (id: string) => {
    const { refused } = await ines.call('sendAgreements', { body: { agreements: [id], unread: true } })
    expect(refused).to.deep.equal([])
  }
  /** One that is out, and the link of its grower. */
  async function out(set: Partial<Sending['parties'][number]> = {}) {
    const made = await make()
    const grower = partyOf(made, 'Grower')
    if (Object.keys(set).length) await setUp(ines, made.id, { [grower.name]: set })
    await send(made.id)
    return { id: made.id, grower, token: await linkIn(ines, grower.email) }
  }
  const open = (token: string) => anyone().call('signing', { params: { token } })
  const verified = async (id: string) => {
    const { verified: holds, problem } = await ines.call('trail', { params: { id } })
    expect(problem).to.equal(null)
    expect(holds).to.equal(true)
  }

  describe('how it goes out', () => {
    it('is until the end of a day where the sender is, and the mail says so, with a calendar file (RFC 5545)', async () => {
      const { id, grower } = await out()
      const day = Temporal.Now.plainDateISO(ZONE).add({ days: 14 })
      const found = await read(id)
      expect(found.signByDay).to.equal(day.toString())
      expect(Date.parse(found.signBy!)).to.equal(
        day.add({ days: 1 }).toZonedDateTime(ZONE).epochMilliseconds - 1,
      )
      const [newest] = await ines.call('receivedMails', { query: { search: grower.email } })
      const { attachments } = await ines.call('receivedMail', { params: { id: newest!.id } })
      const at = attachments.findIndex(({ name }) => name === 'sign-by.ics')
      const file = await ines.call('receivedAttachment', { params: { id: newest!.id, index: at } })
      const lines = (await (file as Blob).text()).split('\r\n')
      expect(lines).to.include.members(['BEGIN:VCALENDAR', 'VERSION:2.0', 'METHOD:PUBLISH', 'BEGIN:VEVENT'])
      expect(lines).to.include(`DTSTART;VALUE=DATE:${day.toString().replaceAll('-', '')}`)
      for (const line of lines) expect(Buffer.byteLength(line)).to.be.at.most(75)
    })

    it('takes those who agree and those who get a copy, in any order, each with words of their own', async () => {
      const made = await make()
      const {
        refusal: _r,
        previews: _p,
        signDays: _d,
        ...now
      } = await ines.call('sendingOf', {
        params: { id: made.id },
      })
      const plain = { ...now.parties[0]!, id: null, check: 'link' as const, message: '', phone: '' }
      const sheet = await ines.call('setSending', {
        params: { id: made.id },
        body: {
          ...now,
          parties: [
            { ...plain, kind: 'assenter', name: 'Opal Dunmore', email: 'opal@holding.example', order: 1 },
            { ...plain, kind: 'copy', name: 'Basil Wray', email: 'basil@broker.example', copyNow: true },
            ...now.parties.map((each) => ({ ...each, order: 2, message: `Only for ${each.name}` })),
          ],
        },
      })
      expect(sheet.previews.flatMap(({ doubts }) => doubts)).to.deep.equal([])
      await send(made.id)
      expect(await mailTo(ines, 'basil@broker.example', /For your information/)).to.contain(
        'There is nothing for you to do',
      )
      const copy = await linkIn(ines, 'basil@broker.example')
      expect((await open(copy)).status).to.equal('reading')
      expect((await open(copy)).blanks).to.deep.equal([])
      // Nobody else before the one who has to agree.
      expect(
        (await read(made.id)).parties.filter(({ invitedAt, kind }) => invitedAt && kind !== 'copy'),
      ).to.have.length(1)
      const token = await linkIn(ines, 'opal@holding.example')
      const agreeing = await open(token)
      expect(agreeing.gates.map(({ gate }) => gate)).to.deep.equal(['turn', 'identity', 'consent', 'finish'])
      const opal = anyone()
      await opal.call('consent', { params: { token } })
      expect((await opal.refused('fillBlanks', { params: { token }, body: { values: {} } })).status).to.equal(
        409,
      )
      await opal.call('finishSigning', { params: { token } })
      const invited = (await read(made.id)).parties.filter(
        ({ kind, invitedAt }) => kind === 'signer' && invitedAt,
      )
      expect(invited).to.have.length(2)
      // What is for one alone, the other never sees.
      for (const each of invited) {
        const shown = await open(await linkIn(ines, each.email))
        expect(shown.alone).to.equal(`Only for ${each.name}`)
        const others = invited.filter(({ id }) => id !== each.id)
        for (const other of others) {
          expect(JSON.stringify(shown)).not.to.contain(other.email)
          expect(JSON.stringify(shown)).not.to.contain(`Only for ${other.name}`)
        }
      }
      await verified(made.id)
    })

    it('sends the link by text where it is set so, reminders too, and the evidence says it', async () => {
      const made = await make()
      const grower = partyOf(made, 'Grower')
      const set = (phone: string) => setUp(ines, made.id, { [grower.name]: { linkBy: 'text', phone } })
      const refused = await set('555').catch((error: unknown) => String(error))
      expect(refused).to.contain('a link by text needs a phone number')
      await set('+1 541 555 0177')
      await send(made.id)
      const textsTo = () => ines.call('receivedTexts', { query: { search: '5415550177' } })
      const text = await eventually(async () => (await textsTo())[0], 'a text')
      expect(text.text).to.match(/^Ines Hallow, Larkmere Pollination asks you to sign Pollination agreement/)
      expect(await ines.call('receivedMails', { query: { search: grower.email } })).to.deep.equal([])
      await ines.call('takeCourse', {
        params: { id: made.id },
        body: { course: 'remind', party: partyOf(await read(made.id), 'Grower').id },
      })
      await eventually(async () => (await textsTo()).length === 2, 'a second text')
      const token = /\/sign\/([\w-]{43})/.exec(text.text)![1]!
      await signAs(anyone(), token)
      // By the device: the newest link in the signatory's mail may still be that of another agreement.
      const { path } = await ines.call('handDevice', {
        params: { id: made.id, party: partyOf(await read(made.id), 'Larkmere').id },
      })
      await signAs(anyone(), path.split('/').at(-1)!)
      await eventually(async () => (await read(made.id)).state === 'executed', 'the seal', 60)
      const evidence = await (await ines.call('agreementEvidence', { params: { id: made.id } })).text()
      expect(JSON.parse(evidence))
        .to.have.nested.property('parties[0].proofs')
        .that.deep.equals(['link by text'])
      expect(evidence).not.to.contain('5415550177')
    })

    it('is refused with what is no address, a code by text without telephone, and nobody to sign left out', async () => {
      const made = await make()
      const now = await ines.call('sendingOf', { params: { id: made.id } })
      const set = (parties: typeof now.parties) =>
        ines.refused('setSending', { params: { id: made.id }, body: { ...now, parties } })
      const [first, ...rest] = now.parties
      expect((await set([{ ...first!, email: 'not an address' }, ...rest])).message).to.contain(
        'is not an email address',
      )
      expect((await set([{ ...first!, check: 'text code', phone: '555' }, ...rest])).message).to.contain(
        'phone number',
      )
      expect((await set([{ ...first!, check: 'agreed code' }, ...rest])).message).to.contain(
        'set an agreed code',
      )
      expect((await set(rest)).message).to.contain('Everyone who signs has to stay')
      expect((await set([{ ...first!, name: 'Somebody Else' }, ...rest])).message).to.contain(
        'comes from the document',
      )
    })

    it('says what is doubtful: two with one address', async () => {
      const made = await make()
      const now = await ines.call('sendingOf', { params: { id: made.id } })
      const { previews } = await ines.call('setSending', {
        params: { id: made.id },
        body: { ...now, parties: now.parties.map((each) => ({ ...each, email: 'one@orchard.example' })) },
      })
      expect(previews[0]!.doubts[0]).to.contain('has the same email address')
      // It goes all the same, each with a link of their own.
      await send(made.id)
      const first = await linkIn(ines, 'one@orchard.example')
      await signAs(anyone(), first)
      const second = await eventually(async () => {
        const found = await linkIn(ines, 'one@orchard.example')
        return found !== first && found
      }, 'another link')
      expect((await open(second)).status).to.equal('open')
    })
  })

  describe('who they are', () => {
    it('is shown by a code for one use by mail, and nothing of the agreement before', async () => {
      const { id, grower, token } = await out({ check: 'mail code' })
      const shut = await open(token)
      expect([shut.may, shut.title, shut.message, shut.blanks]).to.deep.equal([['prove'], '', '', []])
      expect(shut.check.to).to.match(/^.…/).and.not.contain(grower.email.split('@')[0]!)
      const visitor = anyone()
      for (const route of ['signingDocument', 'signingReading'] as const)
        expect((await visitor.refused(route, { params: { token } })).status).to.equal(401)
      expect((await visitor.refused('consent', { params: { token } })).status).to.equal(401)
      await visitor.call('sendCode', { params: { token } })
      const [, code] = /Your code is (\d{6})/.exec(await mailTo(ines, grower.email, /Your code/))!
      expect(
        (await visitor.refused('prove', { params: { token }, body: { code: 'abc' } })).message,
      ).to.contain('4 more tries')
      await visitor.call('prove', { params: { token }, body: { code } })
      expect((await visitor.call('signing', { params: { token } })).may).to.include('consent')
      // Another browser has shown nothing; the code was for one use.
      expect((await open(token)).may).to.deep.equal(['prove'])
      expect((await anyone().refused('prove', { params: { token }, body: { code } })).message).to.contain(
        'does not count any more',
      )
      expect(await signAs(visitor, token)).to.equal(false)
      await verified(id)
    })

    it('is shown by a code by text, over the gateway’s protocol', async () => {
      const { token } = await out({ check: 'text code', phone: '+1 541 555 0117' })
      const visitor = anyone()
      await visitor.call('sendCode', { params: { token } })
      const text = await eventually(
        async () => (await ines.call('receivedTexts', { query: { search: '+15415550117' } }))[0],
        'a text',
      )
      await visitor.call('prove', {
        params: { token },
        body: { code: /(\d{6}) is your code/.exec(text.text)![1] },
      })
      expect((await visitor.call('signing', { params: { token } })).may).to.include('consent')
      const stranger = await fetch(`${running.url}/api/post-room/texts`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ to: '+15415550117', text: 'false', reference: 'x' }),
      })
      expect(stranger.status).to.equal(401)
    })

    it('is locked after five wrong agreed codes, even tried at once; the sender is told and lets them in again', async () => {
      const { id, grower, token } = await out({ check: 'agreed code', code: 'Willow 4471' })
      const tries = await Promise.all(
        Array.from({ length: 12 }, (_, i) =>
          anyone().refused('prove', { params: { token }, body: { code: `wrong ${i}` } }),
        ),
      )
      expect(tries.filter(({ status }) => status === 422)).to.have.length(4)
      expect(tries.filter(({ status }) => status === 423)).to.have.length(8)
      // Now the right one does not count either.
      expect(
        (await anyone().refused('prove', { params: { token }, body: { code: 'Willow 4471' } })).status,
      ).to.equal(423)
      await mailTo(ines, 'ines.hallow', /Too many wrong codes/)
      expect(partyOf(await read(id), 'Grower').locked).to.equal(true)
      await course(id, { course: 'new agreed code', party: grower.id, code: 'Alder 9902' })
      const visitor = anyone()
      expect(
        (await visitor.refused('prove', { params: { token }, body: { code: 'Willow 4471' } })).status,
      ).to.equal(422)
      await visitor.call('prove', { params: { token }, body: { code: 'alder9902' } })
      expect((await visitor.call('signing', { params: { token } })).may).to.include('consent')
      await verified(id)
    })

    it('is seen by whoever hands the device over, and that stays with the signature', async () => {
      const made = await make()
      await send(made.id)
      const [first, second] = [partyOf(made, 'Grower'), made.parties.find(({ label }) => label !== 'Grower')!]
      expect(
        (await ines.refused('handDevice', { params: { id: made.id, party: second.id } })).message,
      ).to.contain('turn yet')
      const { path } = await ines.call('handDevice', { params: { id: made.id, party: first.id } })
      const token = path.replace('/sign/', '')
      expect((await open(token)).atDeviceOf).to.equal('Ines Hallow')
      await signAs(anyone(), token)
      const { entries } = await ines.call('trail', { params: { id: made.id } })
      expect(entries.find(({ act }) => act === 'signed')!.detail['in person with']).to.equal('Ines Hallow')
    })
  })

  describe('the languages', () => {
    it('are the party’s on the page, in mails and in refusals, and theirs to change', async () => {
      const { id, grower, token } = await out({ language: 'es' })
      expect((await open(token)).language).to.equal('es')
      expect(await mailTo(ines, grower.email, /./)).to.contain('Puede firmarse hasta el final del día')
      expect((await anyone().refused('finishSigning', { params: { token } })).message).to.equal(
        'Acepte primero firmar electrónicamente.',
      )
      await anyone().call('chooseLanguage', { params: { token }, body: { language: 'fr' } })
      await course(id, { course: 'remind', party: grower.id })
      expect(await mailTo(ines, grower.email, /À signer encore/)).to.contain('vous attend')
    })
  })

  describe('the reading view', () => {
    it('has the same words as the pages, one’s own blanks and no others’', async () => {
      const { id, token } = await out()
      const { documents } = await anyone().call('signingReading', { params: { token } })
      const ids = [...JSON.stringify(documents).matchAll(/"id":"([^"]+)"/g)].map(([, found]) => found!)
      const own = (await open(token)).blanks.map((each) => each.id)
      expect([...new Set(ids)].sort()).to.deep.equal([...new Set(own)].sort())
      expect(JSON.stringify(documents)).not.to.match(/"(origin|source|target)"/)
      const text = JSON.stringify(documents)
      expect(text).to.contain((await read(id)).parties[0]!.name)
    })
  })

  describe('by the clock', () => {
    it('reminds in the morning, once, those who hold it up, and lapses at the end of the last day', async () => {
      const made = await make()
      const grower = partyOf(made, 'Grower')
      await setUp(ines, made.id, {}, { plan: { after: [3], unopened: [1], before: [1] } })
      await send(made.id)
      const { signBy, signByDay } = await read(made.id)
      const at = (day: Temporal.PlainDate, hour: number) =>
        new Date(
          day.toZonedDateTime({ timeZone: ZONE, plainTime: new Temporal.PlainTime(hour) }).epochMilliseconds,
        )
      const today = Temporal.Now.plainDateISO(ZONE)
      const reminders = async () =>
        (await ines.call('trail', { params: { id: made.id } })).entries.filter(
          ({ act }) => act === 'reminded to sign',
        )
      await watchAt(running.app, at(today.add({ days: 1 }), 8))
      expect(await reminders()).to.have.length(0)
      await watchAt(running.app, at(today.add({ days: 1 }), 10))
      await watchAt(running.app, at(today.add({ days: 1 }), 11))
      expect(await reminders()).to.have.length(1)
      // A worker that slept for days writes once.
      await watchAt(running.app, at(Temporal.PlainDate.from(signByDay!), 12))
      expect(await reminders()).to.have.length(2)
      const first = await linkIn(ines, grower.email, /pollination agreement/i)
      expect((await open(first)).status, 'every link that was sent holds').to.equal('open')
      await watchAt(running.app, new Date(Date.parse(signBy!) + 1))
      expect((await read(made.id)).state).to.equal('lapsed')
      expect((await open(first)).status).to.equal('lapsed')
      await mailTo(ines, grower.email, /No longer to be signed/)
      await mailTo(ines, 'ines.hallow', /^Lapsed/)
      // With another date the same links work again.
      await course(made.id, { course: 'extend', day: today.add({ days: 30 }).toString() })
      expect((await open(first)).status).to.equal('open')
      await mailTo(ines, grower.email, /More time to sign/)
      await verified(made.id)
    })

    it('does nothing twice where two workers look at once', async () => {
      const { id } = await out()
      const later = new Date(Date.now() + 30 * DAY)
      await Promise.all([
        watchAt(running.app, later),
        watchAt(running.app, later),
        watchAt(running.app, later),
      ])
      const { entries } = await ines.call('trail', { params: { id } })
      expect(entries.filter(({ act }) => act === 'lapsed')).to.have.length(1)
    })
  })

  describe('while it is out', () => {
    it('an address is corrected: the link that went astray is void, the new one works', async () => {
      const { id, grower, token } = await out()
      await course(id, { course: 'correct address', party: grower.id, email: 'right@orchard.example' })
      expect((await open(token)).status).to.equal('address corrected')
      expect((await anyone().refused('signingDocument', { params: { token } })).status).to.equal(409)
      expect((await open(await linkIn(ines, 'right@orchard.example'))).status).to.equal('open')
      await verified(id)
    })

    it('a signer is replaced, and nothing of the one before is left', async () => {
      const { id, grower, token } = await out()
      const visitor = anyone()
      await visitor.call('consent', { params: { token } })
      const { blanks } = await visitor.call('signing', { params: { token } })
      const own = blanks.find(({ kind }) => kind === 'initials')!
      await visitor.call('fillBlanks', {
        params: { token },
        body: { values: { [own.id]: { kind: 'typed', text: 'XX' } } },
      })
      await course(id, {
        course: 'replace signer',
        party: grower.id,
        name: 'Cora Vail',
        email: 'cora.vail@orchard.example',
      })
      expect((await open(token)).status).to.equal('replaced')
      const fresh = await open(await linkIn(ines, 'cora.vail@orchard.example'))
      expect([fresh.status, fresh.name, fresh.consented, fresh.values]).to.deep.equal([
        'open',
        'Cora Vail',
        false,
        {},
      ])
      await mailTo(ines, grower.email, /Not to be signed by you/)
      await verified(id)
    })

    it('a signer hands it over, where that is allowed, and the sender learns of it', async () => {
      const { id, token } = await out({ mayHandOver: true })
      const to = {
        name: 'Ambrose Kell',
        email: 'ambrose@orchard.example',
        reason: 'He runs the orchard now.',
      }
      await anyone().call('handOver', { params: { token }, body: to })
      expect((await open(token)).status).to.equal('handed over')
      await mailTo(ines, 'ines.hallow', /^Handed over/)
      await signAs(anyone(), await linkIn(ines, to.email))
      await verified(id)
      const other = await out()
      expect(
        (await anyone().refused('handOver', { params: { token: other.token }, body: to })).status,
      ).to.equal(409)
    })

    it('is taken back: links say so, signatures are void, and it goes out again as its next revision', async () => {
      const { id, grower, token } = await out()
      await signAs(anyone(), token)
      await course(id, { course: 'take back', reason: 'The delivery window was wrong.' })
      const back = await read(id)
      expect([back.state, back.revision]).to.deep.equal(['draft', 2])
      expect(back.parties.every(({ signedAt, invitedAt }) => !signedAt && !invitedAt)).to.equal(true)
      expect((await open(token)).status).to.equal('revised')
      expect((await anyone().refused('finishSigning', { params: { token } })).status).to.equal(409)
      expect(await mailTo(ines, grower.email, /Being revised/)).to.contain('The delivery window was wrong.')
      await ines.call('routeAgain', { params: { id } })
      await send(id)
      const again = await eventually(async () => {
        const found = await linkIn(ines, grower.email)
        return found !== token && found
      }, 'a new link')
      expect((await open(again)).status).to.equal('open')
      await verified(id)
    })

    it('is refused with a reason, which the sender reads with what can be done next', async () => {
      const { id, token } = await out()
      await anyone().call('decline', { params: { token }, body: { reason: 'The price is too high.' } })
      const refused = await read(id)
      expect(refused.state).to.equal('declined')
      expect(partyOf(refused, 'Grower').reason).to.equal('The price is too high.')
      expect(refused.courses).to.deep.equal(['take back', 'withdraw'])
      expect((await ines.call('desk')).refused.map((each) => each.reason)).to.include(
        'The price is too high.',
      )
      await course(id, { course: 'take back', reason: 'Another price.' })
      expect((await read(id)).state).to.equal('draft')
    })

    it('questions are answered by mail, once', async () => {
      const { id, grower, token } = await out()
      await anyone().call('askAsParty', {
        params: { token },
        body: { text: 'May the colonies come by day?', passage: 'Colonies are delivered at night.' },
      })
      const [asked] = (await read(id)).partyQuestions
      expect((await ines.call('desk')).questions.map(({ text }) => text)).to.include(
        'May the colonies come by day?',
      )
      const answer = { params: { id, question: asked!.id }, body: { answer: 'Before seven, yes.' } }
      await ines.call('answerParty', answer)
      expect((await ines.refused('answerParty', answer)).status).to.equal(409)
      expect(await mailTo(ines, grower.email, /An answer/)).to.contain('Before seven, yes.')
      expect((await open(token)).questions[0]!.answer).to.equal('Before seven, yes.')
    })

    it('two who finish in the same instant are both counted, and it is sealed once', async () => {
      const made = await make()
      const address = (name: string) => `${name.split(' ')[0]!.toLowerCase()}@twice.example`
      await setUp(
        ines,
        made.id,
        Object.fromEntries(made.parties.map(({ name }) => [name, { order: 1, email: address(name) }])),
      )
      await send(made.id)
      const tokens = await Promise.all(made.parties.map(({ name }) => linkIn(ines, address(name))))
      for (const token of tokens) {
        await anyone().call('consent', { params: { token } })
        const { blanks } = await open(token)
        await anyone().call('fillBlanks', {
          params: { token },
          body: {
            values: Object.fromEntries(
              blanks
                .filter(({ kind }) => kind !== 'date')
                .map((each) => [each.id, { kind: 'typed', text: 'Maud Ellery' }]),
            ),
          },
        })
      }
      const ends = await Promise.all(
        [...tokens, ...tokens].map((token) =>
          anyone()
            .call('finishSigning', { params: { token } })
            .catch(() => null),
        ),
      )
      expect(ends.filter((each) => each !== null)).to.have.length(2)
      expect(ends.filter((each) => each?.executed)).to.have.length(1)
      await eventually(async () => (await read(made.id)).state === 'executed', 'the seal', 60)
      await verified(made.id)
    })
  })

  describe('once it is executed', () => {
    it('has its evidence as data beside the file, nothing internal in it, and links that end by and by', async () => {
      const made = await make()
      await send(made.id)
      const tokens: string[] = []
      for (let last = false; !last;) {
        const waits = (await read(made.id)).parties.find(({ signedAt, invitedAt }) => invitedAt && !signedAt)!
        const { path } = await ines.call('handDevice', { params: { id: made.id, party: waits.id } })
        tokens.push(path.replace('/sign/', ''))
        last = await signAs(anyone(), tokens.at(-1)!)
      }
      await eventually(async () => (await read(made.id)).state === 'executed', 'the seal', 60)
      const text = await (await ines.call('agreementEvidence', { params: { id: made.id } })).text()
      const evidence = JSON.parse(text) as { parties: { name: string }[]; acts: { act: string }[] }
      expect(evidence.parties.map(({ name }) => name)).to.have.members(made.parties.map(({ name }) => name))
      for (const { email } of made.parties) expect(text).not.to.contain(email)
      expect(evidence.acts.map(({ act }) => act))
        .to.include('signed')
        .and.not.include('made')
      const late = { ...running.app, now: () => new Date(Date.now() + 100 * DAY) }
      await sweepNight(late)
      expect((await open(tokens[0]!)).status).to.equal('expired')
      await verified(made.id)
    })
  })

  describe('every route of a link', () => {
    it('is shut to a guessed link, and the tokens are kept nowhere', async () => {
      const { token } = await out()
      const guessed = `${token.slice(0, -1)}${token.endsWith('A') ? 'B' : 'A'}`
      const to = { params: { token: guessed } }
      const bodies = {
        signing: {},
        signingDocument: {},
        signingReading: {},
        consent: {},
        finishSigning: {},
        sendCode: {},
        fillBlanks: { body: { values: {} } },
        decline: { body: { reason: 'x' } },
        prove: { body: { code: '123456' } },
        chooseLanguage: { body: { language: 'fr' } },
        handOver: { body: { name: 'A', email: 'a@b.example', reason: 'x' } },
        askAsParty: { body: { text: 'x' } },
      } as const
      for (const [route, sent] of Object.entries(bodies))
        expect(
          (await anyone().refused(route as keyof typeof bodies, { ...to, ...sent })).status,
          route,
        ).to.equal(404)
      const { rows } = await running.app.pool.query(`select 1 from link where token_hash = $1`, [token])
      expect(rows).to.have.length(0)
      await eventually(async () => {
        const kept = await running.app.db.select().from(mail)
        return kept.every(({ body, sentAt }) => !sentAt || body === null)
      }, 'mails sent')
    })

    it('is shut to the wrong party: nobody fills what is another’s', async () => {
      const { id, token } = await out()
      const { document } = await running.app.db
        .select()
        .from(agreement)
        .where(eq(agreement.id, id))
        .then(async ([row]) => ({
          document: (
            await running.app.pool.query<{ blanks: { id: string; role: string }[] }>(
              'select blanks from revision where agreement_id = $1 and number = $2',
              [id, row!.revision],
            )
          ).rows[0]!,
        }))
      const other = document.blanks.find(({ role }) => role !== 'grower')!
      await anyone().call('consent', { params: { token } })
      const refused = await anyone().refused('fillBlanks', {
        params: { token },
        body: { values: { [other.id]: { kind: 'typed', text: 'Maud Ellery' } } },
      })
      expect(refused.message).to.equal('This blank is not yours to fill.')
    })
  })

  describe('mail that reaches nobody', () => {
    it('is not tried again, and shown on the agreement and the desk', async () => {
      const port = await freePort()
      const refusing = new SMTPServer({
        authOptional: true,
        disabledCommands: ['AUTH', 'STARTTLS'],
        onRcptTo: (_, __, callback) =>
          callback(Object.assign(new Error('5.1.1 No such mailbox'), { responseCode: 550 })),
      })
      await new Promise<void>((resolve) => refusing.listen(port, '127.0.0.1', () => resolve()))
      const { id, grower } = await out()
      const [sent] = await running.app.db.select().from(mail).where(eq(mail.partyId, grower.id))
      await running.app.db
        .update(mail)
        .set({ sentAt: null, body: { greeting: '', paragraphs: [], link: null, attachment: null } })
        .where(eq(mail.key, sent!.key))
      await deliverMail(
        { ...running.app, settings: { ...running.app.settings, smtpUrl: `smtp://127.0.0.1:${port}` } },
        sent!.key,
      )
      refusing.close()
      const found = await read(id)
      expect(partyOf(found, 'Grower').undelivered).to.contain('No such mailbox')
      expect((await ines.call('desk')).undelivered.map((each) => each.to)).to.include(grower.email)
      await mailTo(ines, 'ines.hallow', /^Not delivered/)
      await course(id, { course: 'correct address', party: grower.id, email: 'found@orchard.example' })
      expect(partyOf(await read(id), 'Grower').undelivered).to.equal(null)
      await verified(id)
      expect(await running.app.db.select().from(link).where(eq(link.partyId, grower.id))).to.have.length(2)
    })
  })
})
