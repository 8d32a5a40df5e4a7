import { execFile } from 'node:child_process'
import { mkdtemp, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { expect } from 'chai'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { speaks } from '#core/languages/all.ts'
import type { Answers } from '#core/intake/answers.ts'
import type { IntakeForm, Question } from '#core/intake/form.ts'
import { Client, eventually } from '#test/support/client.ts'
import { fillAll, linkIn, mailTo } from '#test/support/signing.ts'
import { idle, type Running, startApp } from '#test/support/running.ts'

/** A colony sale as an outsider answers it. */
const saleAnswers = (name: string, more: Answers = {}): Answers => ({
  'buyer.name': name,
  'buyer.contact': 'Ottilie Crane',
  'buyer.email': 'ottilie.crane@fennelbottom.example',
  'buyer.address': '3 Mill Row, Sedge Harbor',
  handover: '2027-05-10',
  payment: 'in advance',
  lots: [{ kind: 'Nucleus colony', grade: 'A', quantity: '12', price: '168.50' }],
  ...more,
})

describe('intake forms', () => {
  let running: Running
  let ines: Client
  let outsider: Client
  let sale = ''

  before(async () => {
    running = await startApp('intakes')
    ines = await Client.signedIn(running.url, 'ines.hallow')
    outsider = new Client(running.url)
    sale = (await ines.call('templates')).find(({ name }) => name === 'Colony sale')!.id
  })
  after(() => running?.stop())

  type Detail = Answer<Api['intake']>
  const makeForm = async (change: (form: IntakeForm) => IntakeForm = (form) => form): Promise<Detail> => {
    const { id } = await ines.call('makeIntake', { body: { templates: [sale] } })
    const { content, version } = await ines.call('intake', { params: { id } })
    await ines.call('saveIntake', { params: { id }, body: { content: change(content), version } })
    return ines.call('intake', { params: { id } })
  }
  const link = (id: string, more: object = {}) =>
    ines.call('openLink', {
      params: { id },
      body: { name: 'On our page', closesAt: null, mostAnswers: null, perHour: 100, origins: [], ...more },
    })
  const tokenOf = (url: string) => url.split('/').at(-1)!
  const begin = async (url: string) =>
    (await outsider.call('beginAnswer', { params: { token: tokenOf(url) }, body: { language: 'en' } })).token
  const handIn = (token: string, answers: Answers, language = 'en') =>
    outsider.call('handInAnswers', { params: { token }, body: { answers, language } })
  const answersTo = (id: string) => ines.call('answers', { params: { id } })
  const settled = (id: string, name: string) =>
    eventually(async () => {
      const found = (await answersTo(id)).find((each) => each.name === name || each.email === name)
      return found && found.state !== 'handed in' && found.state !== 'begun'
        ? ines.call('answer', { params: { id: found.id } })
        : null
    }, `the answer of ${name}`)
  const change =
    (id: string, more: Partial<Question>) =>
    (form: IntakeForm): IntakeForm => ({
      ...form,
      pages: form.pages.map((page) => ({
        ...page,
        questions: page.questions.map((each) => (each.id === id ? { ...each, ...more } : each)),
      })),
    })

  it('are made in one step: every value that nobody works out is asked once, and known by the record it fills', async () => {
    const { content, outline, problems } = await makeForm()
    const asked = content.pages.flatMap(({ questions }) => questions.map(({ id }) => id))
    expect(asked).to.have.members(outline.map(({ name }) => name))
    expect(new Set(asked).size).to.equal(asked.length)
    expect(asked).to.include.members(['buyer.name', 'buyer.email', 'lots'])
    expect(content.email).to.equal('buyer.email')
    expect(content.record?.fields).to.include({ name: 'buyer.name', email: 'buyer.email' })
    expect(problems).to.deep.equal([])
  })

  it('become a new record, an agreement, and mails to both sides', async () => {
    const { id } = await makeForm()
    const { url } = await link(id)
    const token = await begin(url)
    await handIn(token, saleAnswers('Fennel Bottom Growers'))
    await handIn(token, saleAnswers('Somebody Else'))
    const answer = await settled(id, 'ottilie.crane@fennelbottom.example')
    expect(answer).to.include({ state: 'made', outcome: 'new', by: 'open link' })
    expect(answer.agreements).to.have.length(1)
    expect(answer.record?.name).to.equal('Fennel Bottom Growers')
    const made = await ines.call('agreement', { params: { id: answer.agreements[0]!.id } })
    expect(made.record?.id).to.equal(answer.record!.id)
    const trail = await ines.call('trail', { params: { id: made.id } })
    expect(JSON.stringify(trail.entries[0]!.detail)).to.contain('answer')
    const theirs = await mailTo(ines, 'ottilie.crane@fennelbottom.example', /^Your answers: Colony sale$/)
    expect(theirs).to.contain('3 Mill Row, Sedge Harbor')
    const ours = await mailTo(ines, 'ines.hallow@larkmere.example', /^Colony sale: answered by/)
    expect(ours).to.contain('nobody has checked who they are')
  })

  it('know a record again: the same, or changed, which nobody from outside does', async () => {
    const { id } = await makeForm()
    const { url } = await link(id)
    const answered = async (address: string, email: string) => {
      const token = await begin(url)
      await handIn(token, saleAnswers('Bramble Hollow', { 'buyer.address': address, 'buyer.email': email }))
      return settled(id, email)
    }
    const first = await answered('1 Low Road', 'a@bramble.example')
    expect(first.outcome).to.equal('new')
    // There is a live one now: another needs somebody to say so.
    const second = await answered('2 High Road', 'b@bramble.example')
    expect(second).to.include({ outcome: 'changed', state: 'needs a hand' })
    expect(second.record?.id).to.equal(first.record?.id)
    expect(second.differences.map(({ field }) => field)).to.have.members(['address', 'email'])
    const record = () => ines.call('record', { params: { kind: 'customer', id: first.record!.id } })
    expect((await record()).data['address']).to.equal('1 Low Road')
    expect((await ines.call('answersWaiting')).map((each) => each.id)).to.include(second.id)
    await ines.call('settleAnswer', { params: { id: second.id }, body: { take: true } })
    expect((await record()).data['address']).to.equal('2 High Road')
    expect(
      (await ines.refused('settleAnswer', { params: { id: second.id }, body: { take: false } })).status,
    ).to.equal(409)
    await ines.call('mendAnswer', {
      params: { id: second.id },
      body: { answers: second.answers, version: second.version },
    })
    const mended = await eventually(async () => {
      const now = await ines.call('answer', { params: { id: second.id } })
      return now.state === 'made' && now
    }, 'the mended answer')
    expect(mended.agreements).to.have.length(1)
    expect((await record()).agreements).to.have.length(2)
  })

  it('say what is wrong at its place, in the reader’s language, and keep what was entered', async () => {
    const { id } = await makeForm()
    const token = await begin((await link(id)).url)
    const wrong = saleAnswers('Wrong', {
      'buyer.email': 'no address',
      handover: 'some day',
      payment: 'with honey',
      lots: [{ kind: 'Queen', grade: 'A', quantity: 'many', price: '12' }],
    })
    await outsider.call('keepAnswers', { params: { token }, body: { answers: wrong, language: 'fr' } })
    const { problem, status } = await outsider.refused('handInAnswers', {
      params: { token },
      body: { answers: wrong, language: 'fr' },
    })
    expect(status).to.equal(422)
    expect(Object.fromEntries(problem.faults!.map(({ pointer, detail }) => [pointer, detail]))).to.deep.equal(
      {
        '/answers/buyer.email': 'Ce n’est pas une adresse de courrier électronique.',
        '/answers/handover': 'Ce n’est pas une date. Choisissez-la ou écrivez année-mois-jour.',
        '/answers/payment': 'Choisissez l’une des réponses proposées.',
        '/answers/lots/0/quantity': 'Ce n’est pas un nombre.',
      },
    )
    expect((await outsider.call('form', { params: { token } })).answer?.answers).to.deep.equal(wrong)
  })

  it('ask only what their conditions let them, and give what all get unasked', async () => {
    const form = await makeForm((content) => ({
      ...change('buyer.address', { when: 'payment = "in advance"' })({
        ...content,
        pages: content.pages.map((page) => ({
          ...page,
          questions: [
            ...page.questions.filter((each) => each.id === 'payment'),
            ...page.questions.filter((each) => !['payment', 'handover'].includes(each.id)),
          ],
        })),
        leftOut: [{ field: 'handover', value: '2027-05-20' }],
      }),
    }))
    expect(form.problems).to.deep.equal([])
    const token = await begin((await link(form.id)).url)
    const shown = await outsider.call('form', { params: { token } })
    expect(JSON.stringify(shown)).to.not.contain('2027-05-20')
    expect(shown.content?.record).to.equal(null)
    await handIn(token, saleAnswers('Teasel Farm', { 'buyer.email': 'teasel@farm.example' }))
    const answer = await settled(form.id, 'teasel@farm.example')
    expect(answer.state).to.equal('made')
    const made = await ines.call('agreement', { params: { id: answer.agreements[0]!.id } })
    expect(JSON.stringify(made)).to.contain('Teasel Farm')
  })

  it('lead by a personal link, with what the record says in place, to nobody else’s answers', async () => {
    const customer = await ines.call('makeRecord', {
      params: { kind: 'customer' },
      body: { data: { name: 'Sorrel Bank', email: 'office@sorrel.example', address: '9 Weir Lane' } },
    })
    const form = await makeForm()
    await ines.call('invite', {
      params: { id: form.id },
      body: { name: 'Amos Tarn', email: 'amos@sorrel.example', record: customer.id, language: 'es', days: 7 },
    })
    const letter = await mailTo(ines, 'amos@sorrel.example', /^Algunas preguntas: Colony sale$/)
    const token = /\/form\/([\w-]{43})/.exec(letter)![1]!
    const shown = await outsider.call('form', { params: { token } })
    expect(shown.answer?.answers).to.include({ 'buyer.name': 'Sorrel Bank', 'buyer.address': '9 Weir Lane' })
    await handIn(
      token,
      saleAnswers('Sorrel Bank', { 'buyer.address': '9 Weir Lane', 'buyer.email': 'office@sorrel.example' }),
      'es',
    )
    const answer = await settled(form.id, 'office@sorrel.example')
    expect(answer).to.include({ outcome: 'same', by: 'invitation' })
    expect(answer.record?.id).to.equal(customer.id)
    const after = await outsider.call('form', { params: { token } })
    expect(after.standing).to.equal('done')
    expect(after.answer).to.equal(null)
    await running.app.pool.query(
      `update intake_answer set expires_at = now() - interval '1 day' where state = 'begun'`,
    )
  })

  it('close on their day, at their ceiling, and when they are put away', async () => {
    const form = await makeForm()
    const late = await link(form.id, { closesAt: new Date(Date.now() + 3_600_000).toISOString() })
    const token = await begin(late.url)
    await running.app.pool.query(
      `update open_link set closes_at = now() - interval '1 minute' where id = $1`,
      [late.id],
    )
    const { status, message } = await outsider.refused('handInAnswers', {
      params: { token },
      body: { answers: saleAnswers('Late'), language: 'en' },
    })
    expect([status, message.startsWith('This form was open until')]).to.deep.equal([409, true])
    const one = await link(form.id, { mostAnswers: 3 })
    const tokens = await Promise.all(Array.from({ length: 8 }, () => begin(one.url)))
    const ends = await Promise.all(
      tokens.map((each, i) =>
        handIn(each, saleAnswers(`Ceiling ${i}`)).then(
          () => 'taken',
          () => 'refused',
        ),
      ),
    )
    expect(ends.filter((each) => each === 'taken')).to.have.length(3)
    expect((await outsider.call('form', { params: { token: tokenOf(one.url) } })).standing).to.equal('full')
    await ines.call('dropIntake', { params: { id: form.id } })
    expect((await outsider.call('form', { params: { token: tokenOf(late.url) } })).standing).to.equal('ended')
  })

  it('take no more from one address than they say: a robot’s five hundred are nearly all refused', async () => {
    const form = await makeForm()
    const { url } = await link(form.id, { perHour: 5 })
    const tries = await Promise.all(
      Array.from({ length: 500 }, (_, i) =>
        begin(url)
          .then((token) => handIn(token, saleAnswers(`Robot ${i}`)))
          .then(
            () => 'taken',
            (error: { status?: number }) => error.status,
          ),
      ),
    )
    expect(tries.filter((each) => each === 'taken')).to.have.length(5)
    expect(new Set(tries)).to.deep.equal(new Set(['taken', 429]))
  })

  it('take files that are what their names say, and only for questions that ask for one', async () => {
    const form = await makeForm((content) => ({
      ...content,
      pages: [
        ...content.pages,
        {
          id: 'files',
          title: '',
          questions: [
            {
              id: 'permit',
              kind: 'file',
              label: 'Your permit',
              help: '',
              example: '',
              required: true,
              default: '',
              also: [],
              when: '',
            },
          ],
        },
      ],
    }))
    const token = await begin((await link(form.id)).url)
    const send = (name: string, bytes: string, question = 'permit') =>
      outsider.call('answerWithFile', {
        params: { token },
        query: { name, question },
        body: new TextEncoder().encode(bytes),
      })
    const refused = async (name: string, bytes: string, question?: string) =>
      send(name, bytes, question).then(
        () => '',
        (error: Error) => error.message,
      )
    expect(await refused('permit.pdf', '<html>no</html>')).to.contain('is not what its name says')
    expect(await refused('permit.exe', 'MZ')).to.contain('of a kind that is not taken')
    expect(await refused('permit.pdf', '%PDF-1.7', 'buyer.name')).to.not.equal('')
    const file = await send('permit.pdf', '%PDF-1.7 permit')
    const missing = await outsider.refused('handInAnswers', {
      params: { token },
      body: { answers: saleAnswers('Files'), language: 'en' },
    })
    expect(missing.problem.faults![0]!.pointer).to.equal('/answers/permit')
    // A file that never came, whatever is said of it.
    const invented = await outsider.refused('handInAnswers', {
      params: { token },
      body: {
        answers: {
          ...saleAnswers('Files'),
          permit: [{ sha256: 'a'.repeat(64), name: 'permit.pdf', size: 12 }],
        },
        language: 'en',
      },
    })
    expect(invented.problem.faults![0]!.pointer).to.equal('/answers/permit')
    await handIn(token, { ...saleAnswers('Files', { 'buyer.email': 'files@farm.example' }), permit: [file] })
    const answer = await settled(form.id, 'files@farm.example')
    expect(answer.files.map(({ name }) => name)).to.deep.equal(['permit.pdf'])
    const back = await ines.call('answerFile', { params: { id: answer.id, sha256: file.sha256 } })
    expect(await back.text()).to.equal('%PDF-1.7 permit')
    const record = await ines.call('record', { params: { kind: 'customer', id: answer.record!.id } })
    expect(record.files.map(({ name }) => name)).to.deep.equal(['permit.pdf'])
    const about = await ines.call('recordAnswers', {
      params: { kind: 'customer', id: answer.record!.id },
    })
    expect(about.map(({ id }) => id)).to.deep.equal([answer.id])
  })

  it('lead straight on to signing, and the evidence says what the identity rests on', async () => {
    const form = await makeForm((content) => ({ ...content, afterwards: 'sign' }))
    const token = await begin((await link(form.id)).url)
    await handIn(token, saleAnswers('Yarrow Court', { 'buyer.email': 'yarrow@court.example' }), 'fr')
    const after = await eventually(async () => {
      const now = (await outsider.call('form', { params: { token } })).after
      return now?.next === 'sign' && now
    }, 'the document')
    expect(after.documents).to.deep.equal([{ title: after.documents[0]!.title, signed: false, mine: true }])
    const { url } = await outsider.call('signAnswer', { params: { token }, body: { document: 0 } })
    const signing = /\/sign\/([\w-]{43})/.exec(url)![1]!
    const seen = await outsider.call('signing', { params: { token: signing } })
    expect(seen).to.include({ status: 'open', language: 'fr' })
    await outsider.call('consent', { params: { token: signing } })
    // Numbers are read by the page's language, and stand by the document's.
    const counted = (await outsider.call('signing', { params: { token: signing } })).blanks.find(
      ({ kind }) => kind === 'number',
    )!.id
    const fill = (text: string) => ({
      params: { token: signing },
      body: { values: { [counted]: { kind: 'text' as const, text } } },
    })
    expect((await outsider.refused('fillBlanks', fill('1.000'))).message).to.contain('1000 ou 1')
    await outsider.call('fillBlanks', fill('1 000,0'))
    const stands = (await outsider.call('signing', { params: { token: signing } })).values[counted]
    expect(stands).to.deep.equal({ kind: 'text', text: '1000.0' })
    await fillAll(outsider, signing, 'Ottilie Crane')
    await outsider.call('finishSigning', { params: { token: signing } })
    const answer = await settled(form.id, 'yarrow@court.example')
    const { entries } = await ines.call('trail', { params: { id: answer.agreements[0]!.id } })
    const signed = entries.find(({ act }) => act === 'signed')!
    expect(signed.detail['identity']).to.equal('what was entered in the intake form alone')
    const now = (await outsider.call('form', { params: { token } })).after!
    expect(now.documents[0]).to.include({ signed: true, mine: false })
    const ours = await linkIn(ines, 'ines.hallow@larkmere.example', /^Sale of/)
    await outsider.call('consent', { params: { token: ours } })
    await fillAll(outsider, ours, 'Ines Hallow')
    await outsider.call('finishSigning', { params: { token: ours } })
    const id = answer.agreements[0]!.id
    await eventually(
      async () => (await ines.call('agreement', { params: { id } })).state === 'executed',
      'the sealed file',
      60,
    )
    // An English contract has English days on it, whatever language its parties are spoken to in.
    const file = join(await mkdtemp(join(tmpdir(), 'brevan-day-')), 'a.pdf')
    const sealed = await ines.call('agreementDocument', { params: { id } })
    await writeFile(file, Buffer.from(await sealed.arrayBuffer()))
    const { pages } = await ines.call('agreement', { params: { id } })
    const { stdout } = await promisify(execFile)('pdftotext', ['-l', String(pages), '-layout', file, '-'])
    const zone = 'America/Los_Angeles'
    expect(stdout).to.contain(speaks('en').day(new Date(), zone))
    expect(stdout).to.not.contain(speaks('fr').day(new Date(), zone))
    const evidence = JSON.parse(await (await ines.call('agreementEvidence', { params: { id } })).text()) as {
      parties: { name: string; proofs: string[] }[]
    }
    expect(evidence.parties.map(({ name, proofs }) => [name, proofs])).to.deep.equal([
      ['Ottilie Crane', ['form']],
      ['Ines Hallow', ['link']],
    ])
  })

  it('let nobody sign for anybody else: an address that is known as another’s gets its link by mail', async () => {
    const form = await makeForm((content) => ({ ...content, afterwards: 'sign' }))
    const { url } = await link(form.id)
    const contact = (await ines.call('records', { params: { kind: 'contact' } })).records[0]!
    const addresses = [
      // The one who signs for the organization; somebody else who works here; the organization itself; a contact.
      'ines.hallow@larkmere.example',
      'MAREN.OAKES@larkmere.example',
      String(contact.data['email']),
    ]
    for (const [i, email] of addresses.entries()) {
      const token = await begin(url)
      await handIn(token, saleAnswers(`Stranger ${i}`, { 'buyer.email': email }))
      const answer = await settled(form.id, `Stranger ${i}`).catch(() => settled(form.id, email))
      expect(answer.agreements, email).to.have.length(1)
      await eventually(
        async () =>
          (await ines.call('agreement', { params: { id: answer.agreements[0]!.id } })).state === 'out',
        'it to be out',
      )
      for (const document of [0, 1]) {
        const refused = await outsider.refused('signAnswer', { params: { token }, body: { document } })
        expect(refused.status, `${email} ${document}`).to.equal(409)
      }
      const { after } = await outsider.call('form', { params: { token } })
      expect(
        after!.documents.some(({ mine }) => mine),
        email,
      ).to.equal(false)
    }
    // One that is a known customer by name is theirs by mail only, too: that name proves nothing.
    const token = await begin(url)
    const name = 'Quiet Water Farm'
    await ines.call('makeRecord', {
      params: { kind: 'customer' },
      body: { data: { name, email: 'office@quietwater.example' } },
    })
    await handIn(token, saleAnswers(name, { 'buyer.email': 'nobody.knows@court.example' }))
    const answer = await settled(form.id, 'nobody.knows@court.example')
    expect(answer.record?.name).to.equal(name)
    expect(answer.outcome).to.equal('changed')
    const id = answer.agreements[0]!.id
    expect(
      (await outsider.refused('signAnswer', { params: { token }, body: { document: 0 } })).status,
    ).to.equal(409)
    // Nothing goes to an address that is not theirs before somebody here has looked.
    await eventually(() => idle(running.app, 'send-made'), 'what goes at once')
    expect((await ines.call('agreement', { params: { id } })).state).to.equal('cleared')
  })

  it('tell a stranger nothing, whatever they try', async () => {
    const form = await makeForm()
    const { url } = await link(form.id)
    const token = await begin(url)
    await handIn(token, saleAnswers('Secret Growers', { 'buyer.email': 'secret@growers.example' }))
    await settled(form.id, 'secret@growers.example')
    for (const each of [tokenOf(url), token]) {
      const seen = JSON.stringify(await outsider.call('form', { params: { token: each } }))
      expect(seen, each).to.not.contain('Secret Growers')
    }
    const guess = 'x'.repeat(43)
    expect((await outsider.refused('form', { params: { token: guess } })).status).to.equal(404)
    // An open link’s own token is nobody’s answer.
    const open = tokenOf(url)
    const body = { answers: {}, language: 'en' as const }
    expect((await outsider.refused('keepAnswers', { params: { token: open }, body })).status).to.equal(404)
    expect((await outsider.refused('handInAnswers', { params: { token: open }, body })).status).to.equal(404)
    expect(
      (await outsider.refused('signAnswer', { params: { token: open }, body: { document: 0 } })).status,
    ).to.equal(404)
    expect(
      (await outsider.refused('beginAnswer', { params: { token }, body: { language: 'en' } })).status,
    ).to.equal(404)
    for (const [name, params] of [
      ['intakes', {}],
      ['intake', { id: form.id }],
      ['answers', { id: form.id }],
      ['answersWaiting', {}],
    ] as const)
      expect((await outsider.refused(name, { params })).status, name).to.equal(401)
  })
})
