import { keysOf } from '#core/keys-of.ts'
import { createHmac, randomBytes, randomUUID } from 'node:crypto'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import express, { type NextFunction, type Request, type Response } from 'express'

// The stand-in for a customer system: growers with their bookings, each with a contact and line items.

export interface Grower {
  readonly id: string
  name: unknown
  legal: { form: string }
  contact: { name: string; email: string; phone: string }
  address: string
  agreement: { status: string; link: string }
  updated_at: string
}

export interface Booking {
  readonly id: string
  readonly grower_id: string
  title: string
  state: string
  lines: { item: string; quantity: unknown; unit: string; price: number }[]
  agreement: { status: string; link: string }
  updated_at: string
}

/** What can be switched on to see how the other side takes it. */
export const FAULTS = {
  down: 'answers 503 to everything',
  slow: 'answers after twenty seconds',
  refuses: 'knows nobody any more (401)',
  types: 'names and quantities are of another type, overnight',
  circle: 'the same page comes again and again',
  huge: 'an answer of twenty megabytes',
  elsewhere: 'sends on to another address (302)',
  words: 'answers with words instead of JSON',
} as const
export type Fault = keyof typeof FAULTS

export const CLIENT = { client: 'brevan', secret: 'honey-and-clover', key: 'k-0451-larkmere' } as const

const PAGE = 25

/** All that it has, and has been told. */
export class CustomerSystem {
  readonly growers: Grower[] = []
  readonly bookings: Booking[] = []
  readonly files = new Map<string, Uint8Array>()
  readonly faults = new Set<Fault>()
  /** Calls that came in, the newest last. */
  readonly heard: string[] = []
  /** Where it says that something changed, and what that is signed with. */
  hook: { readonly url: string; readonly secret: string } | null = null
  private readonly tokens = new Set<string>()
  private server: Server | null = null
  /** Where it answers, once it is started. */
  address = ''
  private clock = Date.now()

  /** A time that is later than all before, so that what changed can be told apart. */
  now(): string {
    this.clock = Math.max(this.clock + 1, Date.now())
    return new Date(this.clock).toISOString()
  }

  async start(port = 0): Promise<string> {
    this.server = createServer(this.app())
    await new Promise<void>((resolve) => this.server!.listen(port, '127.0.0.1', resolve))
    this.address = `http://127.0.0.1:${(this.server.address() as AddressInfo).port}`
    return this.address
  }

  async stop(): Promise<void> {
    this.server?.closeAllConnections()
    await new Promise<void>((resolve) => (this.server ? this.server.close(() => resolve()) : resolve()))
  }

  add(name: string, lines: Booking['lines'], more: Partial<Grower> = {}): Grower {
    const host = name.toLowerCase().replace(/[^a-z]+/g, '')
    const grower: Grower = {
      id: `g-${this.growers.length + 1}`,
      name,
      legal: { form: 'LLC' },
      contact: {
        name: `Ada ${name.split(' ')[0]}`,
        email: `office@${host}.example`,
        phone: '+1 503 555 0100',
      },
      address: `${this.growers.length + 1} Weir Lane, Tansy Falls`,
      agreement: { status: '', link: '' },
      updated_at: this.now(),
      ...more,
    }
    this.growers.push(grower)
    if (lines.length)
      this.bookings.push({
        id: `b-${this.bookings.length + 1}`,
        grower_id: grower.id,
        title: `Season 2027, ${name}`,
        state: 'open',
        lines,
        agreement: { status: '', link: '' },
        updated_at: this.now(),
      })
    return grower
  }

  /** Says that something changed, signed as of Standard Webhooks; answers the status it was answered with. */
  async tell(): Promise<number | null> {
    if (!this.hook) return null
    const body = JSON.stringify({ type: 'changed', timestamp: new Date().toISOString(), data: {} })
    const [id, at] = [`msg_${randomUUID()}`, Math.floor(Date.now() / 1000)]
    const signature = createHmac('sha256', Buffer.from(this.hook.secret.replace(/^whsec_/, ''), 'base64'))
      .update(`${id}.${at}.${body}`)
      .digest('base64')
    const answered = await fetch(this.hook.url, {
      method: 'POST',
      headers: {
        'content-type': 'application/octet-stream',
        'webhook-id': id,
        'webhook-timestamp': String(at),
        'webhook-signature': `v1,${signature}`,
      },
      body,
    }).catch(() => null)
    return answered?.status ?? null
  }

