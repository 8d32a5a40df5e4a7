// Measures what the project claims, on the built processes: `./brevan bench [name …]`. Prints figures; fails on nothing.
import { randomUUID } from 'node:crypto'
import { type ChildProcess, spawn } from 'node:child_process'
import { mkdtemp, readdir, readFile, rm, stat } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { PassThrough } from 'node:stream'
import { gzipSync } from 'node:zlib'
import ExcelJS from 'exceljs'
import { evaluate as reference } from 'feelin'
import Papa from 'papaparse'
import pg from 'pg'
import { compileExpression } from '#core/expression/compile.ts'
import { number } from '#core/expression/values/value.ts'
import { plainLook } from '#core/document/look.ts'
import { readRow } from '#core/mapping/apply.ts'
import { suggestMapping } from '#core/mapping/suggest.ts'
import { suppliedFields } from '#core/merge/fields.ts'
import { merge } from '#core/merge/merge.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import { finishedText } from '#core/merge/text.ts'
import { describeColumn } from '#core/sheet/columns.ts'
import type { FinishedDocument } from '#core/merge/finished.ts'
import { type BookingCell, HEADINGS, soundRows } from '#demo/bookings.ts'
import { healthDeclarationPdf } from '#demo/forms/health-declaration.ts'
import { healthDeclarationForm } from '#demo/season-forms.ts'
import { seasonAgreement } from '#demo/season-agreement.ts'
import { Writer } from '#demo/writing.ts'
import { PagePool } from '#server/worker-pools/pool.ts'
import { analyse } from '#core/rules/analysis/analyse.ts'
import type { TableInForce } from '#core/rules/table.ts'
import type { Cell } from '#core/outline/cell.ts'
import { rowChecker, type RunTerms } from '#core/run/check.ts'
import { plainSetup } from '#core/run/setup.ts'
import { seeded } from '#demo/random.ts'
import { larkmere, seasonNames, tableOf } from '#test/support/rule-tables.ts'
import { openSealing, saidEvidence, someEvidence } from '#test/support/sealing.ts'
import { Client, eventually } from '#test/support/client.ts'
import { linkIn, partyOf, SEASON_ANSWERS } from '#test/support/signing.ts'
import { signAs } from '#test/support/story.ts'
import { freePort } from '#test/support/running.ts'
import { formEditor } from './form-editor.ts'
import { starts } from './starts.ts'

const say = (text: string) => process.stdout.write(`${text}\n`)
const at = (sorted: readonly number[], share: number) =>
  sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))]!
const spread = (times: readonly number[]) => {
  const sorted = [...times].sort((a, b) => a - b)
  return `median ${at(sorted, 0.5).toFixed(0)} ms, 95 % ${at(sorted, 0.95).toFixed(0)} ms, most ${sorted.at(-1)!.toFixed(0)} ms of ${sorted.length}`
}

interface Stack {
  readonly url: string
  readonly client: Client
  /** Resident memory of web server and worker together, in MB, and the most seen. */
  memory(): Promise<number>
  readonly peak: () => number
  /** Both apart, in words. */
  each(): Promise<string>
  stop(): Promise<void>
}

const resident = async (child: ChildProcess) =>
  Number(/VmRSS:\s+(\d+)/.exec(await readFile(`/proc/${child.pid}/status`, 'utf8'))?.[1] ?? 0) / 1024

async function startStack(): Promise<Stack> {
  const base = (process.env['DATABASE_OWNER_URL'] || process.env['DATABASE_URL'])!
  const admin = new pg.Client({ connectionString: base.replace(/\/[^/]*$/, '/postgres') })
  await admin.connect()
  await admin.query('drop database if exists bench with (force)')
  await admin.query('create database bench')
  await admin.end()
  const folder = await mkdtemp(join(tmpdir(), 'brevan-bench-'))
  const [port, smtp] = [await freePort(), await freePort()]
  const env = {
    ...process.env,
    DATABASE_URL: base.replace(/\/[^/]*$/, '/bench'),
    DATABASE_OWNER_URL: '',
    BREVAN_DATA: folder,
    BREVAN_PORT: String(port),
    BREVAN_SMTP_PORT: String(smtp),
    BREVAN_DEMO: 'yes',
    BREVAN_DEMO_PAST: 'no',
    BREVAN_THREADS: '2',
    LOG_LEVEL: 'error',
  }
  const start = (name: string) =>
    spawn('node', ['--max-old-space-size=256', `dist/server/${name}.js`], {
      stdio: ['ignore', 'ignore', 'inherit'],
      env,
    })
  await new Promise((resolve) => start('demo').once('exit', resolve))
  const processes = [start('web'), start('worker')]
  const url = `http://127.0.0.1:${port}`
  await eventually(
    () =>
      fetch(`${url}/api/health`).then(
        ({ ok }) => ok,
        () => false,
      ),
    'the server',
  )
  const client = await Client.signedIn(url, 'ines.hallow')
  let most = 0
  const memory = async () => {
    const now = (await Promise.all(processes.map(resident))).reduce((sum, each) => sum + each, 0)
    most = Math.max(most, now)
    return now
  }
  const watch = setInterval(() => void memory().catch(() => undefined), 200)
  return {
    url,
    client,
    memory,
    peak: () => most,
    each: async () =>
      (await Promise.all(processes.map(resident)))
        .map((mb, i) => `${i ? 'worker' : 'web'} ${mb.toFixed(0)}`)
        .join(', '),
    async stop() {
      clearInterval(watch)
      for (const child of processes) {
        child.kill('SIGTERM')
        const hard = setTimeout(() => child.kill('SIGKILL'), 8000)
        if (child.exitCode === null) await new Promise((resolve) => child.once('exit', resolve))
        clearTimeout(hard)
      }
      await rm(folder, { recursive: true, force: true })
    },
  }
}

