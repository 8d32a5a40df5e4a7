import { expect } from 'chai'
import { PDFDocument, StandardFonts, degrees } from 'pdf-lib'
import { siteAccessPdf } from '#demo/forms/site-access.ts'
import { named, roleOf } from '#demo/season-packet.ts'
import type { Placement } from '#core/document/tree.ts'
import { cueTo } from '#core/form/cues.ts'
import { placedBlank, placedField } from '#core/form/new-form.ts'
import { Client, eventually } from '#test/support/client.ts'
import { bringIn, checkedByQpdf, formOf, pagesIn, wordsByPoppler } from '#test/support/forms.ts'
import { type Running, startApp } from '#test/support/running.ts'
import { linkIn } from '#test/support/signing.ts'
import { seasonSheet, signAs } from '#test/support/story.ts'

const bytesOf = async (blob: Blob): Promise<Uint8Array> => new Uint8Array(await blob.arrayBuffer())

/** The season's fields and its grower, with what stands on the first page. */
const placed =
  (...content: readonly Placement[]) =>
  (draft: Parameters<Parameters<typeof formOf>[3]>[0]): typeof draft => {
    const document = pagesIn(draft)
    return {
      ...draft,
      outline: named(['grower.name', 'grower.contact', 'grower.email', 'colonies']),
      roles: roleOf('grower'),
      sending: { ...draft.sending, agreementName: '{{grower.name}}' },
      document: {
        ...document,
        content: document.content.map((page, i) => (i === 0 ? { ...page, content } : page)),
      },
    }
  }

const at = (x: number, y: number, width = 200, height = 15) => ({ x, y, width, height })
const signature = (id: string, box = at(72, 460, 200, 28)) =>
  placedBlank(id, box, { kind: 'signature', role: 'grower', label: 'Signature', required: true })

