import { randomUUID } from 'node:crypto'
import { readdir, readFile } from 'node:fs/promises'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { join } from 'node:path'
import { expect } from 'chai'
import { v2 as webdav } from 'webdav-server'
import type { Step } from '#core/next-steps/steps.ts'
import { planAftermath } from '#server/services/next-steps/planning.ts'
import { doAftermath } from '#server/services/next-steps/doing.ts'
import { Client, eventually } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'
import { saleOf } from '#test/support/sale.ts'
import { fillAll, linkIn, mailTo } from '#test/support/signing.ts'

describe('what follows an agreement', () => {
  let running: Running
  let ines: Client
  let program: Client
  let sale = ''
  let invoice = ''
  let me = ''
  let buyer = ''

  before(async () => {
    running = await startApp('aftermath')
    Object.assign(running.app.settings, { inner: ['127.0.0.1'] })
    ines = await Client.signedIn(running.url, 'ines.hallow')
    me = (await ines.call('session')).person!.id
    const templates = await ines.call('templates')
    sale = templates.find(({ name }) => name === 'Colony sale')!.id
    invoice = templates.find(({ name }) => name === 'Colony sale invoice')!.id
    const { secret } = await ines.call('makeKey', {
      body: {
        name: 'Hive portal',
        scopes: ['start agreements', 'send agreements', 'read agreements'],
        days: null,
      },
    })
    program = new Client(running.url, secret)
    const made = await ines.call('makeRecord', {
      params: { kind: 'customer' },
      body: { data: { name: 'Fennel Bottom Farm', email: 'ottilie.crane@fennelbottom.example' } },
    })
    buyer = made.id
  })
  after(() => running?.stop())

  const common = () => ({
    id: randomUUID(),
    on: 'executed' as const,
    when: '',
    delay: { count: 0, unit: 'days' as const },
    tell: me,
  })
  let version = 0
  const follow = async (...steps: Step[]) => {
    const saved = await ines.call('saveAftermath', {
      params: { kind: 'template', id: sale },
      body: { steps, version },
    })
    version = saved.version
  }
  const send = async (more: object = {}): Promise<string> => {
    const started = await program.call('programStart', {
      body: { template: sale, record: buyer, data: saleOf('Fennel Bottom Farm', more) },
    })
    const id = await eventually(
      async () => (await program.call('programStarted', { params: { id: started.id } })).agreement,
      'the agreement',
    )
    await program.call('programSend', { params: { id } })
    return id
  }
  /** An agreement made, sent, and signed by both. */
  const execute = async (more: object = {}): Promise<string> => {
    const id = await send(more)
    for (const email of ['ottilie.crane@fennelbottom.example', 'ines.hallow@larkmere.example']) {
      const party = await eventually(async () => {
        const { parties } = await ines.call('agreement', { params: { id } })
        return parties.find((each) => each.email === email && each.invitedAt)
      }, `the turn of ${email}`)
      const token = await eventually(async () => {
        const link = await linkIn(ines, email)
        const seen = await new Client(running.url).call('signing', { params: { token: link } })
        return seen.status === 'open' && seen.title.includes('Fennel') && party ? link : null
      }, 'the newest link')
      const signer = new Client(running.url)
      await signer.call('consent', { params: { token } })
      await fillAll(signer, token, party.name)
      await signer.call('finishSigning', { params: { token } })
    }
    await eventually(
      async () => (await ines.call('agreement', { params: { id } })).state === 'executed',
      'the sealed file',
      60,
    )
    return id
  }
  const settled = (id: string, states: readonly string[] = ['done', 'skipped', 'failed']) =>
    eventually(async () => {
      const steps = await ines.call('agreementAftermath', { params: { id } })
      return steps.length > 0 && steps.every(({ state }) => states.includes(state)) && steps
    }, 'what follows')

  it('is refused with what is wrong at its step, and kept where it is sound', async () => {
    const wrong = await ines.refused('saveAftermath', {
      params: { kind: 'template', id: sale },
      body: {
        version: 0,
        steps: [
          { ...common(), kind: 'file to the record', name: '{{number}}' },
          { ...common(), kind: 'mail', to: '{{buyer.mail}}', subject: 'x', text: 'x', attach: true },
        ],
      },
    })
    expect(wrong.problem.faults![0]!.pointer).to.equal('/steps/1')
    await follow({ ...common(), kind: 'file to the record', name: '{{number}}' })
    const stale = await ines.refused('saveAftermath', {
      params: { kind: 'template', id: sale },
      body: { steps: [], version: 0 },
    })
    expect(stale.status).to.equal(409)
    const listed = await ines.call('aftermath', { params: { kind: 'template', id: sale } })
    expect(listed.steps).to.have.length(1)
    expect(listed.choices.templates.map(({ name }) => name)).to.include('Colony sale invoice')
  })

  it('files, bills, writes and changes the record, each once, with a gapless number and the bill as data', async () => {
    await follow(
      { ...common(), kind: 'file to the record', name: '{{number}} {{buyer.name}}' },
      {
        ...common(),
        kind: 'next document',
        template: invoice,
        send: true,
        bill: {
          name: 'buyer.name',
          address: 'buyer.address',
          due: 'due',
          sellerCountry: 'US',
          buyerCountry: 'US',
        },
      },
      {
        ...common(),
        kind: 'change the record',
        of: 'customer',
        field: 'legal_form',
        value: '"a " + payment + " buyer"',
      },
      {
        ...common(),
        when: 'colonies > 10000',
        kind: 'mail',
        to: 'never@larkmere.example',
        subject: 'x',
        text: 'x',
        attach: false,
      },
      {
        ...common(),
        kind: 'mail',
        to: 'ledger@larkmere.example',
        subject: 'Sold: {{number}}',
        text: 'To {{buyer.name}}.',
        attach: true,
      },
      { ...common(), kind: 'follow-up', person: me, text: 'Call {{buyer.contact}}', days: 5 },
      {
        ...common(),
        delay: { count: 30, unit: 'days' },
        kind: 'follow-up',
        person: me,
        text: 'Later',
        days: 0,
      },
    )
    const id = await execute()
    await eventually(
      async () =>
        (await ines.call('agreementAftermath', { params: { id } })).filter(({ state }) => state === 'waiting')
          .length === 1,
      'all that is due',
    )
    const now = await ines.call('agreementAftermath', { params: { id } })
    expect(now.map(({ state }) => state).sort()).to.deep.equal([
      'done',
      'done',
      'done',
      'done',
      'done',
      'skipped',
      'waiting',
    ])
    const record = await ines.call('record', { params: { kind: 'customer', id: buyer } })
    expect(record.data['legal_form']).to.equal('a in advance buyer')
    expect(record.files).to.have.length(1)
    const file = await ines.call('recordFile', {
      params: { kind: 'customer', id: buyer, sha256: record.files[0]!.sha256 },
    })
    expect((await file.text()).startsWith('%PDF')).to.equal(true)
    expect(await mailTo(ines, 'ledger@larkmere.example', /^Sold: LP-/)).to.contain('To Fennel Bottom Farm.')
    expect((await ines.call('followUps')).map(({ text }) => text)).to.include('Call Ottilie Crane')
    const bill = now.find(({ made }) => made !== null)!.made!
    const invoiced = await eventually(async () => {
      const found = await ines.call('agreement', { params: { id: bill } })
      return found.state === 'delivered' && found
    }, 'the invoice to go')
    expect(invoiced.number).to.equal('INV-0001')
    expect(invoiced.extra).to.deep.equal(['INV-0001.xml'])
    const trail = await ines.call('trail', { params: { id } })
    expect(trail.verified).to.equal(true)
    expect(trail.entries.filter(({ act }) => act === 'followed')).to.have.length(5)
    // The same moment told again, and workers side by side: nothing happens twice.
    await planAftermath(running.app, id, 'executed', new Date())
    await Promise.all([doAftermath(running.app), doAftermath(running.app)])
    expect((await ines.call('record', { params: { kind: 'customer', id: buyer } })).files).to.have.length(1)
  })

  it('goes to a folder here and one over HTTP (WebDAV), and nowhere else', async () => {
    const server = new webdav.WebDAVServer({ requireAuthentification: false })
    await new Promise<void>((resolve) => server.start(0, () => resolve()))
    const { port } = (server as unknown as { server: { address(): AddressInfo } }).server.address()
    const add = (body: object) => ines.call('makeFolder', { body })
    const { id: local } = await add({ name: 'Archive', kind: 'local', address: 'sales' })
    const { id: away } = await add({ name: 'Cabinet', kind: 'webdav', address: `http://127.0.0.1:${port}/` })
    expect(
      (await ines.refused('makeFolder', { body: { name: 'Out', kind: 'local', address: '../..' } })).status,
    ).to.equal(422)
    const dead = { name: 'Dead', kind: 'webdav', address: 'http://127.0.0.1:9/' }
    expect((await ines.refused('makeFolder', { body: dead })).message).to.contain('Nothing listens')
    const name = '{{payment}}/../{{buyer.name}}/{{number}}'
    await follow(
      { ...common(), kind: 'file to a folder', folder: local, name },
      { ...common(), kind: 'file to a folder', folder: away, name },
    )
    const id = await execute()
    const steps = await settled(id)
    expect(steps.map(({ state, said }) => `${state}: ${said.split(' as ')[0]}`)).to.deep.equal([
      'done: filed to Archive',
      'done: filed to Cabinet',
    ])
    const { number } = await ines.call('agreement', { params: { id } })
    const root = join(running.app.settings.filedFolder, 'sales')
    const found = (await readdir(root, { recursive: true })).find((each) => each.endsWith(`${number}.pdf`))!
    expect(found.split('/')).to.have.length(4)
    const bytes = await readFile(join(root, found))
    const there = await fetch(
      `http://127.0.0.1:${port}/${found.split('/').map(encodeURIComponent).join('/')}`,
    )
    expect(Buffer.from(await there.arrayBuffer()).equals(bytes)).to.equal(true)
    await new Promise<void>((resolve) => server.stop(() => resolve()))
  })

  it('fails to somebody’s knowledge, and can be tried again', async () => {
    let up = false
    const heard: string[] = []
    const receiver = createServer((request, response) => {
      let body = ''
      request.on('data', (part: Buffer) => (body += part.toString()))
      request.on('end', () => {
        if (up) heard.push(body)
        response.writeHead(up ? 204 : 500).end()
      })
    })
    await new Promise<void>((resolve) => receiver.listen(0, '127.0.0.1', resolve))
    const { port } = receiver.address() as AddressInfo
    const { id: hook } = await ines.call('makeWebhook', {
      body: { name: 'Ledger', url: `http://127.0.0.1:${port}/`, acts: ['lapsed'] },
    })
    await follow({ ...common(), on: 'out', kind: 'tell a program', program: hook })
    const id = await send()
    const state = async () => (await ines.call('agreementAftermath', { params: { id } }))[0]
    await eventually(async () => ((await state())?.tries ?? 0) > 0, 'a first try')
    expect(await state()).to.include({ state: 'waiting', said: 'It answered 500.' })
    // The worker of the app may be at it: what it has in hand is its own until it lets go.
    await eventually(async () => {
      const { rowCount } = await running.app.pool.query(
        `update aftermath_step set tries = 11, due_at = now() where agreement_id = $1 and held_until is null`,
        [id],
      )
      return rowCount === 1
    }, 'the step to be let go')
    await eventually(async () => {
      await doAftermath(running.app)
      return (await state())?.state !== 'waiting'
    }, 'the last try')
    expect(await state()).to.include({ state: 'failed' })
    expect(await mailTo(ines, 'ines.hallow@larkmere.example', /^Not done: what follows/)).to.contain(
      'It answered 500.',
    )
    const [waits] = (await ines.call('failedSteps')).filter((each) => each.agreement.id === id)
    const maren = await Client.signedIn(running.url, 'maren.oakes')
    expect((await maren.call('failedSteps')).filter((each) => each.agreement.id === id)).to.deep.equal([])
    up = true
    await ines.call('settleStep', { params: { id: waits!.id }, body: { what: 'again' } })
    await eventually(async () => (await state())?.state === 'done', 'the program to be told')
    expect(JSON.parse(heard[0]!)).to.deep.include({ specversion: '1.0', type: 'brevan.aftermath.out' })
    expect(
      (await ines.refused('settleStep', { params: { id: waits!.id }, body: { what: 'again' } })).status,
    ).to.equal(409)
    receiver.close()
  })
})