  private app(): express.Express {
    const app = express()
    app.disable('x-powered-by')
    app.get('/', (_, response) => void response.type('html').send(this.page()))
    app.post('/faults', express.urlencoded({ extended: false }), (request, response) => {
      const on = new Set(Object.keys(request.body as object))
      for (const fault of keysOf(FAULTS))
        if (on.has(fault)) this.faults.add(fault)
        else this.faults.delete(fault)
      response.redirect(303, '/')
    })
    app.post('/hook', express.urlencoded({ extended: false }), (request, response) => {
      const { url = '', secret = '' } = request.body as { url?: string; secret?: string }
      this.hook = url ? { url, secret } : null
      response.redirect(303, '/')
    })
    app.post('/change', (_, response) => {
      const grower = this.growers[Math.floor(Math.random() * this.growers.length)]
      if (grower)
        Object.assign(grower, {
          address: `${Math.ceil(Math.random() * 99)} Hive Row`,
          updated_at: this.now(),
        })
      void this.tell()
      response.redirect(303, '/')
    })
    app.use((request, response, next) => this.faulty(request, response, next))
    app.post('/oauth/token', express.urlencoded({ extended: false }), (request, response) =>
      this.token(request, response),
    )
    app.get('/openapi.json', (_, response) => void response.json(this.description()))
    app.use((request, response, next) => this.known(request, response, next))
    app.get('/growers', (request, response) => this.list(request, response, this.growers))
    app.get('/bookings', (request, response) => this.list(request, response, this.bookings))
    app.patch('/:kind/:id', express.json(), (request, response) => this.change(request, response))
    app.put(
      '/:kind/:id/files/:name',
      express.raw({ type: () => true, limit: '50mb' }),
      (request, response) => {
        const { kind, id, name } = request.params as Record<string, string>
        this.files.set(`${kind}/${id}/${name}`, request.body as Buffer)
        response.status(204).end()
      },
    )
    return app
  }

  private faulty(request: Request, response: Response, next: NextFunction): void {
    this.heard.push(`${request.method} ${request.originalUrl}`)
    if (this.heard.length > 500) this.heard.shift()
    if (this.faults.has('down')) return void response.status(503).json({ error: 'down' })
    if (this.faults.has('elsewhere')) return response.redirect(302, 'http://169.254.169.254/latest/')
    if (this.faults.has('huge')) return void response.json({ data: ['x'.repeat(20_000_000)] })
    if (this.faults.has('words')) return void response.type('html').send('<h1>Sign in first</h1>')
    if (this.faults.has('slow')) return void setTimeout(next, 20_000)
    next()
  }

  /** RFC 6749, 4.4. */
  private token(request: Request, response: Response): void {
    const { grant_type: grant } = request.body as { grant_type?: string }
    const [client, secret] = Buffer.from(
      (request.headers.authorization ?? '').replace(/^Basic /, ''),
      'base64',
    )
      .toString()
      .split(':')
      .map((each) => decodeURIComponent(each))
    if (grant !== 'client_credentials')
      return void response.status(400).json({ error: 'unsupported_grant_type' })
    if (client !== CLIENT.client || secret !== CLIENT.secret || this.faults.has('refuses'))
      return void response.status(401).json({ error: 'invalid_client' })
    const token = randomBytes(16).toString('hex')
    this.tokens.add(token)
    response.json({ access_token: token, token_type: 'Bearer', expires_in: 600 })
  }