async function proofs(stack: Stack): Promise<void> {
  const template = (await stack.client.call('templates')).find(({ name }) => name.startsWith('Season'))
  const { draft } = await stack.client.call('template', { params: { id: template!.id } })
  const sheet = (await stack.client.call('sheets')).find(({ name }) => name.startsWith('bookings'))
  const { rows } = await stack.client.call('sheetRows', {
    params: { id: sheet!.id },
    query: { limit: '240' },
  })
  const times: number[] = []
  for (const { row } of rows) {
    const started = performance.now()
    await stack.client.call('proof', {
      body: { templateId: template!.id, content: draft, sheetId: sheet!.id, row },
    })
    times.push(performance.now() - started)
  }
  say(
    `proof of another row, over HTTP: ${spread(times.slice(1))}; the first of a cold server ${times[0]!.toFixed(0)} ms`,
  )
}

/** From the click to the drawn first page, in the browser. */
async function proofsInBrowser(stack: Stack): Promise<void> {
  const { openBrowser } = await import('#test/support/browser.ts')
  const browser = await openBrowser()
  const page = await browser.page()
  await page.goto(stack.url)
  await page.getByRole('button', { name: 'Ines Hallow' }).click()
  await page.getByRole('link', { name: 'Templates' }).click()
  await page.getByText('Season pollination agreement').click()
  await page.waitForSelector('[data-page="1"] canvas')
  await page.waitForTimeout(1500)
  const times: number[] = []
  for (let i = 0; i < 80; i++) {
    const time = await page.evaluate(
      () =>
        new Promise<number>((resolve) => {
          const holder = document.querySelector('[data-page="1"] > div')!
          const started = performance.now()
          const observer = new MutationObserver(() => {
            observer.disconnect()
            resolve(performance.now() - started)
          })
          observer.observe(holder, { childList: true })
          document.querySelector<HTMLButtonElement>('[aria-label^="Next row"]')!.click()
        }),
    )
    times.push(time)
    await page.waitForTimeout(60)
  }
  await browser.close()
  say(`proof of another row, from click to drawn page in the browser: ${spread(times)}`)
}

/** The season agreement grown to 60 clauses on the first level, 40 of them on a condition. */
async function largeTemplate(stack: Stack): Promise<string> {
  const season = (await stack.client.call('templates')).find(({ name }) => name.startsWith('Season'))!
  const { id } = await stack.client.call('startTemplate', {
    body: { title: 'Large agreement', shelf: null, from: season.id },
  })
  const { draft, draftVersion } = await stack.client.call('template', { params: { id } })
  const writer = new Writer('large')
  const clauses = Array.from({ length: 40 }, (_, i) =>
    writer.when(
      `colonies > ${i * 7} and (organic or crop != "pear")`,
      writer.clause(
        `**Further term ${i + 1}.** The keeper looks after {{colonies}} colonies at {{grower.name}} until {{removal}}.`,
      ),
    ),
  )
  const [title, ...rest] = draft.document.content
  const document = {
    type: 'doc' as const,
    content: [
      title!,
      ...rest.filter(({ type }) => type !== 'clause').slice(0, 1),
      ...clauses,
      ...rest.filter(({ type }) => type === 'clause').slice(0, 20),
      ...rest.filter(({ type }) => type === 'signatureBlock'),
    ],
  }
  await stack.client.call('saveDraft', {
    params: { id },
    body: { version: draftVersion, content: { ...draft, document } },
  })
  return id
}

/** Keys typed into a large template: from the key to the next frame; and from an edit to the drawn page of the proof. */
async function typing(stack: Stack): Promise<void> {
  const { openBrowser } = await import('#test/support/browser.ts')
  const id = await largeTemplate(stack)
  const season = (await stack.client.call('templates')).find(({ name }) => name.startsWith('Season'))!
  const browser = await openBrowser()
  const page = await browser.page()
  await page.goto(stack.url)
  await page.getByRole('button', { name: 'Ines Hallow' }).click()
  await page.getByRole('link', { name: 'Templates' }).waitFor()
  await page.goto(`${stack.url}/templates/${id}`)
  await page.waitForSelector('[data-page="1"] canvas')
  await page.getByRole('textbox', { name: 'Template text' }).getByText('Further term 20').click()
  await page.keyboard.press('End')
  await page.evaluate(() => {
    const times: number[] = []
    Object.assign(window, { keyTimes: times })
    document.addEventListener(
      'keydown',
      () => {
        const started = performance.now()
        // The task behind the next frame: what the key set off has been laid out and painted by then.
        requestAnimationFrame(() => {
          const channel = new MessageChannel()
          channel.port1.onmessage = () => times.push(performance.now() - started)
          channel.port2.postMessage(null)
        })
      },
      { capture: true },
    )
  })
  await page.keyboard.type(
    ' The keeper tells the grower of it in writing, and the grower answers within a week of that.',
    { delay: 70 },
  )
  const keys = await page.evaluate(() => (window as unknown as { keyTimes: number[] }).keyTimes)
  say(
    `a key typed into 60 clauses with 40 conditions, to the painted frame: ${spread(keys)}, at the most ${Math.max(...keys).toFixed(0)} ms`,
  )
  await page.goto(`${stack.url}/templates/${season.id}`)
  await page.waitForSelector('[data-page="1"] canvas')
  await page.getByRole('textbox', { name: 'Template text' }).getByText('keeper of bees').click()
  await page.waitForTimeout(1500)
  const follows: number[] = []
  for (let i = 0; i < 25; i++) {
    const drawn = page.evaluate(
      () =>
        new Promise<number>((resolve) => {
          const holder = document.querySelector('[data-page="1"] > div')!
          const observer = new MutationObserver(() => {
            observer.disconnect()
            resolve(performance.now())
          })
          observer.observe(holder, { childList: true })
          Object.assign(window, { typedAt: 0 })
          document.addEventListener('keydown', () => Object.assign(window, { typedAt: performance.now() }), {
            once: true,
            capture: true,
          })
        }),
    )
    await page.waitForTimeout(50)
    await page.keyboard.type('x')
    const at = await drawn
    follows.push(at - (await page.evaluate(() => (window as unknown as { typedAt: number }).typedAt)))
    await page.waitForTimeout(300)
  }
  await browser.close()
  say(`proof of five pages after an edit, from the key to the drawn page: ${spread(follows)}`)
}

