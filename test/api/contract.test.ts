import { expect } from 'chai'
import fc from 'fast-check'
import { api, type RouteName } from '#contract/api.ts'
import type { Right } from '#contract/person.ts'
import { SCOPES } from '#contract/scope.ts'
import { type Route, scopeOf } from '#contract/route.ts'
import { colonySale } from '#demo/colony-sale.ts'
import { people } from '#demo/people.ts'
import { seasonAgreement } from '#demo/season-agreement.ts'
import { type Running, startApp } from '#test/support/running.ts'

const routes = Object.entries(api).map(([name, route]) => ({
  name: name as RouteName,
  route: route as Route,
}))
const SOME_ID = '0b8ad9a6-3c1f-4a55-9b7e-2f1d6c3e4a10'
/** Ends sessions or the people that tests sign in with. */
const ENDING = new Set<string>(['signOut'])

const isForPrograms = ({ access }: Route): boolean => scopeOf(access) !== null

/** The right that a route asks for; of those that ask for none, any person will do. */
const rightOf = ({ access }: Route): Right =>
  typeof access === 'object' && 'right' in access ? access.right : 'templates'

/** A path with every parameter given. */
const pathOf = (route: Route, value: (name: string) => string = () => SOME_ID) =>
  `/api${route.path.replace(/:(\w+)/g, (_, name: string) => encodeURIComponent(name === 'kind' ? 'customer' : value(name)))}`

/** A copy of which one part, any of them, is another value; and where that is. */
function changedAt(whole: unknown, seed: number, value: unknown): { body: unknown; path: string } {
  const body = structuredClone(whole) as object
  const places: { holder: Record<string, unknown>; key: string; path: string }[] = []
  const visit = (holder: object, path: string) => {
    for (const [key, part] of Object.entries(holder)) {
      places.push({ holder: holder as Record<string, unknown>, key, path: `${path}/${key}` })
      if (typeof part === 'object' && part !== null) visit(part as object, `${path}/${key}`)
    }
  }
  visit(body, '')
  const { holder, key, path } = places[seed % places.length]!
  holder[key] = value
  return { body, path }
}