  private known(request: Request, response: Response, next: NextFunction): void {
    const bearer = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1] ?? ''
    const is = this.tokens.has(bearer) || request.headers['x-api-key'] === CLIENT.key
    if (is && !this.faults.has('refuses')) return next()
    response.status(401).json({ error: 'unauthorized' })
  }

  private list(request: Request, response: Response, all: readonly (Grower | Booking)[]): void {
    const since = String(request.query['changed_since'] ?? '')
    const from = Number(request.query['cursor'] ?? 0)
    const changed = all.filter(({ updated_at: at }) => at > since)
    const page = changed.slice(from, from + PAGE)
    const next = from + PAGE < changed.length ? String(from + PAGE) : null
    response.json({
      data: this.faults.has('types') ? page.map(retyped) : page,
      next: this.faults.has('circle') ? '0' : next,
    })
  }

  private change(request: Request, response: Response): void {
    const { kind, id } = request.params as Record<string, string>
    const found = (kind === 'growers' ? this.growers : this.bookings).find((each) => each.id === id)
    if (!found) return void response.status(404).json({ error: 'not_found' })
    const { agreement } = request.body as { agreement?: Partial<Grower['agreement']> }
    Object.assign(found.agreement, agreement)
    found.updated_at = this.now()
    response.json(found)
  }

  private description(): object {
    const text = { type: 'string' }
    const agreement = { type: 'object', properties: { status: text, link: text } }
    const changed = this.faults.has('types')
    const listed = (name: string) => ({
      get: {
        summary: `${name} by when they changed`,
        parameters: [
          { name: 'changed_since', in: 'query', schema: text },
          { name: 'cursor', in: 'query', schema: text },
        ],
        responses: {
          '200': {
            description: 'A page of them',
            content: {
              'application/json': {
                schema: {
                  type: 'object',
                  properties: {
                    data: { type: 'array', items: { $ref: `#/components/schemas/${name}` } },
                    next: { type: ['string', 'null'] },
                  },
                },
              },
            },
          },
        },
      },
    })
    return {
      openapi: '3.1.0',
      info: { title: 'Growers', version: '1' },
      paths: {
        '/growers': listed('Grower'),
        '/growers/{id}/files/{name}': { put: {} },
        '/growers/{id}/files': { put: {} },
        '/bookings': listed('Booking'),
        '/bookings/{id}/files': { put: {} },
      },
      components: {
        schemas: {
          Grower: {
            type: 'object',
            properties: {
              id: text,
              name: changed ? { type: 'object', properties: { first: text, last: text } } : text,
              legal: { type: 'object', properties: { form: text } },
              contact: { type: 'object', properties: { name: text, email: text, phone: text } },
              address: text,
              agreement,
              updated_at: { type: 'string', format: 'date-time' },
            },
          },
          Booking: {
            type: 'object',
            properties: {
              id: text,
              grower_id: text,
              title: text,
              state: text,
              lines: {
                type: 'array',
                items: {
                  type: 'object',
                  properties: {
                    item: text,
                    quantity: changed ? text : { type: 'number' },
                    unit: text,
                    price: { type: 'number' },
                  },
                },
              },
              agreement,
              updated_at: { type: 'string', format: 'date-time' },
            },
          },
        },
      },
    }
  }

  /** What it has been told, and the switches. */
  private page(): string {
    const safe = (said: unknown) =>
      String(said).replace(
        /[&<>"]/g,
        (sign) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[sign]!,
      )
    const told = [...this.growers, ...this.bookings].filter(
      ({ agreement }) => agreement.status || agreement.link,
    )
    return `<!doctype html><html lang="en"><meta charset="utf-8"><title>Customer system (stand-in)</title>
<style>body{font:16px/1.5 sans-serif;max-width:60rem;margin:2rem auto;padding:0 1rem}table{border-collapse:collapse}td,th{text-align:left;padding:.1rem 1rem .1rem 0}code{font-size:.85em}</style>
<h1>Customer system (stand-in)</h1>
<p>${this.growers.length} growers, ${this.bookings.length} bookings. Description: <code>/openapi.json</code>. Tokens: <code>/oauth/token</code>, client <code>${CLIENT.client}</code>, secret <code>${CLIENT.secret}</code>; or the header <code>X-Api-Key: ${CLIENT.key}</code>.</p>
<form method="post" action="/change"><button>Change a grower</button></form>
<h2>What it was told</h2>
<table>${told.map((each) => `<tr><td>${safe('title' in each ? each.title : each.name)}</td><td>${safe(each.agreement.status)}</td><td>${safe(each.agreement.link)}</td></tr>`).join('') || '<tr><td>nothing yet</td></tr>'}</table>
<p>Files: ${[...this.files.keys()].map(safe).join(', ') || 'none'}</p>
<h2>Faults</h2>
<form method="post" action="/faults">${Object.entries(FAULTS)
      .map(
        ([fault, says]) =>
          `<label><input type="checkbox" name="${fault}"${this.faults.has(fault as Fault) ? ' checked' : ''}> ${safe(says)}</label><br>`,
      )
      .join('')}<button>Switch</button></form>
<h2>Webhook</h2>
<form method="post" action="/hook"><label>Address <input name="url" size="60" value="${safe(this.hook?.url ?? '')}"></label><br><label>Secret <input name="secret" size="60" value="${safe(this.hook?.secret ?? '')}"></label><br><button>Keep</button></form>
<h2>Calls</h2><pre>${this.heard.slice(-30).map(safe).join('\n')}</pre></html>`
  }
}

/** The same record as it would be after somebody changed its types without a word. */
const retyped = (each: Grower | Booking): object =>
  'lines' in each
    ? { ...each, lines: each.lines.map((line) => ({ ...line, quantity: `about ${String(line.quantity)}` })) }
    : { ...each, name: { first: each.name, last: '' } }
