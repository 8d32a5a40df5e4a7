import { Ajv2020 } from 'ajv/dist/2020.js'
import { api, type Api, type RouteName } from '#contract/api.ts'
import type { Problem } from '#contract/problem.ts'
import { lastFault } from './faults.ts'
import { type Answer, answersFile, NOTHING, type Route } from '#contract/route.ts'
import { PATIENCE } from './patience.ts'

export interface Sent {
  readonly params?: Record<string, string | number>
  readonly query?: Record<string, string>
  readonly body?: unknown
  readonly headers?: Record<string, string>
}

export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly problem: Problem,
  ) {
    // What is behind a fault of the server's own stands in its log alone.
    super(status === 500 ? `${problem.detail} Behind it: ${lastFault()}` : problem.detail)
  }
}

/** Calls the API as a browser does, with its cookie, and holds every answer against the published OpenAPI document. */
export class Client {
  private cookie = ''
  /** Headers of the last answer. */
  heard = new Headers()
  private validate: Promise<Ajv2020> | null = null

  constructor(
    readonly url: string,
    /** Of a program, which has no cookie. */
    private readonly key: string | null = null,
  ) {}

  static async signedIn(url: string, email: string): Promise<Client> {
    const client = new Client(url)
    await client.call('demoSignIn', { body: { email: `${email}@larkmere.example` } })
    return client
  }

  private schemas(): Promise<Ajv2020> {
    this.validate ??= fetch(`${this.url}/api/openapi.json`).then(async (response) => {
      const ajv = new Ajv2020({ strict: false, validateFormats: false })
      ajv.addSchema((await response.json()) as object, 'openapi')
      return ajv
    })
    return this.validate
  }

  private async hold(pointer: string, value: unknown): Promise<void> {
    const ajv = await this.schemas()
    const check = ajv.compile({ $ref: `openapi#${pointer}` })
    if (!check(value)) throw new Error(`Not as published at ${pointer}: ${ajv.errorsText(check.errors)}`)
  }

  async call<N extends RouteName>(name: N, sent: Sent = {}): Promise<Answer<Api[N]>> {
    const route = api[name] as Route
    const path = route.path.replace(/:(\w+)/g, (_, key: string) =>
      encodeURIComponent(String(sent.params?.[key] ?? '')),
    )
    const query = sent.query ? `?${new URLSearchParams(sent.query).toString()}` : ''
    const raw = sent.body instanceof Uint8Array
    const response = await fetch(`${this.url}/api${path}${query}`, {
      method: route.method,
      headers: {
        ...(this.cookie ? { cookie: this.cookie } : {}),
        ...(this.key ? { authorization: `Bearer ${this.key}` } : {}),
        ...sent.headers,
        ...(sent.body !== undefined
          ? { 'content-type': raw ? 'application/octet-stream' : 'application/json' }
          : {}),
      },
      ...(sent.body === undefined
        ? {}
        : { body: raw ? new Blob([sent.body as Uint8Array<ArrayBuffer>]) : JSON.stringify(sent.body) }),
    })
    this.heard = response.headers
    const set = response.headers.getSetCookie()[0]
    if (set) this.cookie = set.split(';')[0]!
    if (!response.ok) {
      const problem = (await response.json()) as Problem
      await this.hold('/components/schemas/Problem', problem)
      throw new Refused(response.status, problem)
    }
    if (answersFile(route)) return (await response.blob()) as Answer<Api[N]>
    if (route.answer === NOTHING) {
      if (response.status !== 204) throw new Error(`${name} answered ${response.status}, not 204.`)
      return undefined as unknown as Answer<Api[N]>
    }
    const answer: unknown = await response.json()
    const at = route.path
      .replace(/:(\w+)/g, '{$1}')
      .replaceAll('~', '~0')
      .replaceAll('/', '~1')
    await this.hold(
      `/paths/${encodeURIComponent(at)}/${route.method.toLowerCase()}/responses/${route.status ?? 200}/content/application~1json/schema`,
      answer,
    )
    return answer as Answer<Api[N]>
  }

  /** The refusal of a call that must not succeed. */
  async refused<N extends RouteName>(name: N, sent: Sent = {}): Promise<Refused> {
    try {
      await this.call(name, sent)
    } catch (error) {
      if (error instanceof Refused) return error
      throw error
    }
    throw new Error(`${name} was expected to be refused`)
  }
}

/** Tries until `find` gives something, every 50 ms; fails after `seconds`. */
export async function eventually<T>(
  find: () => Promise<T | null | undefined | false>,
  what: string,
  seconds = 30,
): Promise<T> {
  const end = Date.now() + seconds * PATIENCE * 1000
  for (;;) {
    const found = await find()
    if (found) return found
    if (Date.now() > end) throw new Error(`Waited ${seconds * PATIENCE} s in vain for ${what}`)
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
}