describe('every route of the contract', () => {
  let running: Running
  const cookies = new Map<string, string>()
  let key = ''

  const signIn = async (email: string) => {
    const response = await fetch(`${running.url}/api/demo-session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ email }),
    })
    cookies.set(email, response.headers.getSetCookie()[0]!.split(';')[0]!)
  }
  const send = (
    route: Route,
    path: string,
    cookie: string | undefined,
    body?: string | Uint8Array<ArrayBuffer>,
  ) =>
    fetch(`${running.url}${path}`, {
      method: route.method,
      headers: {
        ...(cookie && !isForPrograms(route) ? { cookie } : {}),
        // Programs bring a key where people bring a cookie.
        ...(cookie && isForPrograms(route) ? { authorization: `Bearer ${key}` } : {}),
        ...(body === undefined
          ? {}
          : { 'content-type': typeof body === 'string' ? 'application/json' : 'application/octet-stream' }),
      },
      ...(body === undefined ? {} : { body: typeof body === 'string' ? body : new Blob([body]) }),
    })
  const expectRefusal = async (response: Response, what: string) => {
    expect(response.status, what).to.be.within(400, 499)
    expect(response.headers.get('content-type'), what).to.match(/^application\/problem\+json/)
    const problem = (await response.json()) as Record<string, unknown>
    // RFC 9457, 3.1: the members a problem has, and that the status is that of the answer.
    expect(problem['status'], what).to.equal(response.status)
    for (const member of ['type', 'title', 'detail'])
      expect(problem[member], `${what}: ${member}`).to.be.a('string')
  }
  const withRight = (right: Right) => people.find(({ rights }) => rights.includes(right))!
  const without = (right: Right) => people.find(({ rights }) => !rights.includes(right))

  before(async () => {
    running = await startApp('contract', { sheet: false, worker: false })
    for (const { email } of people) await signIn(email)
    const made = await fetch(`${running.url}/api/keys`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', cookie: cookies.get(withRight('settings').email)! },
      body: JSON.stringify({ name: 'Every scope', scopes: SCOPES, days: null }),
    })
    key = ((await made.json()) as { secret: string }).secret
  })
  after(() => running?.stop())

  it('that is for people asks who is there', async () => {
    for (const { name, route } of routes) {
      if (route.access === 'anyone' || route.access === 'signing link') continue
      const response = await send(route, pathOf(route), undefined)
      expect(response.status, name).to.equal(401)
      await expectRefusal(response, name)
    }
  })

  it('that a link opens is shut to whoever has none, and tells nothing of what is behind it', async () => {
    const linked = routes.filter(({ route }) => route.access === 'signing link')
    expect(linked.length).to.be.greaterThan(15)
    for (const token of ['x'.repeat(43), SOME_ID, 'y'.repeat(22)])
      for (const { name, route } of linked) {
        const response = await fetch(
          `${running.url}${pathOf(route, (part) => (part === 'token' ? token : SOME_ID))}`,
          {
            method: route.method,
            ...(route.method === 'GET'
              ? {}
              : { body: '{}', headers: { 'content-type': 'application/json' } }),
          },
        )
        expect(response.status, `${name} by ${token}`).to.be.within(400, 499)
        const said = JSON.stringify(await response.json())
        for (const { name: person, email } of people)
          for (const known of [person, email]) expect(said, name).to.not.contain(known)
      }
  })

  it('that needs a right refuses who lacks it, before anything that was sent is read', async () => {
    let tried = 0
    for (const { name, route } of routes) {
      const person =
        typeof route.access === 'object' && 'right' in route.access ? without(route.access.right) : undefined
      if (!person) continue
      const response = await send(
        route,
        pathOf(route),
        cookies.get(person.email),
        route.method === 'GET' ? undefined : '{"no": ',
      )
      expect(response.status, name).to.equal(403)
      await expectRefusal(response, name)
      tried++
    }
    expect(tried).to.be.greaterThan(40)
  })

  it('says in words that there is nothing at an address that nothing has', async () => {
    const odd = ['nothing', "'; drop table person; --", '../../etc/passwd', '%00', '💐', 'x'.repeat(3000)]
    for (const { name, route } of routes) {
      if (!/:(?!kind)/.test(route.path) || ENDING.has(name)) continue
      const cookie = cookies.get(withRight(rightOf(route)).email)
      for (const value of odd) {
        const response = await send(
          route,
          pathOf(route, () => value),
          cookie,
          route.body ? '{}' : undefined,
        )
        await expectRefusal(response, `${name} with ${value.slice(0, 40)}`)
      }
    }
  })

  it('refuses what is no JSON, and JSON of another shape, naming the part', async () => {
    for (const { name, route } of routes) {
      if (!route.body || route.upload || ENDING.has(name)) continue
      const cookie = cookies.get(withRight(rightOf(route)).email)
      for (const body of ['{"a": ', '[]', '"words"', 'null', '{"__proto__": {"admin": true}}']) {
        const response = await send(route, pathOf(route), cookie, body)
        expect(response.status, `${name} with ${body}`).to.be.lessThan(500)
        if (!response.ok) await expectRefusal(response, `${name} with ${body}`)
      }
    }
  })

  it('fails with no body that somebody makes up', async function () {
    this.timeout(120_000)
    const bodied = routes.filter(({ name, route }) => route.body && !route.upload && !ENDING.has(name))
    const keys = fc.constantFrom(
      ...[
        'id',
        'name',
        'title',
        'version',
        'content',
        'rules',
        'data',
        'setup',
        'columns',
        'cells',
        'rows',
        'body',
      ],
      ...[
        'templateId',
        'sheetId',
        'type',
        'attrs',
        'outline',
        'roles',
        'conditions',
        'where',
        'ids',
        'templates',
      ],
    )
    const value = fc.letrec((tie) => ({
      any: fc.oneof(
        { depthSize: 'small' },
        fc.constantFrom(
          null,
          true,
          0,
          -1,
          1e308,
          '',
          SOME_ID,
          'customer',
          '__proto__',
          '\u0000',
          '🐝'.repeat(200),
        ),
        fc.string(),
        fc.array(tie('any'), { maxLength: 4 }),
        fc.dictionary(keys, tie('any'), { maxKeys: 5 }),
      ),
    })).any
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...bodied.map(({ name }) => name)),
        fc.dictionary(keys, value, { maxKeys: 8 }),
        async (name, body) => {
          const route = api[name] as Route
          const right = rightOf(route)
          const response = await send(
            route,
            pathOf(route),
            cookies.get(withRight(right).email),
            JSON.stringify(body),
          )
          expect(response.status, `${name}: ${JSON.stringify(body)}`).to.be.lessThan(500)
          if (!response.ok) await expectRefusal(response, name)
          else await response.arrayBuffer()
        },
      ),
      { numRuns: 400 },
    )
  })

  it('fails with no template of which some part was changed into something else', async function () {
    this.timeout(180_000)
    const cookie = cookies.get(withRight('templates').email)
    const proof = api.proof as Route
    let drawn = 0
    const { rows } = await running.app.pool.query<{ id: string }>('select id from template')
    const bodies = [colonySale, seasonAgreement].map((content) => ({
      templateId: rows[0]!.id,
      sheetId: null,
      row: null,
      content,
    }))
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...bodies.keys()),
        fc.nat(),
        fc.constantFrom(
          null,
          0,
          -1,
          '',
          [],
          {},
          true,
          'item',
          'a.b',
          '((',
          '🐝',
          '__proto__',
          1e9,
          'x'.repeat(300),
        ),
        async (which, seed, value) => {
          const { body, path } = changedAt(bodies[which]!, seed, value)
          const response = await send(proof, pathOf(proof), cookie, JSON.stringify(body))
          const what = `${path} = ${JSON.stringify(value)}`
          expect(response.status, what).to.be.lessThan(500)
          if (!response.ok) await expectRefusal(response, what)
          else {
            const { pdf, faults } = (await response.json()) as { pdf: string | null; faults: unknown[] }
            // Pages are made, or it is told why not.
            expect(pdf !== null || faults.length > 0, what).to.equal(true)
            if (pdf !== null) drawn++
          }
        },
      ),
      { numRuns: 250 },
    )
    // Enough to know that not all of it is refused at the door.
    expect(drawn).to.be.greaterThan(8)
  })

  it('fails with no query that somebody makes up', async function () {
    this.timeout(120_000)
    const asked = routes.filter(({ route }) => route.method === 'GET' && route.answer !== 'text/event-stream')
    const names = [
      'search',
      'where',
      'sort',
      'offset',
      'limit',
      'state',
      'archived',
      'customer',
      'format',
      'odd',
      'run',
    ]
    const text = fc.oneof(
      fc.constantFrom(
        '',
        '-1',
        '0',
        '99999999999',
        'yes',
        '-acres',
        'acres > ',
        '(((',
        "' or 1=1",
        '\u0000',
        '%',
        '_',
      ),
      fc.string(),
    )
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...asked.map(({ name }) => name)),
        fc.dictionary(fc.constantFrom(...names), text),
        async (name, query) => {
          const route = api[name] as Route
          const right = rightOf(route)
          const path = `${pathOf(route)}?${new URLSearchParams(query).toString()}`
          const response = await send(route, path, cookies.get(withRight(right).email))
          expect(response.status, `${name}: ${JSON.stringify(query)}`).to.be.lessThan(500)
          if (!response.ok) await expectRefusal(response, name)
          else await response.arrayBuffer()
        },
      ),
      { numRuns: 400 },
    )
  })

  it('takes a document that is nested without end for what it is', async () => {
    const template = routes.find(({ name }) => name === 'proof')!.route
    const deep = `${'{"type":"clause","attrs":{"id":"a","condition":null},"content":['.repeat(20_000)}${']}'.repeat(20_000)}`
    const response = await send(template, pathOf(template), cookies.get(withRight('templates').email), deep)
    await expectRefusal(response, 'nested')
    const content = `{"templateId":"${SOME_ID}","sheetId":null,"row":null,"content":{"document":{"type":"doc","content":[${deep}]}}}`
    await expectRefusal(
      await send(template, pathOf(template), cookies.get(withRight('templates').email), content),
      'nested in a template',
    )
  })

  it('that writes does nothing for a page of another site, whatever that calls itself', async () => {
    const { route } =
      routes.find(({ name }) => name === 'startTemplate') ??
      routes.find(({ route: each }) => each.method === 'POST')!
    for (const origin of ['https://elsewhere.example', 'null', 'not an address']) {
      const response = await fetch(`${running.url}${pathOf(route)}`, {
        method: route.method,
        headers: {
          origin,
          'content-type': 'application/json',
          cookie: cookies.get(withRight('templates').email)!,
        },
        body: '{}',
      })
      expect(response.status, origin).to.equal(403)
      await expectRefusal(response, origin)
    }
  })
})
