import { execFile } from 'node:child_process'
import { mkdtemp, readFile, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { expect } from 'chai'
import { Client, eventually } from '#test/support/client.ts'
import { linkFor, signAs } from '#test/support/story.ts'
import { type Running, startApp } from '#test/support/running.ts'

const run = promisify(execFile)

describe('the thin line: from a sheet to sealed agreements', () => {
  let running: Running
  let ines: Client
  let silas: Client
  let runId = ''

  before(async () => {
    running = await startApp('thin_line', { sheet: false })
    ines = await Client.signedIn(running.url, 'ines.hallow')
    silas = await Client.signedIn(running.url, 'silas.brandt')
  })
  after(() => running?.stop())

  it('suggests the mapping of an uploaded sheet and finds the rows that need a hand once it is corrected', async () => {
    const bytes = new Uint8Array(await readFile('demo/sheets/bookings-2027.xlsx'))
    const sheet = await ines.call('uploadSheet', { query: { name: 'bookings.xlsx' }, body: bytes })
    expect(sheet.rowCount).to.equal(240)
    const template = (await ines.call('templates')).find(({ name }) => name.startsWith('Season'))
    const params = { id: sheet.id, template: template!.id }
    const suggested = await ines.call('mapping', { params })
    expect(suggested.columns).to.include({ 'grower.email': 'E-mail', 'bloom.start': 'Bloom from' })
    expect(suggested.rowsWithProblems).to.have.length(240)
    const corrected = await ines.call('saveMapping', {
      params,
      body: { columns: { ...suggested.columns, first_season: 'New grower' } },
    })
    expect(corrected.rowsWithProblems).to.have.length(21)
    const started = await ines.call('startRun', {
      body: { name: 'Season 2027', templateId: template!.id, sheetId: sheet.id },
    })
    runId = started.id
  })

  it('groups the rows by wording and makes one document for each row that is ready', async () => {
    await eventually(
      async () => (await ines.call('run', { params: { id: runId } })).state === 'checked',
      'the check',
    )
    const wordings = await ines.call('wordings', { params: { id: runId } })
    expect(wordings).to.have.length(9)
    expect(wordings.reduce((sum, { rows }) => sum + rows.length, 0)).to.equal(219)
    await ines.call('generate', { params: { id: runId } })
    const made = await eventually(
      async () => {
        const found = await ines.call('run', { params: { id: runId } })
        return found.state === 'generated' && found
      },
      'the run',
      90,
    )
    expect(made.rows).to.include({ ready: 0, hand: 21, made: 219, failed: 0 })
    const { total, agreements } = await ines.call('agreements', { query: { run: runId } })
    expect(total).to.equal(219)
    const numbers = agreements.map(({ number }) => number).sort()
    expect(numbers).to.deep.equal(
      Array.from({ length: 219 }, (_, i) => `LP-2027-${String(i + 1).padStart(4, '0')}`),
    )
  })

  it('asks the operations director where the total is over 80,000 and nobody else', async () => {
    const rows = await ines.call('runRows', { params: { id: runId } })
    const asked = rows.filter(({ approvals, state }) => approvals.length > 0 && state === 'made')
    expect(asked.length).to.be.greaterThan(3)
    const desk = await silas.call('desk')
    expect(desk.approvals).to.have.length(asked.length)
    expect(desk.approvals[0]!.reason).to.match(/^Total \$[\d,.]+ is over \$80,000\.00$/)
    const [first, second] = desk.approvals
    expect(
      (
        await ines.refused('decide', {
          params: { id: first!.agreement.id, step: first!.stepId },
          body: { decision: 'approve' },
        })
      ).status,
    ).to.equal(403)
    await silas.call('decide', {
      params: { id: first!.agreement.id, step: first!.stepId },
      body: { decision: 'approve' },
    })
    await silas.call('decide', {
      params: { id: second!.agreement.id, step: second!.stepId },
      body: { decision: 'return', note: 'Check the discount.' },
    })
    expect((await ines.call('agreement', { params: { id: first!.agreement.id } })).state).to.equal('cleared')
    expect((await ines.call('desk')).returned[0]).to.deep.include({ note: 'Check the discount.' })
  })

  it('is signed by each in order, sealed, mailed to everyone, and verifiable', async () => {
    const { agreements } = await ines.call('agreements', { query: { run: runId, state: 'cleared' } })
    // One that two sign: on leased land the landowner would sign too.
    const details = await Promise.all(
      agreements.slice(0, 30).map((each) => ines.call('agreement', { params: { id: each.id } })),
    )
    const { id } = details.find(({ parties: those }) => those.length === 2)!
    const unread = await ines.call('sendAgreements', { body: { agreements: [id] } })
    expect(unread).to.deep.include({ sent: 0, unread: 1 })
    expect(unread.refused[0]!.problem).to.contain('Nobody has read the wording')
    const { wording } = await ines.call('agreement', { params: { id } })
    await ines.call('tickWording', { params: { id: runId }, body: { key: wording, read: true } })
    const sent = await ines.call('sendAgreements', { body: { agreements: [id] } })
    expect(sent).to.deep.equal({ sent: 1, refused: [], unread: 0 })
    const { parties } = await ines.call('agreement', { params: { id } })
    const [grower, keeper] = parties
    expect(await ines.call('receivedMails', { query: { search: keeper!.email } })).to.have.length(0)
    expect(await signAs(new Client(running.url), await linkFor(ines, grower!.email))).to.equal(false)
    expect(await signAs(new Client(running.url), await linkFor(ines, keeper!.email))).to.equal(true)
    await eventually(
      async () => (await ines.call('agreement', { params: { id } })).state === 'executed',
      'the executed agreement',
    )
    const trail = await ines.call('trail', { params: { id } })
    expect(trail.verified).to.equal(true)
    expect(trail.entries.map(({ act }) => act)).to.deep.equal([
      'made',
      'cleared',
      'sent',
      'invited',
      'opened',
      'agreed to sign electronically',
      'signed',
      'invited',
      'opened',
      'agreed to sign electronically',
      'signed',
      'executed',
    ])
    const file = new Uint8Array(
      await (await ines.call('agreementDocument', { params: { id } })).arrayBuffer(),
    )
    const folder = await mkdtemp(join(tmpdir(), 'brevan-seal-'))
    await writeFile(join(folder, 'a.pdf'), file)
    expect((await run('pdfsig', [join(folder, 'a.pdf')])).stdout).to.contain('Signature is Valid')
    await run('qpdf', ['--check', join(folder, 'a.pdf')])
    const changed = file.slice()
    const at = Buffer.from(file).indexOf('/MediaBox') + 1
    changed[at] = 0x4e
    await writeFile(join(folder, 'b.pdf'), changed)
    const verdict = await run('pdfsig', [join(folder, 'b.pdf')]).then(
      ({ stdout }) => stdout,
      (error: { stdout: string }) => error.stdout,
    )
    expect(verdict).not.to.contain('Signature is Valid')
    for (const reader of [grower!.email, keeper!.email, 'ines.hallow@larkmere.example'])
      await eventually(async () => {
        const mails = await ines.call('receivedMails', { query: { search: reader } })
        return mails.some(({ subject }) => subject.startsWith('Signed by everyone'))
      }, `the executed copy for ${reader}`)
  })
})
