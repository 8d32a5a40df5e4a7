import { keysOf } from '#core/keys-of.ts'
import { randomUUID } from 'node:crypto'
import { expect } from 'chai'
import { eq } from 'drizzle-orm'
import { api, type RouteName } from '#contract/api.ts'
import { type Right, RIGHTS } from '#contract/person.ts'
import type { Access, Route } from '#contract/route.ts'
import { SCOPES } from '#contract/scope.ts'
import { type Actor, type By, mayNow } from '#server/app/actor.ts'
import { person, template } from '#server/db/schema.ts'
import { Refusal } from '#server/ground/problem.ts'
import { handlers } from '#server/http/mount.ts'
import { toPerson } from '#server/services/installation/people.ts'
import { type Running, startApp } from '#test/support/running.ts'
import { WHO_MAY } from '#test/support/who-may.ts'

const routes = keysOf(api).map((name) => ({ name, route: api[name] as Route }))

const told = (access: Access): string =>
  typeof access === 'string'
    ? access
    : 'right' in access
      ? `right: ${access.right}`
      : `scope: ${access.scope}`

/** What each scope of a key asks of its person. */
const RIGHT_OF_SCOPE: Readonly<Record<string, Right | null>> = {
  'start agreements': 'runs',
  'send agreements': 'send',
  'read templates': null,
  'read records': null,
  'read agreements': null,
}
/** Ask nothing of what is there: what is asked for was started by the same key. */
const OWN_ONLY = ['programRun', 'programStarted', 'programAnswer']

describe('rights', () => {
  let running: Running
  let templateId = ''

  before(async () => {
    running = await startApp('rights', { sheet: false, worker: false })
    const [found] = await running.app.db.select({ id: template.id }).from(template).limit(1)
    templateId = found!.id
  })
  after(() => running?.stop())

  it('are for each route those of the list kept by hand', () => {
    const listed = Object.entries(WHO_MAY).flatMap(([who, names]) =>
      names.map((name) => [name, who] as const),
    )
    expect(new Map(routes.map(({ name, route }) => [name, told(route.access)]))).to.deep.equal(
      new Map(listed),
    )
  })

  /** Calls what a route does, behind the guard of the route, with whatever: whoever may not is refused before it is looked at. */
  async function refusalOf(name: RouteName, by: Actor): Promise<string> {
    const call = {
      app: running.app,
      params: {
        id: templateId,
        kind: 'customer',
        party: randomUUID(),
        step: randomUUID(),
        row: 1,
        number: 1,
      },
      query: { name: 'x.pdf', offset: 0, limit: 10 },
      body: { agreements: [], steps: [], rows: [], cells: [], rights: [], draft: {}, days: 1, synonyms: [] },
      person: by,
      caller: { key: { id: randomUUID(), name: 'key', scopes: [] }, person: by },
      reference: 'x',
      address: '127.0.0.1',
      request: { body: Buffer.from('x'), headers: {} },
      response: {
        setHeader: () => undefined,
        type: () => ({ end: () => undefined }),
        location: () => undefined,
      },
    }
    try {
      await (handlers[name] as (of: unknown) => Promise<unknown>)(call)
      return 'done'
    } catch (error) {
      if (error instanceof Refusal) return `${error.status} ${error.message}`
      return `fault: ${String(error).slice(0, 120)}`
    }
  }

  const someone = async (rights: readonly Right[], left: boolean): Promise<Actor> => {
    const [row] = await running.app.db
      .insert(person)
      .values({
        id: randomUUID(),
        name: 'Nell Ashdown',
        email: `${randomUUID()}@larkmere.example`,
        post: 'trainee',
        passwordHash: '',
        rights: [...rights],
        leftAt: left ? running.app.now() : null,
      })
      .returning()
    // Whatever the actor is said to have counts for nothing.
    return { ...toPerson(row!), rights: [...RIGHTS] }
  }

  it('are asked in every use case, of people without them and of those who have left, whatever the route let through', async () => {
    const wrong: string[] = []
    for (const { name, route } of routes) {
      if (typeof route.access !== 'object' || !('right' in route.access)) continue
      const { right } = route.access
      const without = await someone(
        RIGHTS.filter((each) => each !== right),
        false,
      )
      for (const by of [without, await someone(RIGHTS, true)]) {
        const was = await refusalOf(name, by)
        if (!was.startsWith('403 ')) wrong.push(`${name}: ${was}`)
      }
    }
    expect(wrong).to.deep.equal([])
  })

  it('are asked of a key, which may no more than its person, and no more than its scopes', async () => {
    const wrong: string[] = []
    for (const { name, route } of routes) {
      if (typeof route.access !== 'object' || !('scope' in route.access)) continue
      const right = RIGHT_OF_SCOPE[route.access.scope]
      if (!right || OWN_ONLY.includes(name)) continue
      const via: By = { kind: 'key', name: 'Ledger', scopes: [...SCOPES] }
      const actors = [
        {
          ...(await someone(
            RIGHTS.filter((each) => each !== right),
            false,
          )),
          via,
        },
        { ...(await someone(RIGHTS, true)), via },
        {
          ...(await someone(RIGHTS, false)),
          via: {
            ...via,
            scopes: SCOPES.filter((each) => each !== (route.access as { scope: string }).scope),
          },
        },
      ]
      for (const by of actors) {
        const was = await refusalOf(name, by)
        if (!was.startsWith('403 ')) wrong.push(`${name}: ${was}`)
      }
    }
    expect(wrong).to.deep.equal([])
  })

  it('are what the person has now', async () => {
    const by = await someone(['send'], false)
    const now = async () => (await running.app.db.select().from(person).where(eq(person.id, by.id)))[0]
    expect(mayNow(by, 'send', await now())).to.equal(true)
    expect(mayNow(by, 'runs', await now())).to.equal(false)
    await running.app.db.update(person).set({ leftAt: running.app.now() }).where(eq(person.id, by.id))
    expect(mayNow(by, 'send', await now())).to.equal(false)
    expect(mayNow(by, 'send', undefined)).to.equal(false)
    const key: By = { kind: 'key', name: 'Ledger', scopes: ['send agreements'] }
    const here = { rights: RIGHTS, leftAt: null }
    expect(RIGHTS.filter((right) => mayNow({ via: key }, right, here))).to.deep.equal(['send'])
  })
})