/** The sound bookings as a run that is checked and ready. */
async function readyRun(stack: Stack): Promise<string> {
  const text = Papa.unparse({
    fields: [...HEADINGS],
    data: soundRows().map((row) =>
      row.map((cell) => (cell !== null && typeof cell === 'object' ? cell.date : cell)),
    ),
  })
  const sheet = await stack.client.call('uploadSheet', {
    query: { name: 'sound.csv' },
    body: new TextEncoder().encode(text),
  })
  const template = (await stack.client.call('templates')).find(({ name }) => name.startsWith('Season'))
  const { id } = await stack.client.call('startRun', {
    body: { name: 'Bench', templateId: template!.id, sheetId: sheet.id, setup: { duplicates: 'allow' } },
  })
  const { mapping } = await stack.client.call('runSetup', { params: { id } })
  await stack.client.call('changeRun', {
    params: { id },
    body: { mapping: { ...mapping, first_season: 'New grower' } },
  })
  await eventually(
    async () => {
      const run = await stack.client.call('run', { params: { id } })
      // Making waits until the pages have been looked at: only making is measured.
      return (
        run.state === 'checked' && run.rows.ready > 200 && run.rows.measured >= run.rows.ready + run.rows.hand
      )
    },
    'the check',
    120,
  )
  return id
}

async function makeRun(stack: Stack): Promise<number> {
  const id = await readyRun(stack)
  const started = performance.now()
  await stack.client.call('generate', { params: { id } })
  await eventually(
    async () => {
      // Asking is work too: seldom, so that making is what is measured.
      await new Promise((resolve) => setTimeout(resolve, 250))
      return (await stack.client.call('run', { params: { id } })).state === 'generated'
    },
    'the run',
    120,
  )
  const made = performance.now()
  const { total } = await stack.client.call('agreements', { query: { run: id, limit: '1000' } })
  const listed = performance.now()
  say(
    `${total} agreements of five pages with two threads: ${((made - started) / 1000).toFixed(1)} s to stored (${(total / ((made - started) / 1000)).toFixed(1)} a second), listed in ${(listed - made).toFixed(0)} ms`,
  )
  say(
    `web server and worker together: ${(await stack.memory()).toFixed(0)} MB now (${await stack.each()}), ${stack.peak().toFixed(0)} MB at the most`,
  )
  return (made - started) / total
}

/** Begins to make a run; answers how to wait for its end, and how long it took. */
async function runBeside(stack: Stack): Promise<() => Promise<string>> {
  const id = await readyRun(stack)
  await stack.client.call('generate', { params: { id } })
  const began = performance.now()
  const ended = eventually(
    async () => {
      await new Promise((resolve) => setTimeout(resolve, 500))
      return (await stack.client.call('run', { params: { id } })).state === 'generated'
    },
    'the run',
    240,
  ).then(() => `${((performance.now() - began) / 1000).toFixed(1)} s`)
  return () => ended
}

/** The season agreement's trees for the sound bookings, as the run merges them. */
function seasonTrees() {
  const prepared = prepareTemplate(seasonAgreement)
  if (!prepared.ok) throw new Error(prepared.problems[0]!.message)
  const columns = HEADINGS.map((name, i) =>
    describeColumn(
      name,
      soundRows().map((row) => row[i] ?? null),
    ),
  )
  const fields = suppliedFields(seasonAgreement)
  const mapping = { ...suggestMapping(fields, columns), first_season: 'New grower' }
  return soundRows().map(
    (row, i) => merge(prepared.ready, readRow(fields, columns, mapping, row).data, `LP-${i}`).document,
  )
}

/** Milliseconds a document, drawn by two threads that do nothing else. */
async function drawAlone(trees: ReturnType<typeof seasonTrees>): Promise<number> {
  const pool = new PagePool(2)
  const draw = (document: (typeof trees)[number]) =>
    pool.document(document, { proof: false, at: new Date(0), look: plainLook, pictures: [] })
  await Promise.all(trees.slice(0, 8).map(draw))
  const started = performance.now()
  const left = [...trees]
  const lane = async () => {
    for (let next = left.shift(); next; next = left.shift()) await draw(next)
  }
  await Promise.all(Array.from({ length: 4 }, lane))
  const each = (performance.now() - started) / trees.length
  await pool.stop()
  return each
}

