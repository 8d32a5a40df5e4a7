import { keysOf } from '#core/keys-of.ts'
import { readFile } from 'node:fs/promises'
import { expect } from 'chai'
import fc from 'fast-check'
import { api } from '#contract/api.ts'
import type { Route } from '#contract/route.ts'
import { people } from '#demo/people.ts'
import { docx, ods, xlsx } from '#test/support/hostile-files.ts'
import { type Processes, startProcesses } from '#test/support/processes.ts'

// So many of each, from fixed seeds: none may end a process, be answered by 500, or be without an answer after a minute.
const [REQUESTS, FILES, NAMES] = [2000, 500, 200]
const SLOWEST = 60_000
const SIDE_BY_SIDE = 4

const routes = keysOf(api)
  .map((name) => ({ name, route: api[name] as Route }))
  // Events have no end of their own; ending the session would end the test.
  .filter(({ name }) => !['runEvents', 'signOut'].includes(name))

describe('two thousand made-up requests, five hundred broken files, two hundred hostile names', () => {
  let processes: Processes
  const cookies: string[] = []
  let [answers, slowest] = [0, 0]

  before(async function () {
    this.timeout(120_000)
    processes = await startProcesses('many')
    for (const { email } of people) {
      const response = await fetch(`${processes.url}/api/demo-session`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ email }),
      })
      cookies.push(response.headers.getSetCookie()[0]!.split(';')[0]!)
    }
  })
  after(async function () {
    this.timeout(30_000)
    await processes.stop()
  })

  async function send(method: string, path: string, cookie: string, body?: string | Uint8Array) {
    const began = performance.now()
    const response = await fetch(`${processes.url}${path}`, {
      method,
      headers: {
        cookie,
        ...(body === undefined
          ? {}
          : { 'content-type': typeof body === 'string' ? 'application/json' : 'application/octet-stream' }),
      },
      ...(body === undefined
        ? {}
        : { body: typeof body === 'string' ? body : new Blob([body as Uint8Array<ArrayBuffer>]) }),
    })
    const text = await response.text()
    const took = performance.now() - began
    answers++
    slowest = Math.max(slowest, took)
    expect(response.status, `${method} ${path.slice(0, 200)}: ${text.slice(0, 300)}`).to.be.below(500)
    expect(took, `${method} ${path.slice(0, 200)}`).to.be.below(SLOWEST)
    return { status: response.status, text }
  }

  /** Some at a time, in order. */
  async function each<T>(all: readonly T[], act: (one: T, at: number) => Promise<unknown>) {
    let next = 0
    const lane = async () => {
      for (let at = next++; at < all.length; at = next++) await act(all[at]!, at)
    }
    await Promise.all(Array.from({ length: SIDE_BY_SIDE }, lane))
    expect(processes.ends).to.deep.equal([])
    await processes.heldUp()
  }

  it('requests of every route, by everybody, with whatever people could send', async function () {
    this.timeout(900_000)
    const odd = fc.oneof(
      fc.string({ unit: 'binary', maxLength: 40 }),
      fc.constantFrom(
        '',
        'null',
        '-1',
        '1e999',
        '../..',
        '%',
        '\u202e',
        'constructor',
        '__proto__',
        '0'.repeat(500),
        '{{',
        '[[[',
        ')('.repeat(200),
      ),
      fc.uuid(),
      fc.integer().map(String),
    )
    const made = fc.record({
      at: fc.nat(),
      who: fc.nat(),
      params: fc.array(odd, { minLength: 4, maxLength: 4 }),
      query: fc.dictionary(
        fc.constantFrom(
          'where',
          'search',
          'sort',
          'limit',
          'offset',
          'kind',
          'state',
          'name',
          'format',
          'part',
          'sheet',
          'x',
        ),
        odd,
        { maxKeys: 4 },
      ),
      body: fc.oneof(
        fc.json({ maxDepth: 4 }),
        fc.string({ unit: 'binary', maxLength: 200 }),
        fc.constant('{"a":'.repeat(300)),
      ),
    })
    await each(fc.sample(made, { numRuns: REQUESTS, seed: 41 }), async ({ at, who, params, query, body }) => {
      const { route } = routes[at % routes.length]!
      let param = 0
      const path = route.path.replace(/:(\w+)/g, (_, name: string) =>
        encodeURIComponent(
          name === 'kind'
            ? ['customer', 'deal', 'contact', 'price'][at % 4]!
            : params[param++ % 4]!.toWellFormed(),
        ),
      )
      const asked = new URLSearchParams(
        Object.entries(query).map(([key, value]) => [key, value.toWellFormed()]),
      )
      await send(
        route.method,
        `/api${path}?${asked.toString()}`,
        cookies[who % cookies.length]!,
        route.method === 'GET' || route.method === 'DELETE'
          ? undefined
          : route.upload
            ? Buffer.from(body)
            : body.toWellFormed(),
      )
    })
  })

  it('files of every kind with bytes changed, cut off, doubled and put elsewhere', async function () {
    this.timeout(900_000)
    const whole = [
      {
        name: 'a.xlsx',
        bytes: new Uint8Array(await readFile('demo/sheets/bookings-2027.xlsx')),
        to: 'sheets',
      },
      { name: 'a.csv', bytes: new Uint8Array(await readFile('demo/sheets/bookings-2027.csv')), to: 'sheets' },
      { name: 'b.xlsx', bytes: await xlsx({}), to: 'sheets' },
      {
        name: 'c.ods',
        bytes: await ods(
          '<table:table-row><table:table-cell office:value-type="string"><text:p>Name</text:p></table:table-cell></table:table-row>',
        ),
        to: 'sheets',
      },
      {
        name: 'd.json',
        bytes: new TextEncoder().encode('[{"grower":{"name":"Brightwater"},"lines":[{"a":1}]}]'),
        to: 'sheets',
      },
      {
        name: 'e.docx',
        bytes: await docx('<w:p><w:r><w:t>Between {{grower.name}} and us</w:t></w:r></w:p>'),
        to: 'template-imports',
      },
    ]
    const change = fc.record({
      which: fc.nat(),
      acts: fc.array(
        fc.record({
          act: fc.constantFrom('flip', 'cut', 'double', 'zero', 'word'),
          at: fc.double({ min: 0, max: 1, noNaN: true }),
          by: fc.nat(255),
          length: fc.nat(64),
        }),
        { minLength: 1, maxLength: 6 },
      ),
    })
    const words = ['1e999', '-1', '99999999999', '"', '<a>', ']]>', '&#0;', 'ZZZZZZ9'].map((word) =>
      Buffer.from(word),
    )
    await each(fc.sample(change, { numRuns: FILES, seed: 42 }), async ({ which, acts }, i) => {
      const { name, bytes, to } = whole[which % whole.length]!
      let file = Buffer.from(bytes)
      for (const { act, at, by, length } of acts) {
        const place = Math.floor(at * (file.length - 1))
        if (act === 'flip' && file.length) file[place] = file[place]! ^ (by || 1)
        else if (act === 'zero') file.fill(0, place, Math.min(file.length, place + length))
        else if (act === 'cut') file = Buffer.from(file.subarray(0, Math.max(1, place)))
        else if (act === 'double')
          file = Buffer.concat([file.subarray(0, place + length), file.subarray(place)])
        else words[by % words.length]!.copy(file, place)
      }
      await send('POST', `/api/${to}?name=${i}${encodeURIComponent(name)}`, cookies[0]!, file)
    })
  })

  it('names that turn, hide, break and pretend, through the record book and back', async function () {
    this.timeout(300_000)
    const nasty = [
      'Paren ) Farm',
      '=cmd|calc!A1',
      '\u202eFDP.exe',
      '\u200b\u200b',
      '<script>alert(1)</script>',
      '"; drop table person; --',
      '../../etc/passwd',
      'CON',
      'A\r\nBcc: all@elsewhere.example',
      '{{grower.name}}',
      '${1}',
      '%s%n',
      '\u0000x',
      'a'.repeat(5000),
      'é',
      'e\u0301',
      'İ',
      'ﬀ',
      '👩‍👩‍👧‍👦',
      '田'.repeat(300),
      'constructor',
      '__proto__',
      'null',
      'NaN',
    ]
    const names = [
      ...nasty,
      ...fc.sample(fc.string({ unit: 'binary', minLength: 1, maxLength: 120 }), {
        numRuns: NAMES - nasty.length,
        seed: 43,
      }),
    ]
    let kept = 0
    await each(names, async (name) => {
      const { status, text } = await send(
        'POST',
        '/api/records/customer',
        cookies[0]!,
        JSON.stringify({ data: { name: name.toWellFormed() }, customer: null }),
      )
      if (status !== 200) return
      kept++
      const { id, name: shown } = JSON.parse(text) as { id: string; name: string }
      expect(shown.length).to.be.greaterThan(0)
      await send('GET', `/api/records/customer/one/${id}`, cookies[0]!)
      await send(
        'GET',
        `/api/records/customer?search=${encodeURIComponent(name.slice(0, 40).toWellFormed())}&limit=5`,
        cookies[0]!,
      )
    })
    expect(kept).to.be.greaterThan(NAMES / 2)
    for (const format of ['csv', 'xlsx'])
      await send('GET', `/api/records/customer/export?format=${format}`, cookies[0]!)
  })

  it('were all answered, within the memory there is', async () => {
    expect(answers).to.be.greaterThan(REQUESTS + FILES + NAMES)
    expect(processes.ends).to.deep.equal([])
    const { web, worker } = await processes.memory()
    expect(
      web + worker,
      `web ${web} MB, worker ${worker} MB, slowest answer ${Math.round(slowest)} ms`,
    ).to.be.below(700)
  })
})
