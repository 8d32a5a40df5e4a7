import { readFile } from 'node:fs/promises'
import { expect } from 'chai'
import JSZip from 'jszip'
import { PDFDocument, PDFName } from 'pdf-lib'
import { read, utils } from 'xlsx'
import { Client, eventually } from '#test/support/client.ts'
import { idle, type Running, startApp } from '#test/support/running.ts'
import { putInForce, rulesThat } from '#test/support/rules.ts'

const SMALL = 7

describe('the work on a run', () => {
  let running: Running
  let ines: Client
  let maren: Client
  let season = ''
  let header = ''
  let lines: readonly string[] = []

  const upload = (name: string, ...rows: readonly string[]) =>
    ines.call('uploadSheet', { query: { name }, body: new TextEncoder().encode(rows.join('\r\n')) })
  const checked = (id: string) =>
    eventually(async () => {
      const run = await ines.call('run', { params: { id } })
      return run.state === 'checked' && run
    }, 'the check')
  const start = async (sheetId: string, setup: Record<string, unknown> = {}) => {
    const body = { name: 'Small', templateId: season, sheetId, setup: { duplicates: 'allow', ...setup } }
    const { id } = await ines.call('startRun', { body })
    await checked(id)
    return id
  }
  const change = async (id: string, setup: Record<string, unknown>) => {
    const view = await ines.call('runSetup', { params: { id } })
    await ines.call('changeRun', { params: { id }, body: { setup: { ...view.setup, ...setup } } })
    return checked(id)
  }
  const generated = async (id: string) => {
    await ines.call('generate', { params: { id } })
    return eventually(
      async () => (await ines.call('run', { params: { id } })).state === 'generated',
      'the end',
      60,
    )
  }
  const rows = (id: string) => ines.call('runRows', { params: { id } })
  const output = async (id: string, kind: string) => {
    const { id: made } = await ines.call('makeOutput', { params: { id }, body: { kind } })
    const ready = await eventually(async () => {
      const found = (await ines.call('outputs', { params: { id } })).find((each) => each.id === made)!
      if (found.state === 'failed') throw new Error(found.problem ?? '')
      return found.state === 'ready' && found
    }, kind)
    const file = await ines.call('output', { params: { id, output: made } })
    return { ...ready, bytes: new Uint8Array(await file.arrayBuffer()) }
  }

  before(async () => {
    running = await startApp('run_work', { sheet: false })
    ines = await Client.signedIn(running.url, 'ines.hallow')
    maren = await Client.signedIn(running.url, 'maren.oakes')
    season = (await ines.call('templates')).find(({ name }) => name.startsWith('Season'))!.id
    const csv = (await readFile('demo/sheets/bookings-2027.csv', 'utf8')).replace(/^\uFEFF/, '').split('\r\n')
    header = csv[0]!
    lines = csv.slice(1, SMALL)
    // The one column whose name says too little is mapped once, and remembered from then on.
    const sheet = await upload('first.csv', header, ...lines)
    const params = { id: sheet.id, template: season }
    const { columns } = await ines.call('mapping', { params })
    await ines.call('saveMapping', { params, body: { columns: { ...columns, first_season: 'New grower' } } })
  })
  after(() => running?.stop())

  it('takes rows as the last run of such a sheet did: its rule is remembered, and offers what the column says', async () => {
    const status = (row: string, i: number) => `${row},${i % 2 ? 'agreed' : 'Open'}`
    const many = [...lines, ...lines, ...lines]
    const sheet = await upload('status.csv', `${header},Status`, ...many.map(status))
    const id = await start(sheet.id, { rule: 'status = "open"' })
    const left = (await checked(id)).rows.skipped
    expect(left).to.equal(many.filter((_, i) => i % 2).length)
    const view = await ines.call('runSetup', { params: { id } })
    expect(view.columnFields.find(({ name }) => name === 'status')).to.deep.include({
      type: 'choice',
      choices: ['Open', 'agreed'],
    })
    const again = await upload('status again.csv', `${header},Status`, ...many.map(status))
    const { id: next } = await ines.call('startRun', {
      body: { name: 'Again', templateId: season, sheetId: again.id },
    })
    expect((await ines.call('runSetup', { params: { id: next } })).setup.rule).to.equal('status = "open"')
    expect((await checked(next)).rows.skipped).to.equal(left)
  })

  it('asks about rows of one agreement that are the same in every cell', async () => {
    const sheet = await upload('twice.csv', header, lines[0]!, lines[0]!, lines[1]!)
    const id = await start(sheet.id, { duplicates: 'ask', groupBy: ['Orchard'] })
    const found = await rows(id)
    expect(found.map(({ sourceRows }) => sourceRows.length)).to.deep.equal([2, 1])
    expect(found[0]!.state).to.equal('needs a hand')
    expect(found[0]!.problems.map(({ message }) => message)).to.include(
      'Row 3 says the same as row 2, cell by cell; both count.',
    )
    await ines.call('decideRows', { params: { id }, body: { rows: [found[0]!.row], decision: 'make' } })
    await checked(id)
    expect((await rows(id))[0]!.problems.some(({ kind }) => kind === 'twice')).to.equal(false)
  })

  it('begins with the mapping of the last time, and tells a column that goes by another name now', async () => {
    const sheet = await upload('second.csv', header.replace('Bloom from', 'Bloom start'), ...lines)
    const id = await start(sheet.id)
    const setup = await ines.call('runSetup', { params: { id } })
    expect(setup.mapping).to.include({ first_season: 'New grower', 'bloom.start': 'Bloom start' })
    expect(setup.drift).to.deep.equal([{ field: 'bloom.start', was: 'Bloom from', now: 'Bloom start' }])
    expect((await checked(id)).rows).to.include({ ready: lines.length, hand: 0 })
  })

  it('leaves out what a row rule says, with the reason, and refuses a rule that is none', async () => {
    const sheet = await upload('rule.csv', header, ...lines)
    const id = await start(sheet.id)
    const run = await change(id, { rule: 'colonies > 100' })
    expect(run.rows.ready + run.rows.skipped).to.equal(lines.length)
    const out = (await rows(id)).filter(({ state }) => state === 'skipped')
    expect(out.length).to.be.within(1, lines.length - 1)
    expect(out[0]!.problems[0]!.message).to.match(
      /^Left out by the row rule: Colonies \d+ is not over 100\.$/,
    )
    const view = await ines.call('runSetup', { params: { id } })
    const bad = (setup: Record<string, unknown>) =>
      ines.refused('changeRun', { params: { id }, body: { setup: { ...view.setup, ...setup } } })
    expect((await bad({ rule: 'hives > 1' })).problem.faults?.[0]?.pointer).to.equal('/setup/rule')
    expect((await bad({ groupBy: ['Nothing'] })).message).to.contain('no column “Nothing”')
    expect((await bad({ values: { 'bloom.start': 'soon' } })).message).to.contain('is not a date')
  })

  it('mends a row where it stands: the sheet, its columns and the run follow', async () => {
    const broken = lines[0]!.replace(/,[^,@]+@[^,]+,/, ',nobody,')
    const sheet = await upload('broken.csv', header, broken, ...lines.slice(1))
    const id = await start(sheet.id)
    const [row] = (await rows(id)).filter(({ state }) => state === 'needs a hand')
    expect(row!.problems[0]).to.deep.include({ column: 'E-mail', cell: 'nobody' })
    await ines.call('mendCells', {
      params: { id: sheet.id },
      body: { cells: [{ row: row!.row, column: 'E-mail', value: 'found@again.example' }] },
    })
    const run = await eventually(async () => {
      const found = await checked(id)
      return found.rows.hand === 0 && found
    }, 'the mended row')
    expect(run.rows.ready).to.equal(lines.length)
    expect((await rows(id))[0]!.people[0]!.email).to.equal('found@again.example')
  })

  it('asks for what nobody has: once for all rows, or row by row', async () => {
    const columns = header.split(',')
    const at = columns.indexOf('Season')
    const without = (line: string) => line.split(',').toSpliced(at, 1).join(',')
    const sheet = await upload('asked.csv', without(header), ...lines.slice(0, 2).map(without))
    const id = await start(sheet.id)
    expect((await checked(id)).rows).to.include({ ready: 0, hand: 2 })
    expect((await change(id, { values: { season: '2027' } })).rows).to.include({ ready: 2, hand: 0 })
    expect((await change(id, { values: {}, askRows: ['season'] })).rows).to.include({ ready: 0, hand: 2 })
    const [first] = await rows(id)
    expect(first!.problems[0]).to.deep.include({ field: 'season', kind: 'asked' })
    await ines.call('answerRow', { params: { id, row: first!.row }, body: { answers: { season: '2028' } } })
    expect((await checked(id)).rows).to.include({ ready: 1, hand: 1 })
    expect((await rows(id))[0]!.answers).to.deep.equal({ season: '2028' })
  })

  it('asks about the same customer twice and one with a live agreement; somebody decides by row', async () => {
    const sheet = await upload('twice.csv', header, ...lines.slice(0, 3), lines[1]!)
    const id = await start(sheet.id, { duplicates: 'ask' })
    const [twice] = (await rows(id)).filter(({ state }) => state === 'needs a hand')
    expect(twice!.problems.map(({ kind }) => kind)).to.deep.equal(['twice'])
    const decide = (decision: string | null) =>
      ines.call('decideRows', { params: { id }, body: { rows: [twice!.row], decision } })
    await decide('leave out')
    expect((await checked(id)).rows).to.include({ ready: 3, hand: 0, skipped: 1 })
    await decide(null)
    expect((await checked(id)).rows).to.include({ ready: 3, hand: 1, skipped: 0 })
    await decide('make')
    expect((await checked(id)).rows).to.include({ ready: 4, hand: 0 })
    await generated(id)
    const again = await start((await upload('later.csv', header, lines[0]!, lines[4]!)).id, {
      duplicates: 'ask',
    })
    const found = await rows(again)
    expect(found.map(({ state }) => state)).to.deep.equal(['needs a hand', 'ready'])
    expect(found[0]!.problems[0]!.message).to.match(
      /has a live agreement already: LP-2027-\d{4}, (ready to send|in approval)\./,
    )
  })

  it('asks about a customer by a column that feeds no field, once somebody says so', async () => {
    const numbered = [0, 1, 2].map((i) => `${lines[i]!},${['C-1', 'C-2', 'C-1'][i]!}`)
    const sheet = await upload('numbered.csv', `${header},Customer number`, ...numbered)
    const id = await start(sheet.id, { duplicates: 'ask', sameBy: { column: 'Customer number' } })
    const asked = (await rows(id)).flatMap(({ row, problems }) =>
      problems
        .filter(({ kind }) => kind === 'twice')
        .map(({ column, message }) => ({ row, column, message })),
    )
    const [first] = await rows(id)
    expect(asked).to.deep.equal([
      { row: first!.row + 2, column: 'Customer number', message: `“C-1” stands in row ${first!.row} too.` },
    ])
    const view = await ines.call('runSetup', { params: { id } })
    const wrong = { setup: { ...view.setup, sameBy: { column: 'Hive number' } } }
    expect(
      (await ines.refused('changeRun', { params: { id }, body: wrong })).problem.faults?.[0]?.pointer,
    ).to.equal('/setup/sameBy')
  })

  it('tells of every row what its agreement will say, computed values too', async () => {
    const sheet = await upload('values.csv', header, ...lines.slice(0, 3))
    const id = await start(sheet.id)
    const { shown, telling } = await ines.call('runSetup', { params: { id } })
    expect(telling).to.deep.equal(['colonies', 'delivery.start'])
    expect(shown.map(({ name }) => name)).to.include.members(['total', 'crop'])
    const [first] = await rows(id)
    const query = { from: String(first!.row), fields: 'total,colonies,hives' }
    const values = await ines.call('rowValues', { params: { id }, query })
    expect(values).to.have.length(3)
    const pages = await PDFDocument.load(
      await (await ines.call('rowProof', { params: { id, row: first!.row } })).arrayBuffer(),
    )
    expect(pages.getPageCount()).to.be.at.least(1)
    expect(values[0]!.values).to.have.all.keys('total', 'colonies')
    expect(values[0]!.values['total']).to.match(/^\$[\d,]+\.\d{2}$/)
  })

  it('makes of several rows one agreement with a list, each customer their own rows only', async () => {
    const sale = (await ines.call('templates')).find(({ name }) => name === 'Colony sale')!
    const sheet = await upload(
      'lots.csv',
      'Buyer,Contact,Contact mail address,Address,Day of handover,Payment,Item,Strength grade,Quantity,Price',
      'Fennel Bottom Farm,Ottilie Crane,o@fennel.example,3 Mill Row,2027-05-10,at handover,Nucleus,A,12,168.50',
      'Sedge Growers,Amos Pell,a@sedge.example,9 Weir Road,2027-05-11,at handover,Colony,B,3,210',
      'Fennel Bottom Farm,Ottilie Crane,o@fennel.example,3 Mill Row,2027-05-10,at handover,Queen,A,4,42',
    )
    const setup = { duplicates: 'allow', groupBy: ['Buyer'] }
    const body = { name: 'Grouped', templateId: sale.id, sheetId: sheet.id, setup }
    const { id } = await ines.call('startRun', { body })
    await checked(id)
    const found = await rows(id)
    expect(found.map(({ label, sourceRows }) => [label, sourceRows])).to.deep.equal([
      ['Fennel Bottom Farm', [2, 4]],
      ['Sedge Growers', [3]],
    ])
    await generated(id)
    const { agreements } = await ines.call('agreements', { query: { run: id } })
    const made = agreements.find(({ name }) => name.includes('Sedge'))!
    const docx = await ines.call('agreementDocx', { params: { id: made.id } })
    const text = await (
      await JSZip.loadAsync(await docx.arrayBuffer())
    )
      .file('word/document.xml')!
      .async('string')
    expect(text).to.contain('Colony')
    expect(text).not.to.contain('Nucleus')
  })

  it('follows a row’s language, keeps who else gets it, and the file that goes along', async () => {
    const extra = (line: string, ...more: readonly string[]) => [line, ...more].join(',')
    const sheet = await upload(
      'extras.csv',
      extra(header, 'Language', 'Copies', 'File'),
      extra(lines[0]!, 'Spanish', 'desk@coop.example', 'map.txt'),
      extra(lines[1]!, 'Elvish', '', ''),
    )
    const columns = { languageColumn: 'Language', copiesColumn: 'Copies', fileColumn: 'File' }
    const id = await start(sheet.id, columns)
    const problems = (await rows(id)).flatMap((row) => row.problems.map(({ message }) => message))
    expect(problems).to.deep.equal([
      'The file “map.txt” has not been uploaded to this run.',
      '“Elvish” is none of the languages known here.',
    ])
    await ines.call('runFile', {
      params: { id },
      query: { name: 'map.txt' },
      body: new TextEncoder().encode('north gate'),
    })
    expect((await checked(id)).rows).to.include({ ready: 1, hand: 1 })
    await generated(id)
    const [made] = (await ines.call('agreements', { query: { run: id } })).agreements
    const detail = await ines.call('agreement', { params: { id: made!.id } })
    expect(detail).to.deep.include({ language: 'es', copies: ['desk@coop.example'], extra: ['map.txt'] })
    const { bytes } = await output(id, 'archive of PDFs')
    const names = Object.keys((await JSZip.loadAsync(bytes)).files)
    expect(names.some((name) => name.endsWith(', map.txt'))).to.equal(true)
  })

  describe('once made', () => {
    let id = ''
    let sheetId = ''

    before(async () => {
      sheetId = (await upload('made.csv', header, ...lines)).id
      id = await start(sheetId, { fileName: 'Season {{season}} {{grower.name}}' })
    })

    it('was tried before: pages with a mark on them, without a number, a typical and the longest of each wording', async () => {
      const before = (await running.app.pool.query<{ n: number }>('select last_number as n from series')).rows
      const trial = await output(id, 'trial')
      expect(trial.total).to.be.at.least((await ines.call('wordings', { params: { id } })).length)
      const pdf = await PDFDocument.load(trial.bytes)
      expect(pdf.getPageCount()).to.be.at.least(trial.total * 4)
      expect((await running.app.pool.query('select last_number as n from series')).rows).to.deep.equal(before)
      const refused = await ines.refused('makeOutput', { params: { id }, body: { kind: 'one PDF' } })
      expect(refused.message).to.contain('No agreement of this run has been made yet')
    })

    it('gives one PDF with bookmarks, DOCX, and a result sheet beside the source', async () => {
      await generated(id)
      const whole = await PDFDocument.load((await output(id, 'one PDF')).bytes)
      const outline = whole.context.lookup(whole.catalog.get(PDFName.of('Outlines')))
      expect(String(outline)).to.contain(`/Count ${lines.length}`)
      const docx = await JSZip.loadAsync((await output(id, 'archive of DOCX')).bytes)
      expect(Object.keys(docx.files)).to.have.length(lines.length)
      expect(Object.keys(docx.files)[0]).to.match(/^Season 2027 .+\.docx$/)
      const book = read((await output(id, 'result sheet')).bytes)
      const result = utils.sheet_to_json<Record<string, unknown>>(book.Sheets[book.SheetNames[0]!]!)
      expect(result).to.have.length(lines.length)
      expect(result[0]).to.include({ Result: 'made', Row: 2 })
      expect(result[0]!['Agreement']).to.match(/^LP-2027-\d{4}$/)
      expect(new TextDecoder().decode((await output(id, 'result sheet as CSV')).bytes)).to.contain(
        'Result,Agreement',
      )
    })

    it('is shared by a link that ends with its day, or when somebody ends it', async () => {
      const { id: made } = (await ines.call('outputs', { params: { id } }))[0]!
      const params = { id, output: made }
      const { url } = await ines.call('shareOutput', { params, body: { days: 3 } })
      const shared = await fetch(url)
      expect(shared.status).to.equal(200)
      expect(shared.headers.get('content-disposition')).to.contain('attachment')
      await running.app.pool.query(
        `update run_output set expires_at = now() - interval '1 second' where id = $1`,
        [made],
      )
      expect((await fetch(url)).status).to.equal(404)
      const again = await ines.call('shareOutput', { params, body: { days: 3 } })
      expect((await fetch(url)).status).to.equal(404)
      await ines.call('endShare', { params })
      expect((await fetch(again.url)).status).to.equal(404)
    })

    it('is made again only where its source has changed: same number, next revision, approved anew', async () => {
      const at = (await rows(id))[0]!
      await ines.call('mendCells', {
        params: { id: sheetId },
        body: { cells: [{ row: at.row, column: 'Colonies', value: '64000' }] },
      })
      await eventually(
        async () => (await ines.call('run', { params: { id } })).rows.changed === 1,
        'the change',
      )
      const changes = await ines.call('rowChanges', { params: { id, row: at.row } })
      expect(changes.refusal).to.equal(null)
      expect(changes.values.map(({ label, after }) => [label, after])).to.deep.equal([['Colonies', '64,000']])
      expect(changes.paragraphs.flat().some(({ kind }) => kind === 'added')).to.equal(true)
      const before = await ines.call('agreement', { params: { id: at.agreementId! } })
      expect(await ines.call('redoRows', { params: { id }, body: {} })).to.deep.equal({
        redone: 1,
        refused: 0,
      })
      await eventually(
        async () => (await ines.call('run', { params: { id } })).state === 'generated',
        'the end',
      )
      const after = await ines.call('agreement', { params: { id: at.agreementId! } })
      expect(after).to.include({ number: before.number, revision: before.revision + 1, state: 'in approval' })
      expect(after.steps[0]!.approver).to.equal('operations director')
      const others = await Promise.all(
        (await rows(id)).slice(1).map((row) => ines.call('agreement', { params: { id: row.agreementId! } })),
      )
      expect(others.every(({ revision }) => revision === 1)).to.equal(true)
      expect((await ines.refused('redoRows', { params: { id }, body: {} })).status).to.equal(409)
      expect((await ines.call('trail', { params: { id: at.agreementId! } })).verified).to.equal(true)
    })

    it('makes only the rows named again, and no row that nobody has made: a cancelled run stays cancelled', async () => {
      const sheet = await upload('cancelled.csv', header, ...lines)
      const run = await start(sheet.id)
      const all = await rows(run)
      await ines.call('generate', { params: { id: run } })
      await ines.call('cancelRun', { params: { id: run } })
      // Whatever was in hand is made when the answer is there: nothing moves after it.
      const counts = async () => (await ines.call('run', { params: { id: run } })).rows
      const { made } = await counts()
      await eventually(() => idle(running.app, 'generate-run'), 'the end of the job')
      expect((await counts()).made).to.equal(made)
      await running.owner(
        `update run_row set state = 'ready' where run_id = $1 and row not in (
          select row from claim join agreement using (id) where run_id = $1)`,
        [run],
      )
      if (made < 2) await generated(run)
      const agreements = (await rows(run)).filter(({ agreementId }) => agreementId)
      const unmade = all.length - agreements.length
      await running.owner(`update run set state = 'cancelled' where id = $1`, [run])
      await ines.call('mendCells', {
        params: { id: sheet.id },
        body: {
          cells: agreements.slice(0, 2).map(({ row }) => ({ row, column: 'Colonies', value: '77' })),
        },
      })
      // What has changed is known when the answer is there.
      expect((await counts()).changed).to.equal(2)
      const [first] = agreements
      expect(
        await ines.call('redoRows', { params: { id: run }, body: { rows: [first!.row] } }),
      ).to.deep.equal({ redone: 1, refused: 0 })
      await eventually(
        async () => (await ines.call('run', { params: { id: run } })).state === 'cancelled',
        'the end of the redoing',
      )
      expect((await counts()).changed).to.equal(1)
      expect((await counts()).ready).to.equal(unmade)
    })

    it('says so where a row that is made already is left out', async () => {
      const made = (await rows(id)).find(({ state }) => state === 'made')!
      const refused = await ines.refused('decideRows', {
        params: { id },
        body: { rows: [made.row], decision: 'leave out' },
      })
      expect(refused.status).to.equal(409)
      expect(refused.problem.detail).to.contain(`Row ${made.row} is made already`)
    })

    it('is cancelled and gone on with', async () => {
      const run = await start((await upload('cancel.csv', header, ...lines)).id)
      await ines.call('cancelRun', { params: { id: run } })
      expect((await ines.call('run', { params: { id: run } })).state).to.equal('cancelled')
      expect((await ines.refused('cancelRun', { params: { id: run } })).status).to.equal(409)
      await generated(run)
    })
  })

  describe('a wording', () => {
    it('changed by hand for one customer stays marked, travels along, and is asked for by its rule', async () => {
      const id = await start((await upload('hand.csv', header, ...lines.slice(0, 2))).id)
      await generated(id)
      const [row, other] = await rows(id)
      const params = { id: row!.agreementId! }
      await putInForce(ines, rulesThat([['agreement.changed_by_hand', 'legal']]))
      const wording = await ines.call('agreementWording', { params })
      expect(wording).to.include({ byHand: false, refusal: null })
      const text = JSON.stringify(wording.content)
        .replace('in case of frost', 'in frost')
        .replace('laying queen', 'laying queen of last year')
      const body = {
        revision: wording.revision,
        document: (JSON.parse(text) as typeof wording.content).document,
        note: 'As agreed on the telephone',
      }
      await ines.call('saveWording', { params, body })
      const changed = await ines.call('agreement', { params })
      expect(changed).to.include({ byHand: true, revision: 2, state: 'in approval', wordingRead: true })
      expect(changed.steps.map(({ approver }) => approver)).to.include('legal')
      const docx = await ines.call('agreementDocx', { params })
      const xml = await (
        await JSZip.loadAsync(await docx.arrayBuffer())
      )
        .file('word/document.xml')!
        .async('string')
      expect(xml).to.contain('laying queen of last year')
      expect((await ines.refused('saveWording', { params, body })).message).to.contain('Somebody revised')
      expect((await ines.call('agreementWording', { params: { id: other!.agreementId! } })).byHand).to.equal(
        false,
      )
      const proof = await ines.call('proof', {
        body: {
          templateId: season,
          content: JSON.parse(text) as object,
          sheetId: null,
          row: null,
          agreementId: row!.agreementId,
        },
      })
      expect(proof.values['grower.name']).to.equal(row!.label)
      const mine = changed.steps.find(({ approver }) => approver === 'legal')!
      await maren.call('decide', { params: { id: params.id, step: mine.id }, body: { decision: 'approve' } })
      const back = { revision: 2, document: wording.template.document, note: '' }
      await ines.call('saveWording', { params, body: back })
      expect(await ines.call('agreement', { params })).to.include({ byHand: false, revision: 3 })
    })
  })

  describe('a packet', () => {
    let packetRun = { id: '', agreement: '' }

    it('makes of each row one agreement of several documents, signed in one sitting', async () => {
      const [packet] = await ines.call('packets')
      const sheet = await upload('packet.csv', header, ...lines.slice(0, 2))
      const body = { name: 'Packet', packetId: packet!.id, sheetId: sheet.id, setup: { duplicates: 'allow' } }
      const { id } = await ines.call('startRun', { body })
      const run = await checked(id)
      expect(run.packet).to.deep.equal([
        'Season pollination agreement',
        'Price schedule',
        'Site access permission',
      ])
      expect(run.rows).to.include({ ready: 2, hand: 0 })
      const fields = (await ines.call('runSetup', { params: { id } })).fields.map(({ name }) => name)
      expect(new Set(fields).size).to.equal(fields.length)
      await generated(id)
      const [row] = await rows(id)
      const detail = await ines.call('agreement', { params: { id: row!.agreementId! } })
      expect(detail.parts.map(({ title }) => title)).to.deep.equal(run.packet)
      expect(detail.parts.at(-1)!.firstPage).to.equal(detail.pages)
      expect(detail.parties).to.have.length(2)
      await ines.call('sendAgreements', { body: { agreements: [detail.id], unread: true } })
      const { body: mail } = await eventually(async () => {
        const found = await running.app.pool.query<{ body: string }>(
          `select text as body from received_mail where "to" like $1`,
          [`%${detail.parties[0]!.email}%`],
        )
        return found.rows[0]
      }, 'the invitation')
      const token = /\/sign\/([\w-]{43})/.exec(mail)![1]!
      const signing = await new Client(running.url).call('signing', { params: { token } })
      const pages = new Set(signing.blanks.map((blank) => blank.page))
      for (const part of detail.parts.filter(({ title }) => title !== 'Site access permission'))
        expect(
          [...pages].some((page) => page >= part.firstPage && page < part.firstPage + part.pages),
        ).to.equal(true)
      expect(new Set(signing.blanks.map((blank) => blank.id)).size).to.equal(signing.blanks.length)
      const trail = await ines.call('trail', { params: { id: detail.id } })
      expect(trail.entries.map(({ act }) => act)).to.include('sent unread')
      packetRun = { id, agreement: detail.id }
    })

    it('gives each of its documents as a file of its own, as PDF and, of a text, as DOCX', async () => {
      const { id, agreement } = packetRun
      const { parts } = await ines.call('agreement', { params: { id: agreement } })
      for (const [i, { title, pages }] of parts.entries()) {
        const pdf = await ines.call('singleDocument', { params: { id: agreement, part: i + 1 } })
        const own = await PDFDocument.load(new Uint8Array(await pdf.arrayBuffer()))
        expect([own.getTitle(), own.getPageCount()]).to.deep.equal([title, pages])
        const query = { part: String(i + 1) }
        const docx = await ines.call('agreementDocx', { params: { id: agreement }, query })
        const bytes = await docx.arrayBuffer()
        // Pages that were brought in have no text of their own: they go out as the PDF they are.
        if (title === 'Site access permission') {
          expect((await PDFDocument.load(new Uint8Array(bytes))).getPageCount()).to.equal(pages)
          continue
        }
        const { files } = await JSZip.loadAsync(bytes)
        expect(await files['word/document.xml']!.async('string')).to.contain(title)
      }
      for (const part of [0, 4])
        expect((await ines.refused('singleDocument', { params: { id: agreement, part } })).status).to.equal(
          404,
        )
      const apart = await JSZip.loadAsync((await output(id, 'archive of single documents')).bytes)
      const names = Object.keys(apart.files).filter((name) => !apart.files[name]!.dir)
      // Two agreements, each with its documents and the whole.
      expect(names).to.have.length(2 * (parts.length + 1))
      for (const { title } of parts)
        expect(names.filter((name) => name.endsWith(`, ${title}.pdf`))).to.have.length(2)
      const docx = await JSZip.loadAsync((await output(id, 'archive of DOCX')).bytes)
      expect(Object.values(docx.files).filter(({ dir }) => !dir)).to.have.length(2 * parts.length)
    })

    it('only: agreements of one document have no single documents', async () => {
      const sheet = await upload('one-each.csv', header, lines[0]!)
      const body = { name: 'One each', templateId: season, sheetId: sheet.id, setup: { duplicates: 'allow' } }
      const { id } = await ines.call('startRun', { body })
      await checked(id)
      const kind = 'archive of single documents'
      const refused = await ines.refused('makeOutput', { params: { id }, body: { kind } })
      expect(refused.message).to.contain('one document each')
    })
  })
})