const ROUNDS = 3

/**
 * The whole way of a run against the page engine alone on the same trees, in turns, for a machine is not as fast at one
 * time as at another; and a browser's print beside both.
 */
async function compose(stack: Stack): Promise<void> {
  const trees = seasonTrees()
  const wholes: number[] = []
  const bares: number[] = []
  for (let round = 0; round < ROUNDS; round++) {
    wholes.push(await makeRun(stack))
    bares.push(await drawAlone(trees))
  }
  const middle = (times: readonly number[]) =>
    at(
      [...times].sort((a, b) => a - b),
      0.5,
    )
  const [whole, bare] = [middle(wholes), middle(bares)]
  const times = wholes.map((each, i) => (each / bares[i]!).toFixed(2)).join(', ')
  const { openBrowser } = await import('#test/support/browser.ts')
  const browser = await openBrowser()
  const page = await browser.page()
  const printed = trees.slice(0, 40)
  const began = performance.now()
  for (const tree of printed) {
    const html = finishedText(tree)
      .map((text) => `<p>${text.replace(/[&<>]/g, (sign) => `&#${sign.charCodeAt(0)};`)}</p>`)
      .join('')
    await page.setContent(`<style>body{font:11pt/1.4 serif;text-align:justify}</style>${html}`)
    await page.pdf({ format: 'Letter', tagged: true })
  }
  const print = (performance.now() - began) / printed.length
  await browser.close()
  say(
    `composing a document, both cores: the whole run ${whole.toFixed(1)} ms, the page engine alone ${bare.toFixed(1)} ms: ${(whole / bare).toFixed(2)} times (${times} by turns); Chromium’s print of the same words, one after the other, ${print.toFixed(0)} ms`,
  )
}

const COLUMNS = 40

/** A workbook of so many rows, its first columns those of the bookings. */
async function workbook(rows: number): Promise<Uint8Array> {
  const sound = soundRows()
  const out = new PassThrough()
  const chunks: Buffer[] = []
  out.on('data', (chunk: Buffer) => chunks.push(chunk))
  const writer = new ExcelJS.stream.xlsx.WorkbookWriter({
    stream: out,
    useSharedStrings: true,
    useStyles: true,
  })
  const sheet = writer.addWorksheet('Bookings')
  const more = Array.from({ length: COLUMNS - HEADINGS.length }, (_, i) => `Remark ${i + 1}`)
  sheet.addRow([...HEADINGS, ...more]).commit()
  for (let i = 0; i < rows; i++) {
    const cells = sound[i % sound.length]!.map((cell, column) =>
      column === 1
        ? `${String(cell)} ${i}`
        : cell !== null && typeof cell === 'object'
          ? new Date(`${cell.date}T00:00:00Z`)
          : cell,
    )
    const row = sheet.addRow([...cells, ...more.map((name, k) => (k % 3 ? `${name} of ${i}` : i * k))])
    row.eachCell((cell) => {
      if (cell.value instanceof Date) cell.numFmt = 'm/d/yyyy'
    })
    row.commit()
  }
  await writer.commit()
  return Buffer.concat(chunks)
}

/** Sheets of growing size: read, typed and stored; then every row checked; and the grid scrolled. */
async function sheets(stack: Stack): Promise<void> {
  const template = (await stack.client.call('templates')).find(({ name }) => name.startsWith('Season'))!
  const sizes = (process.env['BENCH_ROWS'] ?? '1000,10000,50000').split(',').map(Number)
  let large = ''
  for (const rows of sizes) {
    const bytes = await workbook(rows)
    const started = performance.now()
    const sheet = await stack.client.call('uploadSheet', { query: { name: `${rows}.xlsx` }, body: bytes })
    const read = performance.now()
    const healthy: number[] = []
    const watch = setInterval(() => {
      const asked = performance.now()
      void fetch(`${stack.url}/api/health`).then(() => healthy.push(performance.now() - asked))
    }, 100)
    const { id } = await stack.client.call('startRun', {
      body: { name: `${rows}`, templateId: template.id, sheetId: sheet.id, setup: { duplicates: 'allow' } },
    })
    await eventually(
      async () => (await stack.client.call('run', { params: { id } })).state === 'checked',
      'the check',
      300,
    )
    const checked = performance.now()
    clearInterval(watch)
    await stack.client.call('cancelRun', { params: { id } })
    say(
      `${rows} rows of ${COLUMNS} columns (${(bytes.length / 1024 / 1024).toFixed(1)} MB of XLSX): read, typed and stored in ${((read - started) / 1000).toFixed(1)} s, checked in ${((checked - read) / 1000).toFixed(1)} s; ${(((checked - started) * 1000) / rows).toFixed(0)} µs a row; meanwhile the server answered within ${Math.max(0, ...healthy).toFixed(0)} ms; ${stack.peak().toFixed(0)} MB at the most (${await stack.each()})`,
    )
    if (rows <= 10_000) large = sheet.id
  }
  await scrolling(stack, large)
}

/** Scrolls the grid of a sheet, and for comparison a plain table of as many cells, which nobody draws anew. */
async function scrolling(stack: Stack, sheetId: string): Promise<void> {
  const { openBrowser } = await import('#test/support/browser.ts')
  const browser = await openBrowser()
  const page = await browser.page()
  await page.goto(stack.url)
  await page.getByRole('button', { name: 'Ines Hallow' }).click()
  await page.getByRole('navigation', { name: 'Areas' }).waitFor()
  await page.goto(`${stack.url}/records/sheets/${sheetId}`)
  await page.getByRole('gridcell').first().waitFor()
  const session = await browser.context.newCDPSession(page)
  await session.send('Performance.enable')
  const spent = async () =>
    new Map((await session.send('Performance.getMetrics')).metrics.map(({ name, value }) => [name, value]))
  const frames = async () => {
    const before = await spent()
    // As text: what the loader adds to functions is not there in the page.
    const times = await page.evaluate<number[]>(`new Promise((resolve) => {
      const grid = document.querySelector('[role="grid"]')
      const times = []
      let last = performance.now()
      requestAnimationFrame(function frame() {
        const now = performance.now()
        times.push(now - last)
        last = now
        grid.scrollTop += 60
        if (times.length < 300) requestAnimationFrame(frame)
        else resolve(times.slice(1))
      })
    })`)
    const after = await spent()
    const each = (name: string) =>
      ((((after.get(name) ?? 0) - (before.get(name) ?? 0)) * 1000) / times.length).toFixed(1)
    return `${spread(times)}; a frame takes ${each('ScriptDuration')} ms of script, ${each('RecalcStyleDuration')} ms of style, ${each('LayoutDuration')} ms of layout, ${each('TaskDuration')} ms in all`
  }
  say(`the grid of a large sheet while it scrolls 60 pixels a frame, between frames: ${await frames()}`)
  await page.setContent(
    `<div role="grid" style="height:600px;overflow:auto"><table>${'<tr>'.concat('<td>Remark of 1</td>'.repeat(12), '</tr>').repeat(1500)}</table></div>`,
  )
  say(`a plain table of as many columns, likewise: ${await frames()}`)
  await browser.close()
}

function expressions(): void {
  const text = 'if land.leased and total > 80000 then "a" else "b"'
  const compiled = compileExpression(text)
  if (!compiled.ok) throw new Error(compiled.problem.message)
  const record = new Map<string, never>(
    Object.entries({ total: number('82400'), land: new Map([['leased', true]]) }) as never,
  )
  const time = (runs: number, act: () => unknown) => {
    for (let i = 0; i < runs / 10; i++) act()
    const started = performance.now()
    for (let i = 0; i < runs; i++) act()
    return ((performance.now() - started) * 1000) / runs
  }
  const ours = time(200_000, () => compiled.expression.evaluate(record))
  const theirs = time(2000, () => reference(text, { total: 82400, land: { leased: true } }))
  say(
    `an expression: ${ours.toFixed(2)} µs compiled, ${time(2000, () => compileExpression(text)).toFixed(0)} µs to compile; feelin ${theirs.toFixed(0)} µs a call`,
  )
}

async function bundle(): Promise<void> {
  const folder = 'dist/web/assets'
  const names = (await readdir(folder)).filter((name) => name.endsWith('.js'))
  const files = await Promise.all(
    names.map(async (name) => ({
      name,
      size: (await stat(join(folder, name))).size,
      gzip: gzipSync(await readFile(join(folder, name))).length,
    })),
  )
  for (const { name, size, gzip } of files.sort((a, b) => b.size - a.size).slice(0, 6))
    say(`  ${name}: ${(size / 1024).toFixed(0)} KB, ${(gzip / 1024).toFixed(0)} KB compressed`)
  const signing = await scriptsOf('sign.html')
  const compressed = signing.reduce((sum, name) => sum + files.find((file) => file.name === name)!.gzip, 0)
  say(
    `  signing page, before its exact pages: ${signing.length} files, ${(compressed / 1000).toFixed(0)} kB compressed`,
  )
}

/** The scripts that a document of the build loads at first: its own, and all they import at once. */
async function scriptsOf(document: string): Promise<readonly string[]> {
  const folder = 'dist/web/assets'
  const seen = new Set<string>()
  const take = async (name: string): Promise<void> => {
    if (seen.has(name)) return
    seen.add(name)
    const text = await readFile(join(folder, name), 'utf8')
    for (const [, next] of text.matchAll(/(?:from|import)\s*["'`]\.\/([\w.~-]+\.js)["'`]/g)) await take(next!)
  }
  const html = await readFile(`dist/web/${document}`, 'utf8')
  for (const [, entry] of html.matchAll(/assets\/([\w.~-]+\.js)/g)) await take(entry!)
  return [...seen]
}

/** One agreement that is out, and the link of its first signer. */
async function sentOne(ines: Client, at: number): Promise<{ id: string; token: string }> {
  const templateId = (await ines.call('templates')).find(({ name }) => name.startsWith('Season'))!.id
  const { records } = await ines.call('records', { params: { kind: 'customer' } })
  for (const customer of records.slice(at)) {
    const { id } = await ines.call('makeOneAgreement', {
      params: { kind: 'customer', id: customer.id },
      body: { templateId, answers: SEASON_ANSWERS, occasion: randomUUID(), another: true },
    })
    const made = await ines.call('agreement', { params: { id } })
    if (made.state !== 'cleared') continue
    await ines.call('sendAgreements', { body: { agreements: [id] } })
    return { id, token: await linkIn(ines, partyOf(made, 'Grower').email) }
  }
  throw new Error('No agreement goes out without an approval.')
}

/** Lines of telephones: milliseconds there and back, and bits a second. */
const LINES = {
  'slow 4G as page audits have it (150 ms, 1.6 Mbit/s)': { latency: 150, down: 1.6e6, up: 750e3 },
  'slow 4G as the browser’s own tools have it (563 ms, 1.4 Mbit/s)': {
    latency: 562.5,
    down: 1.44e6,
    up: 675e3,
  },
} as const

/** From a touch on the link until the first page of a signer can be read, by a telephone with a quarter of this machine’s speed. */
async function onPhone(stack: Stack): Promise<void> {
  const { openBrowser } = await import('#test/support/browser.ts')
  const ines = await Client.signedIn(stack.url, 'ines.hallow')
  const { token } = await sentOne(ines, 0)
  say('A signer’s first page on a telephone, nothing kept from before, CPU at a quarter:')
  for (const [name, { latency, down, up }] of Object.entries(LINES)) {
    const times: number[] = []
    for (let i = 0; i < 5; i++) {
      const browser = await openBrowser({ width: 390, height: 844 })
      const page = await browser.page()
      const tools = await browser.context.newCDPSession(page)
      await tools.send('Network.enable')
      await tools.send('Network.emulateNetworkConditions', {
        offline: false,
        latency,
        downloadThroughput: down / 8,
        uploadThroughput: up / 8,
      })
      await tools.send('Emulation.setCPUThrottlingRate', { rate: 4 })
      // As text: what is compiled has names that the page does not know.
      await page.addInitScript({
        content: `(function look() {
          if (document.querySelector('main h1')) requestAnimationFrame(() => (window.name = String(performance.now())))
          else requestAnimationFrame(look)
        })()`,
      })
      await page.goto(`${stack.url}/sign/${token}`)
      await page.waitForFunction(() => window.name !== '')
      times.push(Number(await page.evaluate(() => window.name)))
      await browser.close()
    }
    times.sort((a, b) => a - b)
    say(`  ${name}: median ${(times[2]! / 1000).toFixed(2)} s, most ${(times[4]! / 1000).toFixed(2)} s`)
  }
}

/** How the web server answers while agreements are stamped and sealed, and how long each takes in the worker. */
async function executing(stack: Stack): Promise<void> {
  const many = Number(process.env['BENCH_AGREEMENTS'] ?? 60)
  const ines = await Client.signedIn(stack.url, 'ines.hallow')
  // One for all: each new one reads the API's description first.
  const signer = new Client(stack.url)
  const ready: string[] = []
  for (let i = 0; i < many; i++) ready.push((await sentOne(ines, i)).id)
  // All but the last signature first, so that the last ones come together.
  const last: string[] = []
  for (const id of ready)
    for (;;) {
      const { parties } = await ines.call('agreement', { params: { id } })
      const open = parties.filter(({ signedAt, kind }) => !signedAt && kind === 'signer')
      const party = open.find(({ invitedAt }) => invitedAt)!.id
      const { path } = await ines.call('handDevice', { params: { id, party } })
      const token = path.split('/').at(-1)!
      if (open.length === 1) {
        last.push(token)
        break
      }
      await signAs(signer, token)
    }
  const answers: number[] = []
  let going = true
  const asking = (async () => {
    while (going) {
      const begun = performance.now()
      await (await fetch(`${stack.url}/api/signing/${last[0]!}`)).arrayBuffer()
      answers.push(performance.now() - begun)
      await new Promise((resolve) => setTimeout(resolve, 20))
    }
  })()
  const begun = performance.now()
  for (const token of last) await signAs(signer, token)
  await eventually(
    async () => (await ines.call('agreements', { query: { state: 'executed' } })).total === many,
    'all sealed',
    600,
  )
  const seconds = (performance.now() - begun) / 1000
  going = false
  await asking
  say(
    `${many} agreements: last signature to all sealed ${seconds.toFixed(1)} s (${((seconds * 1000) / many).toFixed(0)} ms each, signing through the API included)`,
  )
  say(`  a signer’s page meanwhile: ${spread(answers)}`)
}

/** A table as a desk would have it: bands of totals by crop and land, some rows on top; and one of boxes thrown at random. */
function ruleTables(rows: number) {
  const random = seeded(7)
  const expressions = [
    'total',
    'discount',
    'payment_days',
    'bloom',
    'land.leased',
    'crop',
    'county',
    'agreement.documents',
  ]
  const banded = Array.from({ length: rows }, (_, i) => {
    const [low, high] = [Math.floor(i / 6) * 3000, (Math.floor(i / 6) + 1) * 3000]
    const cells = [
      `[${low}..${high})`,
      '-',
      '-',
      '-',
      i % 2 ? 'true' : 'false',
      ['"almonds"', '"cherries"', '"apples"'][i % 3]!,
    ]
    if (i % 17 === 3) return ['-', `> ${random.between(5, 40)}`, '-', '-', '-', '-', '-', '-', 'sales lead']
    if (i % 23 === 5)
      return ['-', '-', `> ${random.between(30, 90)}`, '-', '-', '-', '"Kern"', '> 2', 'finance']
    return [...cells, '-', '-', random.pick(['legal', 'finance', 'sales lead'])]
  })
  const span = (most: number) =>
    random.next() < 0.35
      ? '-'
      : random.pick([
          `> ${random.between(0, most)}`,
          `<= ${random.between(0, most)}`,
          `[${random.between(0, most / 2)}..${random.between(most / 2, most)}]`,
        ])
  const thrown = Array.from({ length: rows }, () => [
    span(100_000),
    span(30),
    span(90),
    random.next() < 0.4 ? '-' : `>= date("2027-0${random.between(1, 9)}-${random.between(10, 28)}")`,
    random.pick(['-', 'true', 'false']),
    random.pick(['-', '"almonds"', 'not("apples")']),
    random.pick(['-', '"Kern"', '"Tulare"']),
    span(500),
    random.pick(['legal', 'finance', 'sales lead']),
  ])
  return { banded: tableOf('collect', expressions, banded), thrown: tableOf('unique', expressions, thrown) }
}

function analysis(): void {
  for (const rows of [20, 200])
    for (const [kind, table] of Object.entries(ruleTables(rows))) {
      const times: number[] = []
      let told = analyse(table, seasonNames)
      for (let i = 0; i < 15; i++) {
        const started = performance.now()
        told = analyse({ ...table, name: String(i) }, seasonNames)
        times.push(performance.now() - started)
      }
      say(
        `analysis, ${rows} rows over 8 columns, ${kind}: ${spread(times)}; ${told.findings.length} findings${told.limits.length ? ', not all looked through' : ''}`,
      )
    }
}

/** Rows of a run checked with and without rules, on one thread: the difference is the routing. */
function routing(): void {
  const season = tableOf(
    'collect',
    ['total', 'discount', 'payment_days', 'land.leased', 'organic'],
    Array.from({ length: 20 }, (_, i) => [
      i % 4 === 0 ? `> ${20_000 + i * 4000}` : '-',
      i % 4 === 1 ? `> ${i}` : '-',
      i % 4 === 2 ? `> ${15 + i}` : '-',
      i % 4 === 3 ? 'true' : '-',
      i % 5 === 0 ? 'false' : '-',
      ['legal', 'finance', 'sales lead', 'operations director'][i % 4]!,
    ]),
    { missing: 'does not hold' },
  )
  const columns = HEADINGS.map((name, i) =>
    describeColumn(
      name,
      soundRows().map((row) => cellOf(row[i]!)),
    ),
  )
  const rows = Array.from({ length: 10_000 }, (_, i) => {
    const row = soundRows()[i % 200]!
    return { rows: [{ row: i + 2, cells: row.map(cellOf) }], answers: {} }
  })
  const terms = (tables: readonly TableInForce[]): RunTerms => ({
    contents: [seasonAgreement],
    columns,
    mapping: { ...suggestMapping(suppliedFields(seasonAgreement), columns), first_season: 'New grower' },
    setup: plainSetup,
    rules: {
      tables,
      directory: larkmere,
      facts: { author: { name: 'Ines Hallow', post: '', teams: [] }, from: 'sheet', rows: 10_000 },
    },
    today: '2026-11-26',
    sender: null,
    files: [],
  })
  const timed = (tables: readonly TableInForce[]) => {
    const check = rowChecker(terms(tables))
    rows.slice(0, 500).forEach(check)
    const started = performance.now()
    const approvals = rows.map(check).reduce((sum, each) => sum + each.approvals.length, 0)
    return { ms: performance.now() - started, approvals }
  }
  const without = timed([])
  const ruled = timed([{ id: 't', edition: 1, table: season }])
  say(
    `routing 10,000 rows by 20 rows of a table, one thread: ${(ruled.ms - without.ms).toFixed(0)} ms (checks with rules ${ruled.ms.toFixed(0)}, without ${without.ms.toFixed(0)}); ${ruled.approvals} approvals`,
  )
}

const cellOf = (cell: BookingCell): Cell => cell

async function lookingBack(stack: Stack): Promise<void> {
  const templateId = (await stack.client.call('templates')).find(({ name }) => name.startsWith('Season'))!.id
  const { records } = await stack.client.call('records', { params: { kind: 'customer' } })
  const answers = {
    season: '2027',
    'bloom.start': '2027-03-20',
    'bloom.end': '2027-04-02',
    first_season: 'no',
    colonies: '420',
    frames: '8',
    price_per_colony: '210',
    payment_days: '30',
  }
  const { id } = await stack.client.call('makeOneAgreement', {
    params: { kind: 'customer', id: records[0]!.id },
    body: { templateId, answers, occasion: randomUUID(), another: true },
  })
  const base = (process.env['DATABASE_OWNER_URL'] || process.env['DATABASE_URL'])!.replace(
    /\/[^/]*$/,
    '/bench',
  )
  const db = new pg.Client({ connectionString: base })
  await db.connect()
  await db.query(
    'create temporary table copies as select gen_random_uuid() as id, n from generate_series(1, 10000) as n',
  )
  await db.query(
    `insert into claim (id, series_id, number, origin, occasion) select copies.id, series_id, 100000 + n, origin, 'bench ' || n from copies, claim where claim.id = $1`,
    [id],
  )
  const { rows } = await db.query<{ column_name: string }>(
    `select column_name from information_schema.columns where table_name = 'agreement' and column_name not in ('id', 'number', 'data')`,
  )
  const rest = rows.map(({ column_name }) => `"${column_name}"`).join(', ')
  await db.query(
    `insert into agreement (id, number, data, ${rest}) select copies.id, 'B-' || n, jsonb_set(data, '{colonies}', to_jsonb((n % 900)::text)), ${rest} from copies, agreement where agreement.id = $1`,
    [id],
  )
  await db.end()
  const [table] = await stack.client.call('rules')
  const { draft } = await stack.client.call('ruleTable', { params: { id: table!.id } })
  // Asked as a browser asks: the client of the tests holds every answer against its schema besides.
  const signIn = await fetch(`${stack.url}/api/demo-session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email: 'ines.hallow@larkmere.example' }),
  })
  const signedIn = signIn.headers.getSetCookie()[0]!.split(';')[0]!
  const times: number[] = []
  let asked = 0
  for (let i = 0; i < 5; i++) {
    const started = performance.now()
    const response = await fetch(`${stack.url}/api/rules/${table!.id}/look-back`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', cookie: signedIn },
      body: JSON.stringify({ draft }),
    })
    const looked = (await response.json()) as { agreements: { draft: string[] }[] }
    times.push(performance.now() - started)
    asked = looked.agreements.filter((each) => each.draft.length).length
  }
  say(`look back over 10,000 agreements, answer read: ${spread(times)}; ${asked} would be asked for`)
}

/** 240 two-page forms laid over and written, beside as many written agreements, on two threads. */
async function forms(): Promise<void> {
  const AT = new Date(0)
  const pages = new PagePool(2)
  const brought = await pages.bringIn(await healthDeclarationPdf())
  if (!brought.ok) throw new Error(brought.problem)
  const name = 'health'
  const content = healthDeclarationForm({ file: name, pages: brought.pages, fields: brought.fields })
  const prepared = prepareTemplate(content)
  if (!prepared.ok) throw new Error(prepared.problems[0]!.message)
  const bytes = new Uint8Array(new SharedArrayBuffer(brought.pdf.length))
  bytes.set(brought.pdf)
  const options = { proof: false, at: AT, look: plainLook, pictures: [], files: [{ name, bytes }] }
  const laid = Array.from({ length: 240 }, (_, i) =>
    merge(
      prepared.ready,
      { season: '2027', colonies: String(80 + i), 'orchard.county': `County ${i}` },
      null,
    ),
  )
  const rate = async (documents: readonly FinishedDocument[]) => {
    await Promise.all(documents.slice(0, 4).map((document) => pages.document(document, options)))
    const started = performance.now()
    await Promise.all(documents.map((document) => pages.document(document, options)))
    return (documents.length / (performance.now() - started)) * 1000
  }
  const [form, written] = [await rate(laid.map(({ document }) => document)), await rate(seasonTrees())]
  say(`two-page forms: ${form.toFixed(1)} a second; season agreements: ${written.toFixed(1)} a second`)
  await pages.stop()
}

/** Stamps and seals one five-page agreement again and again, on one thread: time a file, memory, and whether it grows. */
async function sealing() {
  const AT = new Date()
  const pages = new PagePool(1)
  const means = await openSealing('Larkmere Pollination', AT)
  const composed = await pages.document(seasonTrees()[0]!, {
    proof: false,
    at: AT,
    look: plainLook,
    pictures: [],
  })
  const stamps = composed.blanks.map((blank) => ({
    blank,
    value: { kind: 'typed' as const, text: blank.kind === 'initials' ? 'ME' : 'Tobias Renn' },
  }))
  const one = () =>
    pages.seal({
      pdf: composed.pdf,
      stamps,
      evidence: someEvidence(AT),
      pages: saidEvidence(AT),
      means: means.means,
      by: { name: 'Larkmere Pollination', location: 'Larkmere', contact: 'desk@larkmere.example' },
      reason: 'Executed',
      at: AT,
    })
  await one()
  const times: number[] = []
  const memory: number[] = []
  const count = Number(process.env['BENCH_SEALS'] ?? 1000)
  for (let i = 0; i < count; i++) {
    const started = performance.now()
    await one()
    times.push(performance.now() - started)
    if (i % 100 === 99) memory.push(process.memoryUsage().rss / 1_048_576)
  }
  const tenth = Math.max(1, Math.floor(count / 10))
  say(
    `stamped and sealed, ${composed.pages} pages with ${stamps.length} places, one thread: ${spread(times)}`,
  )
  say(`  the first tenth ${spread(times.slice(0, tenth))}; the last ${spread(times.slice(-tenth))}`)
  say(`  memory of the process in MB, every hundred: ${memory.map((each) => each.toFixed(0)).join(', ')}`)
  await pages.stop()
  await means.close()
}

const asked = process.argv.slice(2)
const wanted = (name: string) => asked.length === 0 || asked.includes(name)

if (wanted('expressions')) expressions()
if (wanted('bundle')) await bundle()
if (wanted('sealing')) await sealing()
if (wanted('forms')) await forms()
if (wanted('rules')) {
  analysis()
  routing()
}
if (
  ['proofs', 'run', 'typing', 'compose', 'sheets', 'rules', 'phone', 'executing', 'editor', 'starts'].some(
    wanted,
  )
) {
  const stack = await startStack()
  try {
    if (wanted('rules')) await lookingBack(stack)
    if (wanted('proofs')) {
      await proofs(stack)
      await proofsInBrowser(stack)
    }
    if (wanted('typing')) await typing(stack)
    if (wanted('starts')) await starts(stack.url, stack.client, () => runBeside(stack), say)
    if (wanted('editor')) await formEditor(stack.url, stack.client, say)
    // The comparison makes a run itself.
    if (wanted('compose')) await compose(stack)
    else if (wanted('run')) await makeRun(stack)
    if (wanted('sheets')) await sheets(stack)
    if (wanted('phone')) await onPhone(stack)
    if (wanted('executing')) await executing(stack)
  } finally {
    await stack.stop()
  }
}
process.exit(0)
