import { expect } from 'chai'
import { read, utils } from 'xlsx'
import { Client, eventually } from '#test/support/client.ts'
import { type Running, startApp } from '#test/support/running.ts'

const csv = (...rows: readonly string[]) => new TextEncoder().encode(rows.join('\r\n'))

describe('sheets and the record book', () => {
  let running: Running
  let ines: Client
  let petra: Client
  let gideon: Client
  const upload = (name: string, ...rows: readonly string[]) =>
    ines.call('uploadSheet', { query: { name }, body: csv(...rows) })
  const rowsOf = (id: string, query: Record<string, string> = {}) =>
    ines.call('sheetRows', { params: { id }, query })

  before(async () => {
    running = await startApp('sources', { sheet: false })
    ines = await Client.signedIn(running.url, 'ines.hallow')
    petra = await Client.signedIn(running.url, 'petra.vance')
    gideon = await Client.signedIn(running.url, 'gideon.farrow')
  })
  after(() => running?.stop())

  describe('a sheet', () => {
    it('shows each cell at fault in its place, and only those rows when asked', async () => {
      const days = Array.from({ length: 8 }, (_, i) => `Orchard ${i},2027-03-0${i + 1}`)
      const { id, columns } = await upload('days.csv', 'Orchard,Bloom', ...days, 'Foxford,TBD')
      expect(columns[1]).to.deep.include({ type: 'date', fitting: 8, filled: 9, odd: [10] })
      const odd = await rowsOf(id, { odd: 'yes' })
      expect(odd.total).to.equal(1)
      expect(odd.rows[0]).to.deep.include({
        row: 10,
        faults: [{ at: 1, message: '“TBD” is not a date.' }],
      })
      expect((await rowsOf(id, { search: 'orchard 3' })).rows.map(({ row }) => row)).to.deep.equal([5])
    })

    it('is mended in place; what stood there is kept and comes back', async () => {
      const { id } = await upload('mend.csv', 'Orchard,Acres', 'a,12', 'b,13', 'c,many', 'd,14', 'e,15')
      const cells = (value: string | null) => ({ cells: [{ row: 4, column: 'Acres', value }] })
      const mended = await ines.call('mendCells', { params: { id }, body: cells('30') })
      expect(mended.mended).to.equal(1)
      expect(mended.columns[1]).to.include({ type: 'number', fitting: 5 })
      expect((await rowsOf(id)).rows[2]).to.deep.include({ faults: [], mended: [{ at: 1, before: 'many' }] })
      const back = await ines.call('mendCells', { params: { id }, body: cells(null) })
      expect(back.mended).to.equal(0)
      expect((await rowsOf(id)).rows[2]!.cells).to.deep.equal(['c', 'many'])
      expect(
        (
          await ines.refused('mendCells', {
            params: { id },
            body: { cells: [{ row: 99, column: 'Acres', value: '1' }] },
          })
        ).message,
      ).to.contain('no row 99')
      expect((await gideon.refused('mendCells', { params: { id }, body: cells('1') })).status).to.equal(403)
    })

    it('is read another way, and keeps what was mended where it is there again', async () => {
      const { id } = await upload('again.csv', 'Season 2027;', 'Orchard;Acres', 'a;many', 'b;13')
      await ines.call('mendCells', {
        params: { id },
        body: { cells: [{ row: 3, column: 'Acres', value: '12' }] },
      })
      const reading = { table: null, range: 'A2:B3', headerRow: null, delimiter: ';', encoding: null }
      const again = await ines.call('readAgain', { params: { id }, body: reading })
      expect(again).to.include({ rowCount: 1, headerRow: 2, mended: 1 })
      expect((await rowsOf(id)).rows[0]!.cells).to.deep.equal(['a', '12'])
      const refused = await ines.refused('readAgain', { params: { id }, body: { ...reading, range: 'here' } })
      expect(refused.message).to.contain('is no range')
      expect((await ines.call('sheet', { params: { id } })).rowCount).to.equal(1)
    })

    it('is told what a column holds, and which of day and month comes first', async () => {
      const { id, columns } = await upload('order.csv', 'Day,ZIP', '3/4/2027,97301', '5/6/2027,97302')
      expect(columns[0]!.unsure).to.deep.equal(['3/4/2027', '5/6/2027'])
      const body = { column: 'Day', dateOrder: 'day first' }
      const said = await ines.call('sayColumn', { params: { id }, body })
      expect(said.columns[0]).to.deep.include({ dateOrder: 'day first', unsure: [] })
      const zip = await ines.call('sayColumn', { params: { id }, body: { column: 'ZIP', type: 'text' } })
      expect(zip.columns[1]!.type).to.equal('text')
      expect(zip.columns[0]!.dateOrder).to.equal('day first')
    })
  })

  describe('the record book', () => {
    it('keeps records by fields of their kind, and says of a wrong value where it is', async () => {
      const { fields } = await ines.call('recordFields', { params: { kind: 'customer' } })
      expect(fields.map(({ name }) => name)).to.include.members(['name', 'email', 'acres'])
      const made = await petra.call('makeRecord', {
        params: { kind: 'customer' },
        body: { data: { name: 'Sedge Harbor', acres: '1,040', organic: 'yes' } },
      })
      expect(made.data).to.deep.equal({ name: 'Sedge Harbor', acres: '1040', organic: true })
      const refused = await petra.refused('makeRecord', {
        params: { kind: 'customer' },
        body: { data: { email: 'nobody' } },
      })
      expect(refused.problem.faults?.map(({ pointer }) => pointer)).to.deep.equal([
        '/data/name',
        '/data/email',
      ])
      expect(
        (await gideon.refused('makeRecord', { params: { kind: 'price' }, body: { data: {} } })).status,
      ).to.equal(403)
    })

    it('overwrites nobody’s change', async () => {
      const [record] = (await ines.call('records', { params: { kind: 'contact' }, query: { limit: '1' } }))
        .records
      const params = { kind: 'contact', id: record!.id }
      const body = (phone: string) => ({
        version: record!.version,
        customer: record!.customer!.id,
        data: { ...record!.data, phone },
      })
      await petra.call('saveRecord', { params, body: body('+1 503 555 0101') })
      const refused = await ines.refused('saveRecord', { params, body: body('+1 503 555 0102') })
      expect(refused.status).to.equal(409)
      expect(refused.message).to.contain('Petra Vance changed this record')
    })

    it('is searched, filtered, kept as a view, changed in many places at once, and put away', async () => {
      const list = (query: Record<string, string>) =>
        ines.call('records', { params: { kind: 'customer' }, query })
      const { total } = await list({})
      const leased = await list({ where: 'leased and acres > 50', sort: '-acres' })
      expect(leased.total).to.be.within(1, total - 1)
      const acres = leased.records.map(({ data }) => Number(data['acres']))
      expect(acres).to.deep.equal([...acres].sort((a, b) => b - a))
      expect(
        (await ines.refused('records', { params: { kind: 'customer' }, query: { where: 'acres >' } })).status,
      ).to.equal(422)
      const filter = { search: '', where: 'leased', sort: '' }
      await ines.call('keepView', { params: { kind: 'customer' }, body: { name: 'On leased land', filter } })
      const views = await petra.call('recordViews', { params: { kind: 'customer' } })
      expect(views.map(({ name }) => name)).to.deep.equal(['On leased land'])
      const ids = leased.records.map(({ id }) => id)
      const changed = await ines.call('changeRecords', {
        params: { kind: 'customer' },
        body: { ids, data: { landowner: 'Amos Pell', phone: null } },
      })
      expect(changed.changed).to.equal(ids.length)
      expect((await list({ where: 'landowner = "Amos Pell"' })).total).to.be.at.least(ids.length)
      const wrong = { ids, data: { acres: 'many' } }
      expect(
        (await ines.refused('changeRecords', { params: { kind: 'customer' }, body: wrong })).status,
      ).to.equal(422)
      await ines.call('changeRecords', {
        params: { kind: 'customer' },
        body: { ids: ids.slice(0, 1), archived: true },
      })
      expect((await list({})).total).to.equal(total - 1)
      expect((await list({ archived: 'yes' })).total).to.equal(1)
    })

    it('has fields of its own kind added, each with its type', async () => {
      const before = await ines.call('recordFields', { params: { kind: 'price' } })
      const grade = { name: 'grade', label: 'Grade', type: 'choice', choices: ['A', 'B'], required: false }
      const saved = await ines.call('saveRecordFields', {
        params: { kind: 'price' },
        body: { fields: [grade] },
      })
      expect(saved.fields).to.have.length(before.fields.length + 1)
      const refused = await ines.refused('saveRecordFields', {
        params: { kind: 'price' },
        body: { fields: [{ ...grade, name: 'unit' }] },
      })
      expect(refused.message).to.contain('There is a field “unit” already.')
      expect(
        (await petra.refused('saveRecordFields', { params: { kind: 'price' }, body: { fields: [] } })).status,
      ).to.equal(403)
    })

    it('goes out as CSV that runs no formula, and as XLSX that another library reads', async () => {
      await ines.call('makeRecord', {
        params: { kind: 'price' },
        body: { data: { name: '=HYPERLINK("x")', price: '1.50' } },
      })
      const text = await (
        await ines.call('exportRecords', { params: { kind: 'price' }, query: { format: 'csv' } })
      ).text()
      expect(text).to.contain(`"'=HYPERLINK(""x"")"`)
      const file = await ines.call('exportRecords', {
        params: { kind: 'deal' },
        query: { where: 'status = "agreed"' },
      })
      const book = read(new Uint8Array(await file.arrayBuffer()))
      const rows = utils.sheet_to_json<Record<string, unknown>>(book.Sheets[book.SheetNames[0]!]!)
      expect(rows.every((row) => row['Status'] === 'agreed')).to.equal(true)
      expect(rows[0]).to.include.keys('Customer', 'Line 1 item', 'Line 1 price', 'First day of bloom')
    })
  })

  describe('an import', () => {
    it('shows what it would do, does it in one piece, and is undone but for what was changed since', async () => {
      const [known, other] = (
        await ines.call('records', { params: { kind: 'customer' }, query: { limit: '2' } })
      ).records
      const sheet = await upload(
        'growers.csv',
        'Name,Acres,E-mail',
        `${known!.name},9999,`,
        `${other!.name},8888,`,
        'Quite New Growers,77,new@quite.example',
        'Broken Farm,acres?,x',
        ...Array.from({ length: 8 }, (_, i) => `Filler ${i},${i + 1},`),
      )
      const body = { sheetId: sheet.id, key: 'name' }
      const params = { kind: 'customer' as const }
      const preview = await ines.call('previewImport', { params, body })
      expect(preview.mapping).to.deep.include({ name: 'Name', acres: 'Acres', email: 'E-mail' })
      expect(preview.counts).to.deep.equal({ new: 9, changed: 2, untouched: 0, faulty: 1 })
      expect(preview.rows[0]).to.deep.include({ row: 5, outcome: 'faulty' })
      const before = (await ines.call('records', { params })).total
      const done = await ines.call('importRecords', { params, body })
      expect(done).to.include({ made: 9, changed: 2 })
      expect((await ines.call('records', { params })).total).to.equal(before + 9)
      const find = async (name: string) =>
        (await ines.call('records', { params, query: { search: name } })).records.find(
          (each) => each.name === name,
        )!
      const changed = await find(known!.name)
      expect(changed.data).to.deep.include({ acres: '9999', county: known!.data['county'] })
      await petra.call('saveRecord', {
        params: { kind: 'customer', id: changed.id },
        body: { version: changed.version, data: { ...changed.data, acres: '1' } },
      })
      expect((await ines.call('previewImport', { params, body })).counts).to.deep.include({
        new: 0,
        changed: 1,
      })
      const undone = await ines.call('undoImport', { params: { id: done.id } })
      expect(undone).to.deep.equal({ undone: 10, kept: 1 })
      expect((await find(known!.name)).data['acres']).to.equal('1')
      expect((await find(other!.name)).data['acres']).to.equal(other!.data['acres'])
      expect((await ines.call('records', { params })).total).to.equal(before)
      expect((await ines.refused('undoImport', { params: { id: done.id } })).status).to.equal(409)
    })

    it('of contacts puts each with its customer', async () => {
      const [known] = (await ines.call('records', { params: { kind: 'customer' }, query: { limit: '1' } }))
        .records
      const sheet = await upload(
        'contacts.csv',
        'Contact,E-mail,Orchard',
        `Odile Renn,o@renn.example,${known!.name.toUpperCase()}`,
        'Lost One,l@one.example,Nowhere Farm',
      )
      const body = {
        sheetId: sheet.id,
        key: 'name',
        customerColumn: 'Orchard',
        mapping: { name: 'Contact', email: 'E-mail' },
      }
      const done = await ines.call('importRecords', { params: { kind: 'contact' }, body })
      expect(done).to.include({ made: 1, changed: 0 })
      const { contacts } = await ines.call('record', { params: { kind: 'customer', id: known!.id } })
      expect(contacts.map(({ name }) => name)).to.include('Odile Renn')
    })
  })

  describe('a deal', () => {
    it('becomes an agreement in three steps, and shows it with its thread', async () => {
      const { records } = await ines.call('records', {
        params: { kind: 'deal' },
        query: { where: 'status = "agreed"', limit: '1' },
      })
      const deal = records[0]!
      const template = (await ines.call('templates')).find(({ name }) => name.startsWith('Season'))!
      const { id: sheetId } = await ines.call('dealsToSheet', { body: { ids: [deal.id] } })
      const { id } = await ines.call('startRun', {
        body: { name: deal.name, templateId: template.id, sheetId },
      })
      const run = await eventually(async () => {
        const found = await ines.call('run', { params: { id } })
        return found.state === 'checked' && found
      }, 'the check')
      expect(run.rows).to.include({ ready: 1, hand: 0 })
      expect(run.fromRecords).to.equal(true)
      await ines.call('generate', { params: { id } })
      await eventually(
        async () => (await ines.call('run', { params: { id } })).state === 'generated',
        'the end',
      )
      const detail = await ines.call('record', { params: { kind: 'deal', id: deal.id } })
      expect(detail.agreements).to.have.length(1)
      expect(detail.agreements[0]!.thread.length).to.be.greaterThan(0)
      const customer = await ines.call('record', { params: { kind: 'customer', id: deal.customer!.id } })
      expect(customer.agreements.map(({ id: agreement }) => agreement)).to.deep.equal(
        detail.agreements.map(({ id: agreement }) => agreement),
      )
      expect(await ines.call('sheets')).to.satisfy((sheets: { name: string }[]) =>
        sheets.every(({ name }) => name !== deal.name),
      )
    })
  })

  describe('a run of deals', () => {
    it('follows the record book: changed rows are read again, what was mended and what was made stays', async () => {
      const { records } = await ines.call('records', {
        params: { kind: 'deal' },
        query: { where: 'status = "agreed"', limit: '4' },
      })
      const [first, second] = records.slice(2)
      const template = (await ines.call('templates')).find(({ name }) => name.startsWith('Season'))!
      const ids = [first!.id, second!.id]
      const { id: sheetId } = await ines.call('dealsToSheet', { body: { ids } })
      const body = { name: 'Followed', templateId: template.id, sheetId, setup: { duplicates: 'allow' } }
      const { id } = await ines.call('startRun', { body })
      const rows = () => ines.call('runRows', { params: { id } })
      await eventually(async () => (await rows()).every(({ state }) => state === 'ready'), 'the check')
      // One value is mended in the run, then the customer moves and the deal gets a line more.
      const { columns } = await ines.call('sheet', { params: { id: sheetId } })
      const acres = columns.find(({ name }) => name.endsWith('acres'))!.name
      const cells = [{ row: 1, column: acres, value: '77' }]
      await ines.call('mendCells', { params: { id: sheetId }, body: { cells } })
      await ines.call('generate', { params: { id } })
      await eventually(async () => (await rows()).every(({ state }) => state === 'made'), 'the run', 60)
      const customer = await ines.call('record', { params: { kind: 'customer', id: first!.customer!.id } })
      const data = { ...customer.data, address: '1 New Road, Greenton' }
      await ines.call('saveRecord', {
        params: { kind: 'customer', id: customer.id },
        body: { data, customer: null, version: customer.version },
      })
      const lines = [1, 2, 3, 4, 5].map((n) => ({ item: `Hive stand ${n}`, quantity: '1', price: '10' }))
      await ines.call('saveRecord', {
        params: { kind: 'deal', id: first!.id },
        body: {
          data: { ...first!.data, lines },
          customer: first!.customer!.id,
          version: first!.version,
        },
      })
      const [followed, untouched] = await eventually(async () => {
        const now = await rows()
        return now.some(({ changed }) => changed) && now
      }, 'the changed row')
      expect([followed!.changed, untouched!.changed]).to.deep.equal([true, false])
      const changes = await ines.call('rowChanges', { params: { id, row: followed!.row } })
      expect(changes.values.map(({ after }) => after)).to.deep.equal(['1 New Road, Greenton'])
      await eventually(
        async () =>
          (await ines.call('sheet', { params: { id: sheetId } })).columns.some(
            ({ name }) => name === 'Line 5 item',
          ),
        'the longer deal',
      )
      const kept = await rowsOf(sheetId)
      const at = columns.findIndex(({ name }) => name === acres)
      expect(kept.rows[0]!.cells[at]).to.equal('77')
      expect(kept.rows[0]!.mended.map((each) => each.at)).to.deep.equal([at])
      const { redone } = await ines.call('redoRows', { params: { id }, body: {} })
      expect(redone).to.equal(1)
    })
  })

  describe('a list of records', () => {
    it('comes page by page, each record once, in the order of all', async () => {
      const page = async (offset: number, sort: string) =>
        (
          await ines.call('records', {
            params: { kind: 'customer' },
            query: { offset: String(offset), limit: '25', sort },
          })
        ).records
      for (const sort of ['acres', '-acres']) {
        const all = [...(await page(0, sort)), ...(await page(25, sort)), ...(await page(50, sort))]
        expect(new Set(all.map(({ id }) => id)).size).to.equal(all.length)
        const acres = all.flatMap(({ data }) => (data['acres'] === undefined ? [] : [Number(data['acres'])]))
        expect(acres.length).to.be.above(50)
        expect(acres).to.deep.equal(acres.toSorted((a, b) => (sort === 'acres' ? a - b : b - a)))
      }
    })
  })

  describe('packets', () => {
    it('are of two templates or more, each once, under a name of their own', async () => {
      const templates = await ines.call('templates')
      const ids = templates.filter(({ latestEdition }) => latestEdition).map(({ id }) => id)
      const [packet] = await ines.call('packets')
      expect(packet).to.deep.include({ name: 'Season packet', problem: null })
      const make = (name: string, parts: readonly string[]) =>
        ines.refused('makePacket', { body: { name, templates: parts } })
      expect((await make('Season packet', ids.slice(0, 2))).status).to.equal(409)
      expect((await make('One', ids.slice(0, 1))).message).to.contain('at least two templates')
      expect((await make('Twice', [ids[0]!, ids[0]!])).message).to.contain('stands in a packet once')
      expect((await petra.refused('makePacket', { body: { name: 'x', templates: ids } })).status).to.equal(
        403,
      )
      const { id } = await ines.call('makePacket', { body: { name: 'Two', templates: ids.slice(0, 2) } })
      await ines.call('savePacket', { params: { id }, body: { name: 'Three', templates: ids.slice(0, 3) } })
      await ines.call('dropPacket', { params: { id } })
      expect(await ines.call('packets')).to.have.length(1)
    })
  })
})
