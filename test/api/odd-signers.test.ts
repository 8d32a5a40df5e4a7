import { expect } from 'chai'
import type { Agreement } from '#contract/agreement.ts'
import { eq } from 'drizzle-orm'
import nodemailer from 'nodemailer'
import { agreement, mail } from '#server/db/schema.ts'
import { openPostRoom } from '#server/post/post-room.ts'
import { deliverMail } from '#server/services/agreements/delivering.ts'
import { executeAgreement } from '#server/services/signing/executing.ts'
import { Client, eventually } from '#test/support/client.ts'
import { freePort, type Running, startApp } from '#test/support/running.ts'
import { clearedOnes, linkIn, partyOf, setUp } from '#test/support/signing.ts'
import { signAs } from '#test/support/story.ts'

// What people and machines do that nobody meant: too much, too large, broken, twice, or in the middle of something.

describe('signing by those who do not do as one should', () => {
  let running: Running
  let ines: Client
  let make: () => Promise<Agreement>

  before(async () => {
    // No worker: what waits in the queue is done by these tests, when they want it.
    running = await startApp('odd_signers', { sheet: false, worker: false })
    ines = await Client.signedIn(running.url, 'ines.hallow')
    make = await clearedOnes(ines)
  })
  after(() => running?.stop())

  const read = (id: string) => ines.call('agreement', { params: { id } })
  const send = (id: string) => ines.call('sendAgreements', { body: { agreements: [id] } })
  const mailsOf = (id: string) => running.app.db.select().from(mail).where(eq(mail.agreementId, id))
  const deliverAll = async (id: string) => {
    for (const { key } of await mailsOf(id)) await deliverMail(running.app, key)
  }
  /** One that is out, and a link to it for the grower who has agreed to sign. */
  async function signing() {
    const made = await make()
    await send(made.id)
    await deliverAll(made.id)
    const token = await linkIn(ines, partyOf(made, 'Grower').email)
    const someone = new Client(running.url)
    await someone.call('consent', { params: { token } })
    return { id: made.id, token, someone, params: { token } }
  }

  it('says what is wrong with a picture that is too large or broken, and loses nothing', async () => {
    const { someone, params } = await signing()
    const { blanks } = await someone.call('signing', { params })
    const place = blanks.find(({ kind }) => kind === 'signature')!.id
    const typed = { [place]: { kind: 'typed' as const, text: 'Maud Ellery' } }
    await someone.call('fillBlanks', { params, body: { values: typed } })
    const picture = (body: Uint8Array) => someone.refused('signingSignature', { params, body })
    const large = await picture(Buffer.alloc(30_000_000, 1))
    expect([413, 422]).to.include(large.status)
    const head = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 0, 0, 0, 13])
    for (const broken of [
      head,
      Buffer.concat([head, Buffer.from('IHDR'), Buffer.alloc(60)]),
      Buffer.from('<svg/>'),
    ])
      expect((await picture(broken)).status, 'a broken picture').to.equal(422)
    const values = (strokes: number, points: number) => ({
      [place]: {
        kind: 'drawn' as const,
        strokes: Array.from({ length: strokes }, () => Array.from({ length: points }, () => [0.5, 0.1])),
        height: 0.3,
      },
    })
    for (const [strokes, points] of [
      [10_000, 1],
      [1, 2001],
    ] as const)
      expect(
        (await someone.refused('fillBlanks', { params, body: { values: values(strokes, points) } })).status,
        `${strokes} strokes of ${points} points`,
      ).to.be.oneOf([400, 413, 422])
    expect((await someone.call('signing', { params })).values).to.deep.equal(typed)
  })

  it('sends no header that somebody wrote into a subject, and to addresses of any script', async () => {
    const made = await make()
    const grower = partyOf(made, 'Grower')
    const email = 'jürgen+höfe@müllerei.example'
    await setUp(
      ines,
      made.id,
      { [grower.name]: { email, message: '\u202eGreetings <script>alert(1)</script>' } },
      { subject: 'Your agreement\r\nBcc: everyone@elsewhere.example' },
    )
    await send(made.id)
    await deliverAll(made.id)
    const token = await linkIn(ines, 'ller')
    const mails = await ines.call('receivedMails', { query: { search: 'Your agreement' } })
    expect(mails).to.have.length(1)
    expect(mails[0]!.subject.replace(/\s+/g, ' ')).to.equal('Your agreement Bcc: everyone@elsewhere.example')
    expect(await ines.call('receivedMails', { query: { search: 'everyone@elsewhere' } })).to.have.length(1)
    const { html } = await ines.call('receivedMail', { params: { id: mails[0]!.id } })
    expect(html).not.to.contain('<script>')
    expect((await new Client(running.url).call('signing', { params: { token } })).alone).to.contain(
      '<script>',
    )
  })

  it('seals once, whatever ends in the middle and however often it is begun', async () => {
    const { id, token } = await signing()
    const { app } = running
    await signAs(new Client(running.url), token).catch(() => undefined)
    await deliverAll(id)
    const other = partyOf(await read(id), 'Larkmere')
    const { path } = await ines.call('handDevice', { params: { id, party: other.id } })
    await signAs(new Client(running.url), path.split('/').at(-1)!)
    // Between stamping and sealing the process ends: nothing of it counts.
    const ended = new Proxy(app.pages, {
      get: (pages, name) =>
        name === 'seal'
          ? () => Promise.reject(new Error('killed'))
          : (Reflect.get(pages, name) as (...args: unknown[]) => unknown).bind(pages),
    })
    await executeAgreement({ ...app, pages: ended }, id).then(
      () => expect.fail('it ended'),
      () => undefined,
    )
    expect((await read(id)).state).to.equal('out')
    await Promise.all([executeAgreement(app, id), executeAgreement(app, id), executeAgreement(app, id)])
    await executeAgreement(app, id)
    expect((await read(id)).state).to.equal('executed')
    const { entries, verified } = await ines.call('trail', { params: { id } })
    expect(entries.filter(({ act }) => act === 'executed')).to.have.length(1)
    expect(verified).to.equal(true)
    const told = (await mailsOf(id)).filter(({ key }) => key.startsWith('executed:'))
    expect(new Set(told.map(({ to }) => to)).size).to.equal(told.length)
  })

  it('loses no mail while the mail server is away, and sends none twice when it is back', async () => {
    const made = await make()
    await send(made.id)
    const { app } = running
    const away = { ...app, settings: { ...app.settings, smtpUrl: `smtp://127.0.0.1:${await freePort()}` } }
    const [first] = await mailsOf(made.id)
    for (let i = 0; i < 3; i++)
      await deliverMail(away, first!.key).then(
        () => expect.fail('nobody is there'),
        () => undefined,
      )
    const [waiting] = await mailsOf(made.id)
    expect([waiting!.sentAt, waiting!.undeliverableAt]).to.deep.equal([null, null])
    expect(waiting!.problem).to.contain('ECONNREFUSED')
    await Promise.all([deliverMail(app, first!.key), deliverMail(app, first!.key)])
    await deliverMail(app, first!.key)
    const mails = await ines.call('receivedMails', { query: { search: first!.to } })
    expect(mails.filter(({ subject }) => subject === first!.subject)).to.have.length(1)
    const [row] = await app.db.select().from(agreement).where(eq(agreement.id, made.id))
    expect(row!.state).to.equal('out')
  })

  it('takes beside a real mail server what comes back and nothing else, and no report by somebody who made it up', async () => {
    const made = await make()
    await send(made.id)
    const [sent] = await mailsOf(made.id)
    const port = await freePort()
    const taken: string[] = []
    const room = await openPostRoom(
      { ...running.app, settings: { ...running.app.settings, postRoom: false } },
      port,
      (token) => {
        taken.push(token)
        return Promise.resolve()
      },
    )
    const line = nodemailer.createTransport({ host: '127.0.0.1', port })
    const to = (address: string) =>
      line.sendMail({ from: 'a@elsewhere.example', to: address, subject: 'Hello', text: 'Hello' }).then(
        () => 'taken',
        (error: unknown) => String((error as { responseCode?: number }).responseCode),
      )
    expect(await to('ines.hallow@larkmere.example')).to.equal('550')
    expect(await to(`returned+${'0'.repeat(31)}@larkmere.example`)).to.equal('550')
    expect(await to(`returned+${sent!.returnToken!}@larkmere.example`)).to.equal('taken')
    expect(taken).to.deep.equal([sent!.returnToken])
    await room.close()
    // A letter to that address that is no report changes nothing; nor does a token that nobody has.
    await nodemailer.createTransport(running.app.settings.smtpUrl).sendMail({
      from: 'a@elsewhere.example',
      to: [`returned+${sent!.returnToken!}@larkmere.example`, `returned+${'f'.repeat(32)}@larkmere.example`],
      subject: 'Action: failed',
      text: 'Action: failed\r\nStatus: 5.1.1',
    })
    const [after] = await mailsOf(made.id)
    expect(after!.undeliverableAt).to.equal(null)
    await eventually(() => Promise.resolve(true), 'the end')
  })
})