describe('forms', () => {
  let running: Running
  let ines: Client

  before(async () => {
    running = await startApp('forms', { sheet: false })
    ines = await Client.signedIn(running.url, 'ines.hallow')
  })
  after(() => running?.stop())

  const draftOf = async (id: string) => ines.call('template', { params: { id } })
  const publish = async (id: string) =>
    ines.call('publish', { params: { id }, body: { version: (await draftOf(id)).draftVersion } })
  const proofOf = async (id: string) =>
    ines.call('proof', {
      body: { templateId: id, content: (await draftOf(id)).draft, sheetId: null, row: null },
    })

  describe('pages that are brought in', () => {
    it('are kept as what is seen of them; a file brought in twice is one', async () => {
      const one = await bringIn(ines, 'access.pdf', await siteAccessPdf())
      const two = await bringIn(ines, 'again.pdf', await siteAccessPdf())
      expect(two.file).to.equal(one.file)
      expect(one.pages).to.deep.equal([{ width: 612, height: 792 }])
      const pdf = await bytesOf(await ines.call('pagesPdf', { params: { file: one.file } }))
      checkedByQpdf(pdf)
      const read = await ines.call('pageReads', { params: { file: one.file, page: '1' } })
      expect(read.words.map(({ text }) => text).slice(0, 3)).to.deep.equal(['Site', 'access', 'permission'])
    })

    it('are those of people who have to do with pages, and files of another kind are not found there', async () => {
      const approver = await Client.signedIn(running.url, 'gideon.farrow')
      const refused = await approver.refused('bringIn', {
        query: { name: 'a.pdf' },
        body: await siteAccessPdf(),
      })
      expect(refused.status).to.equal(403)
      const stranger = new Client(running.url)
      const { file } = await bringIn(ines, 'access.pdf', await siteAccessPdf())
      for (const name of ['pageFile', 'pagesPdf', 'likelyBlanks'] as const)
        expect((await stranger.refused(name, { params: { file } })).status).to.equal(401)
      expect((await ines.refused('pagesPdf', { params: { file: 'a'.repeat(64) } })).status).to.equal(404)
    })

    it('that are turned, cropped or in other units are as they are shown, to half a point', async () => {
      const source = await PDFDocument.create()
      const font = await source.embedFont(StandardFonts.Helvetica)
      const page = source.addPage([700, 500])
      page.setCropBox(50, 40, 600, 400)
      page.setRotation(degrees(90))
      page.drawText('Corner', { x: 60, y: 60, size: 12, font, rotate: degrees(90) })
      const { file, pages } = await bringIn(ines, 'turned.pdf', await source.save())
      expect(pages).to.deep.equal([{ width: 400, height: 600 }])
      const [word] = wordsByPoppler(await bytesOf(await ines.call('pagesPdf', { params: { file } })))
      const read = await ines.call('pageReads', { params: { file, page: '1' } })
      expect(read.words[0]!.text).to.equal('Corner')
      expect(read.words[0]!.x).to.be.closeTo(word!.x, 0.5)
      // The two readers take the letters of a font that is not in the file for a little higher or lower.
      expect(read.words[0]!.y).to.be.closeTo(word!.y, 3)
    })
  })

  describe('what stands on pages', () => {
    it('stands on the finished page where it was placed, to half a point', async () => {
      const id = await formOf(
        ines,
        'Placed',
        await siteAccessPdf(),
        placed(placedField('one', at(300.25, 401.5), 'grower.name'), signature('two')),
      )
      const { pdf, faults, problems, overflow } = await proofOf(id)
      expect({ faults, problems, overflow }).to.deep.equal({ faults: [], problems: [], overflow: [] })
      const found = wordsByPoppler(Buffer.from(pdf!, 'base64')).find(({ text }) => text === 'Brightwater')
      expect(found!.x).to.be.closeTo(300.25, 0.5)
      expect(found!.bottom).to.be.closeTo(401.5 + 15, 3)
      checkedByQpdf(Buffer.from(pdf!, 'base64'))
    })

    it('that has no room is told, with what it is', async () => {
      const id = await formOf(
        ines,
        'Narrow',
        await siteAccessPdf(),
        placed(placedField('one', at(300, 401, 30), 'grower.name'), signature('two')),
      )
      const { overflow } = await proofOf(id)
      expect(overflow.map(({ where, text }) => [where, text])).to.deep.equal([
        ['Orchard', 'Brightwater Orchard'],
      ])
    })

    it('keeps its distance to its words in another version, two pages longer; what is lost is told', async () => {
      const first = await siteAccessPdf(1)
      const { file: old } = await bringIn(ines, 'one.pdf', first)
      const { words } = await ines.call('pageReads', { params: { file: old, page: '1' } })
      const label = words.findLast(({ text }) => text === 'Signature')!
      const beside = signature('sig', at(72, label.base - 60, 200, 28))
      const cued = {
        ...beside,
        attrs: {
          ...beside.attrs,
          cue: cueTo(beside, 'Signature for the KEEPER', 1, { page: 0, right: 0, ...label }),
        },
      }
      const lost = {
        ...signature('lost', at(72, 100)),
        attrs: {
          ...signature('lost', at(72, 100)).attrs,
          cue: { ...cued.attrs.cue, phrase: 'No such words' },
        },
      }
      const id = await formOf(
        ines,
        'Versions',
        first,
        placed(cued, lost, placedField('name', at(112, 112), 'grower.name')),
      )
      const { draft } = await draftOf(id)
      const { file } = await bringIn(ines, 'two.pdf', await siteAccessPdf(2))
      const { content, carried } = await ines.call('replacePages', { body: { content: draft, old, file } })
      expect(pagesIn(content).content).to.have.length(3)
      expect(carried.map(({ id: each, how }) => [each, how])).to.deep.equal([
        ['lost', 'not found again'],
        ['sig', 'by cue'],
        ['name', 'kept its place'],
      ])
      const sig = carried.find((each) => each.id === 'sig')!
      expect(sig.to.page).to.equal(3)
      const again = (await ines.call('pageReads', { params: { file, page: '3' } })).words
      expect(sig.to.y).to.be.closeTo(again.findLast(({ text }) => text === 'Signature')!.base - 60, 0.5)
      // The cue that leads nowhere keeps it from being published.
      const now = await draftOf(id)
      await ines.call('saveDraft', {
        params: { id },
        body: { version: now.draftVersion, content },
      })
      const refused = await ines.refused('publish', {
        params: { id },
        body: { version: now.draftVersion + 1 },
      })
      expect(refused.message).to.contain('No such words')
    })

    it('is found again in an incoming file that is another version of it, and in no other', async () => {
      const id = await formOf(ines, 'Known', await siteAccessPdf(), placed(signature('one')))
      const { known } = await bringIn(ines, 'new.pdf', await siteAccessPdf(2))
      expect(known.map(({ template }) => template)).to.include(id)
      const other = await PDFDocument.create()
      other.addPage().drawText('Quite another matter altogether', { x: 50, y: 700 })
      expect((await bringIn(ines, 'other.pdf', await other.save())).known).to.deep.equal([])
    })
  })

  describe('a form in the work', () => {
    it('is run over twenty rows, its pages named by their rows, and signed', async () => {
      const id = await formOf(
        ines,
        'Access for many',
        await siteAccessPdf(),
        placed(
          placedField('name', at(114, 134, 226), 'grower.name'),
          placedBlank('gate', at(122, 244, 118), {
            kind: 'text',
            role: 'grower',
            label: 'Gate code',
            required: true,
          }),
          signature('sign'),
        ),
      )
      await publish(id)
      const sheet = await ines.call('uploadSheet', { query: { name: 'rows.csv' }, body: seasonSheet(20) })
      const { id: run } = await ines.call('startRun', {
        body: { name: 'Access', templateId: id, sheetId: sheet.id },
      })
      const inState = (state: string) =>
        eventually(async () => (await ines.call('run', { params: { id: run } })).state === state, state, 60)
      await inState('checked')
      await ines.call('generate', { params: { id: run } })
      await inState('generated')
      const { agreements } = await ines.call('agreements', { query: { run } })
      expect(agreements).to.have.length(20)
      const made = await ines.call('agreement', { params: { id: agreements[0]!.id } })
      const pdf = await bytesOf(await ines.call('agreementDocument', { params: { id: made.id } }))
      checkedByQpdf(pdf)
      expect(wordsByPoppler(pdf).map(({ text }) => text)).to.include.members(made.name.split(' ').slice(0, 1))
      await ines.call('sendAgreements', { body: { agreements: [made.id], unread: true, at: null } })
      const token = await linkIn(ines, made.parties[0]!.email)
      const visitor = new Client(running.url)
      const shown = await visitor.call('signing', { params: { token } })
      expect(shown.blanks.map(({ label }) => label)).to.deep.equal(['Gate code', 'Signature'])
      const { documents } = await visitor.call('signingReading', { params: { token } })
      expect(JSON.stringify(documents[0]!.blocks)).to.contain('permits the keeper to enter')
      expect(await signAs(visitor, token, { 'Gate code': '4711' })).to.equal(true)
      await eventually(
        async () => (await ines.call('agreement', { params: { id: made.id } })).state === 'executed',
        'executed',
      )
    })

    it('is one file for one customer too, without a template, and kept as one afterwards', async () => {
      const { records } = await ines.call('records', { params: { kind: 'customer' } })
      const { file } = await bringIn(ines, 'one.pdf', await siteAccessPdf())
      const before = (await ines.call('templates')).length
      const { id } = await ines.call('startOneOff', {
        body: { title: 'Access for a day', files: [file], record: records[0]!.id },
      })
      const draft = await ines.call('oneOff', { params: { id } })
      expect(draft.record?.name).to.equal(records[0]!.name)
      const nobody = await ines.refused('makeOneOff', { params: { id }, body: { version: 1 } })
      expect(nobody.message).to.contain('Nobody')
      const document = pagesIn(draft.draft)
      const signer = {
        key: 'signer',
        label: 'Owner',
        shape: 'circle' as const,
        order: 1,
        fill: {
          rule: 'standing person' as const,
          name: 'Odile Marsh',
          email: 'odile@marsh.example',
          title: '',
        },
      }
      const sign = placedBlank('sign', at(72, 460, 200, 28), {
        kind: 'signature',
        role: 'signer',
        label: 'Signature',
        required: true,
      })
      await ines.call('saveOneOff', {
        params: { id },
        body: {
          version: 1,
          content: {
            ...draft.draft,
            roles: [signer],
            document: {
              ...document,
              content: document.content.map((page) => ({ ...page, content: [sign] })),
            },
          },
        },
      })
      const made = await Promise.all(
        [1, 2, 3].map(() => ines.call('makeOneOff', { params: { id }, body: { version: 2 } })),
      )
      expect(new Set(made.map((each) => each.id)).size).to.equal(1)
      const agreement = await ines.call('agreement', { params: { id: made[0]!.id } })
      expect(agreement.parties.map(({ name, email }) => [name, email])).to.deep.equal([
        ['Odile Marsh', 'odile@marsh.example'],
      ])
      expect((await ines.call('trail', { params: { id: agreement.id } })).entries[0]!.detail).to.include({
        origin: 'file',
        named: 'Access for a day',
      })
      // It is on no list of templates, and with its record.
      expect((await ines.call('templates')).length).to.equal(before)
      expect(
        (await ines.call('agreements', { query: { record: records[0]!.id } })).agreements.map(
          (each) => each.id,
        ),
      ).to.include(agreement.id)
      expect(
        (await ines.refused('saveOneOff', { params: { id }, body: { version: 2, content: draft.draft } }))
          .status,
      ).to.equal(409)
      await ines.call('sendAgreements', { body: { agreements: [agreement.id], unread: true, at: null } })
      expect(await signAs(new Client(running.url), await linkIn(ines, 'odile@marsh.example'))).to.equal(true)
      const kept = await ines.call('keepOneOff', {
        params: { id },
        body: { title: 'Access for days', shelf: null },
      })
      const template = await ines.call('template', { params: { id: kept.id } })
      expect(template.draft.roles[0]!.fill).to.deep.equal({ rule: 'ask' })
    })

    it('is gone on with or given up while it is begun, and leads back to its pages once it is made', async () => {
      const { records } = await ines.call('records', { params: { kind: 'customer' } })
      const of = records[1]!.id
      const { file } = await bringIn(ines, 'begun.pdf', await siteAccessPdf())
      const start = (record: string | null) =>
        ines.call('startOneOff', { body: { title: 'Begun', files: [file], record } })
      const [mine, other] = [await start(of), await start(null)]
      const begun = async (record?: string) =>
        (await ines.call('oneOffs', { query: record ? { record } : {} })).map(({ id }) => id)
      expect(await begun(of)).to.deep.equal([mine.id])
      expect(await begun()).to.include.members([mine.id, other.id])
      await ines.call('dropOneOff', { params: { id: mine.id } })
      expect(await begun(of)).to.deep.equal([])
      expect((await ines.refused('oneOff', { params: { id: mine.id } })).status).to.equal(404)
      const { agreements } = await ines.call('agreements', { query: { search: 'Access for a day' } })
      const made = await ines.call('agreement', { params: { id: agreements[0]!.id } })
      expect(made).to.include({ form: true })
      expect(await begun()).to.not.include(made.oneOff)
      expect((await ines.refused('dropOneOff', { params: { id: made.oneOff! } })).status).to.equal(409)
    })

    it('that a program sends with pages nobody brought in cannot be published', async () => {
      const id = await formOf(ines, 'Forged', await siteAccessPdf(), (draft) => {
        const made = placed(signature('one'))(draft)
        const document = pagesIn(made)
        const [page] = document.content
        return {
          ...made,
          document: { ...document, content: [{ ...page!, attrs: { ...page!.attrs, file: 'b'.repeat(64) } }] },
        }
      })
      const { draftVersion } = await draftOf(id)
      const refused = await ines.refused('publish', { params: { id }, body: { version: draftVersion } })
      expect(refused.message).to.contain('not brought in')
    })
  })
})
