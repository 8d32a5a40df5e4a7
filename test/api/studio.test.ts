import { expect } from 'chai'
import type { TemplateContent } from '#core/document/template.ts'
import { finishedLooks } from '#core/document/look.ts'
import { Client, eventually } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'
import { textBlocks } from '#core/document/walk.ts'
import { pixel } from '#test/support/picture.ts'

const bytes = (text: string) => new TextEncoder().encode(text)
describe('the studio’s services', () => {
  let running: Running
  let ines: Client
  let petra: Client
  let saleId = ''
  let sheetId = ''
  let draft: TemplateContent

  before(async () => {
    running = await startApp('studio_api')
    ines = await Client.signedIn(running.url, 'ines.hallow')
    petra = await Client.signedIn(running.url, 'petra.vance')
    saleId = (await ines.call('templates')).find(({ name }) => name === 'Colony sale')!.id
    sheetId = (await ines.call('sheets')).find(({ name }) => name.startsWith('colony'))!.id
    draft = (await ines.call('template', { params: { id: saleId } })).draft
  })
  after(() => running?.stop())

  const proof = (content: TemplateContent, row: number | null = null) =>
    ines.call('proof', { body: { templateId: saleId, content, sheetId, row } })
  const change = (from: string, to: string): TemplateContent =>
    JSON.parse(JSON.stringify(draft).replaceAll(from, to)) as TemplateContent

  describe('proofs', () => {
    it('trace a computed value with its values, an item’s cell, and why a clause stands', async () => {
      const found = await proof(draft, 2)
      const origin = (field: string) => found.origins.find((each) => each.field === field)
      expect(origin('inspection')).to.include({
        formula: 'add business days(handover, 5)',
        worked: 'add business days(Monday, May 3, 2027, 5)',
      })
      expect(origin('lots.price')).to.include({ item: 1, cell: '245.00' })
      expect(origin('lots.price')!.column).to.match(/^Lot 1 price \([A-Z]+2\)$/)
      expect(found.values['lots_totals.gross']).to.equal('$1,781.54')
      expect(found.kept.length).to.be.greaterThan(0)
    })

    it('say which value is too wide for its space', async () => {
      const long = 'Pneumonoultramicroscopicsilicovolcanoconiosisresistant'
      const found = await proof(change('{{lots.kind}}', '{{lots.kind}}'), 2)
      expect(found.overflow).to.deep.equal([])
      const wide = structuredClone(draft) as {
        outline: { name: string; items?: { name: string }[] }[]
      } & TemplateContent
      const lots = wide.outline.find(({ name }) => name === 'lots')!
      ;(lots.items as unknown as Record<string, unknown>[])[0]!['computed'] = JSON.stringify(long)
      const told = await proof(wide, 2)
      expect(told.overflow.map(({ text, where }) => [text, where])).to.deep.equal([[long, 'Item']])
    })

    it('are made to a standard on request, as qpdf and pdfinfo would have them', async () => {
      for (const standard of ['ua-1', 'a-2b'] as const) {
        const file = await ines.call('printProof', {
          body: { templateId: saleId, content: draft, sheetId, row: 2, standard },
        })
        const text = Buffer.from(await file.arrayBuffer()).toString('latin1')
        expect(text).to.contain(standard === 'ua-1' ? 'pdfuaid:part' : 'pdfaid:part')
        expect(text).to.contain('/MarkInfo').and.to.contain('/Lang')
      }
    })

    it('that a standard forbids say why', async () => {
      const skipping = change('"level":2', '"level":3')
      const refused = await ines.refused('printProof', {
        body: { templateId: saleId, content: skipping, sheetId, row: 2, standard: 'ua-1' },
      })
      expect([refused.status, refused.message]).to.satisfy(
        ([status, message]: [number, string]) =>
          status === 422 && message.startsWith('These pages cannot be made as PDF/UA-1'),
      )
    })
  })

  describe('surveys', () => {
    it('count for how many rows conditions hold, and find the longest value', async () => {
      const found = await ines.call('survey', {
        body: {
          templateId: saleId,
          sheetId,
          content: draft,
          conditions: ['payment = "in advance"', 'buyer.phone = null', 'instalments > 3', 'nonsense ='],
          longest: 'buyer.name',
        },
      })
      expect(found.rows).to.equal(18)
      expect(found.conditions.slice(0, 2).map(({ holds }) => holds)).to.deep.equal([6, 4])
      expect(found.conditions[3]).to.deep.equal({ holds: 0, undecided: 18 })
      expect(found.longest).to.include({ row: 6 })
    })
  })

  describe('faults', () => {
    it('of every kind are told where they are, and keep the draft from being published', async () => {
      const circular: TemplateContent = {
        ...draft,
        outline: [
          ...draft.outline,
          { name: 'a', label: 'A', type: 'number', required: false, computed: 'b + 1' },
          { name: 'b', label: 'B', type: 'number', required: false, computed: 'a + 1' },
          { name: 'if', label: 'Reserved', type: 'text', required: false },
          { name: 'größe', label: 'Another alphabet', type: 'text', required: false },
          {
            name: 'deep',
            label: 'Deep',
            type: 'number',
            required: false,
            computed: `${'('.repeat(300)}1${')'.repeat(300)}`,
          },
        ],
      }
      const { faults, pdf } = await proof(circular, 2)
      expect(pdf).to.equal(null)
      const told = faults.map(({ id, message }) => `${id}: ${message}`)
      expect(told.some((each) => each.includes('goes round in a circle'))).to.equal(true)
      expect(told.some((each) => each.startsWith('if:'))).to.equal(true)
      expect(told.some((each) => each.startsWith('deep:') && each.includes('200 levels'))).to.equal(true)
      expect(told.some((each) => each.startsWith('größe'))).to.equal(false)
    })
  })

  describe('looks', () => {
    it('of one’s own are made from a finished one, changed over their version, and drawn', async () => {
      const own = await ines.call('makeLook', {
        body: { name: 'Larkmere letter', version: 1, look: { ...finishedLooks[0]!.look, size: 9 } },
      })
      const picture = await ines.call('uploadPicture', { body: new Uint8Array(pixel) })
      const letterhead = {
        logo: picture.file,
        logoWidth: 60,
        lines: ['2 Apiary Lane'],
        align: 'left' as const,
      }
      const saved = await ines.call('saveLook', {
        params: { id: own.id },
        body: { name: own.name, version: own.version, look: { ...own.look, letterhead } },
      })
      expect(saved.version).to.equal(2)
      expect(
        (
          await ines.refused('saveLook', {
            params: { id: own.id },
            body: { name: own.name, version: 1, look: own.look },
          })
        ).status,
      ).to.equal(409)
      expect(
        (await ines.refused('makeLook', { body: { name: 'Office', version: 1, look: own.look } })).status,
      ).to.equal(409)
      expect((await proof({ ...draft, look: own.id }, 2)).pages).to.be.greaterThan(0)
    })

    it('take pictures that only draw', async () => {
      const refuse = async (svg: string) =>
        (await ines.refused('uploadPicture', { body: bytes(svg) })).message
      const svg = (inner: string) =>
        `<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10">${inner}</svg>`
      expect(await refuse(svg('<script>alert(1)</script>'))).to.contain('<script>')
      expect(await refuse(svg('<rect onload="x()"/>'))).to.contain('script in “onload”')
      expect(await refuse(svg('<image href="http://elsewhere.example/a.png"/>'))).to.contain('outside')
      expect(await refuse(`<!DOCTYPE svg [<!ENTITY a "b">]>${svg('')}`)).to.contain('document type')
      expect(await refuse(svg('<g>'))).to.contain('well-formed')
      expect(await refuse('plain words')).to.contain('no PNG, JPEG or SVG')
      const fine = await ines.call('uploadPicture', { body: bytes(svg('<rect width="5" height="5"/>')) })
      expect([fine.width, fine.height]).to.deep.equal([10, 10])
    })
  })

  describe('shelves', () => {
    it('narrow what people may do to what their teams may', async () => {
      const seen = (await petra.call('templates')).find(({ id }) => id === saleId)!
      expect(seen.may).to.deep.equal({ use: true, edit: false, publish: false })
      const gideon = await Client.signedIn(running.url, 'gideon.farrow')
      expect((await gideon.call('templates')).map(({ name }) => name)).not.to.include('Colony sale')
      expect((await gideon.refused('template', { params: { id: saleId } })).status).to.equal(404)
    })

    it('are changed only by who may publish there, and nobody locks themselves out', async () => {
      const shelf = (await ines.call('shelves')).find(({ name }) => name === 'Sales')!
      const refused = await ines.refused('saveShelf', {
        params: { id: shelf.id },
        body: { name: 'Sales', rights: shelf.rights.map((right) => ({ ...right, publish: false })) },
      })
      expect(refused.status).to.equal(409)
      expect((await ines.refused('makeShelf', { body: { name: 'Sales', rights: [] } })).status).to.equal(409)
    })
  })

  describe('the clause library', () => {
    it('keeps editions, tells where a clause is used, and refuses a change over a later one', async () => {
      const law = (await ines.call('library')).find(({ title }) => title === 'Law')!
      const linked: TemplateContent = {
        ...draft,
        document: {
          type: 'doc',
          content: [
            ...textBlocks(draft.document),
            {
              ...law.content,
              attrs: {
                ...law.content.attrs,
                id: 'law',
                source: { clause: law.id, edition: 1, linked: true },
              },
            },
          ],
        },
      }
      const { draftVersion } = await ines.call('template', { params: { id: saleId } })
      await ines.call('saveDraft', {
        params: { id: saleId },
        body: { version: draftVersion, content: linked },
      })
      const content = JSON.parse(
        JSON.stringify(law.content).replace('thirty days', 'sixty days'),
      ) as typeof law.content
      const body = { title: law.title, tags: law.tags, content, edition: 1 }
      const changed = await ines.call('changeClause', { params: { id: law.id }, body })
      expect(changed.edition).to.equal(2)
      expect(changed.usedIn.map(({ name, edition }) => [name, edition])).to.deep.equal([['Colony sale', 1]])
      expect((await ines.refused('changeClause', { params: { id: law.id }, body })).status).to.equal(409)
      expect(await ines.call('clauseEditions', { params: { id: law.id } })).to.have.length(2)
      await ines.call('saveDraft', {
        params: { id: saleId },
        body: { version: draftVersion + 1, content: draft },
      })
    })
  })

  describe('saved cases', () => {
    it('are run at publishing, and the edition remembers which failed', async () => {
      const { draftVersion } = await ines.call('template', { params: { id: saleId } })
      const other = change('in the morning before they fly', 'in the evening')
      await ines.call('saveDraft', {
        params: { id: saleId },
        body: { version: draftVersion, content: other },
      })
      const published = await ines.call('publish', {
        params: { id: saleId },
        body: { version: draftVersion + 1, note: 'Handover in the evening' },
      })
      expect(published.cases.passed).to.equal(0)
      expect(published.cases.failed).to.have.members(['Paid at handover', 'Paid in instalments'])
      const { editions } = await ines.call('template', { params: { id: saleId } })
      expect(editions[0]!.note).to.equal('Handover in the evening')
      const before = await ines.call('edition', { params: { id: saleId, number: 1 } })
      expect(before).to.deep.equal(draft)
    })

    it('are kept under one name each, by those who may edit', async () => {
      const body = { name: 'Paid at handover', data: {}, expected: [] }
      expect((await ines.refused('keepCase', { params: { id: saleId }, body })).status).to.equal(409)
      expect((await petra.refused('keepCase', { params: { id: saleId }, body })).status).to.equal(403)
    })
  })

  describe('an agreement with line items and blanks of every kind', () => {
    let link = ''
    let agreementId = ''

    it('is made by someone who may use the shelf, with lists from numbered columns and the sender as a signer', async () => {
      // Buyers buy more than once here.
      const { id } = await petra.call('startRun', {
        body: { name: 'Sales', templateId: saleId, sheetId, setup: { duplicates: 'allow' } },
      })
      await eventually(
        async () => (await petra.call('run', { params: { id } })).state === 'checked',
        'the check',
      )
      await petra.call('generate', { params: { id } })
      await eventually(
        async () => (await petra.call('run', { params: { id } })).state === 'generated',
        'the run',
        60,
      )
      const { agreements } = await ines.call('agreements', { query: { run: id } })
      expect(agreements).to.have.length(18)
      agreementId = agreements[0]!.id
      const { parties } = await ines.call('agreement', { params: { id: agreementId } })
      expect(parties.map(({ name }) => name)).to.include('Petra Vance')
      const docx = await ines.call('agreementDocx', { params: { id: agreementId } })
      expect(
        Buffer.from(await docx.arrayBuffer())
          .subarray(0, 2)
          .toString(),
      ).to.equal('PK')
      await ines.call('sendAgreements', { body: { agreements: [agreementId], unread: true } })
      const mail = await eventually(
        async () => (await ines.call('receivedMails')).find(({ subject }) => subject.startsWith('Sale of')),
        'the mail',
      )
      const { text } = await ines.call('receivedMail', { params: { id: mail.id } })
      link = /\/sign\/([\w-]{43})/.exec(text)![1]!
    })

    it('checks what is filled in as it is filled in, and what is missing at signing', async () => {
      const anyone = new Client(running.url)
      const params = { token: link }
      await anyone.call('consent', { params })
      const { blanks } = await anyone.call('signing', { params })
      const blank = (label: string) => blanks.find((each) => each.label === label)!
      const fill = (label: string, value: unknown) =>
        anyone.call('fillBlanks', { params, body: { values: { [blank(label).id]: value } } })
      const refuse = async (label: string, value: unknown) =>
        (await anyone.refused('fillBlanks', { params, body: { values: { [blank(label).id]: value } } }))
          .message
      expect(await refuse('Colonies counted', { kind: 'text', text: 'many' })).to.equal(
        'A number of colonies from 0 to 1000.',
      )
      expect(await refuse('Colonies counted', { kind: 'text', text: '5000' })).to.equal(
        'A number of colonies from 0 to 1000.',
      )
      expect(await refuse('Colonies counted', { kind: 'tick' })).to.contain('takes something else')
      expect(await refuse('Carried in', { kind: 'choice', chosen: [0, 1] })).to.contain('at most 1 option')
      expect(await refuse('Carried in', { kind: 'choice', chosen: [7] })).to.contain('no such option')
      expect(blank('Telephone').rules.preset).to.be.a('string')
      expect(blank('Carried in').options).to.have.length(3)
      await fill('Colonies counted', { kind: 'text', text: '7' })
      await fill('Carried in', { kind: 'choice', chosen: [1] })
      await fill('Signature', { kind: 'typed', text: 'Ottilie Crane' })
      const few = await anyone.refused('finishSigning', { params })
      expect(few.message).to.equal('What was seen: tick at least 1.')
      await fill('Queens', { kind: 'tick' })
      const nowhere = { kind: 'file', name: 'other.txt', sha256: '0'.repeat(64), size: 1 }
      expect(await refuse('Registration', nowhere)).to.contain('has not been handed in')
      // What is in the store is not theirs for knowing its hash.
      const { rows: stored } = await running.app.pool.query<{ sha256: string; size: number }>(
        'select sha256, size from file limit 1',
      )
      expect(await refuse('Registration', { kind: 'file', name: 'mine.txt', ...stored[0]! })).to.contain(
        'has not been handed in',
      )
      for (let i = 0; i < 11; i++)
        await anyone.call('signingFile', {
          params,
          query: { name: `page ${i}.txt` },
          body: bytes(`page ${i}`),
        })
      // A signature that nobody can see, and one that is a flood.
      expect(await refuse('Signature', { kind: 'typed', text: '\u200b\u200b' })).to.contain('can be seen')
      expect(await refuse('Signature', { kind: 'drawn', strokes: [[[0.5, 1.05]]], height: 0.3 })).to.contain(
        'can be seen',
      )
      const flood = Array.from({ length: 60 }, (_, i) =>
        Array.from({ length: 2000 }, (__, j) => [(j % 100) / 100, i / 200]),
      )
      expect(await refuse('Signature', { kind: 'drawn', strokes: flood, height: 0.3 })).to.contain(
        'more lines',
      )
      const registration = await anyone.call('signingFile', {
        params,
        query: { name: 'yard registration.txt' },
        body: bytes('yard 41'),
      })
      await fill('Registration', { kind: 'file', ...registration })
      const more = { params, query: { name: 'one more.txt' }, body: bytes('one more') }
      expect((await anyone.refused('signingFile', more)).message).to.contain('12 files')
      const buyer = async () =>
        (await ines.call('agreement', { params: { id: agreementId } })).parties.find(
          ({ label }) => label === 'Buyer',
        )!
      expect((await buyer()).filled, 'before signing').to.deep.equal([])
      expect((await anyone.call('finishSigning', { params })).executed).to.equal(false)
      const { id: party, filled } = await buyer()
      expect(filled.map(({ label, said }) => [label, said])).to.deep.equal([
        ['Colonies counted', '7'],
        ['Queens', 'ticked'],
        ['Carried in', 'hired truck'],
        ['Telephone', blank('Telephone').rules.preset],
        ['Registration', 'yard registration.txt'],
      ])
      const file = { id: agreementId, party, blank: blank('Registration').id }
      expect(await (await ines.call('handedIn', { params: file })).text()).to.equal('yard 41')
      expect((await anyone.refused('handedIn', { params: file })).status).to.equal(401)
      expect(
        (await anyone.refused('signingFile', { params, query: { name: 'a.txt' }, body: bytes('x') })).status,
      ).to.equal(409)
    })
  })
})
