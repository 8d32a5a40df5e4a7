import { existsSync, readFileSync } from 'node:fs'
import compression from 'compression'
import compressedFiles from 'express-static-gzip'
import express, { type ErrorRequestHandler, type Express, type RequestHandler } from 'express'
import helmet from 'helmet'
import type { Problem } from '#contract/problem.ts'
import { BudgetSpent } from '#core/expression/values/budget.ts'
import type { App } from '#server/app/app.ts'
import { isOneOrigin } from '#contract/intake.ts'
import { NoConnection } from '#server/db/open-transaction.ts'
import { WorkEnded } from '#server/worker-pools/pool.ts'
import { roomFile } from '#server/ground/room.ts'
import { Refusal } from '#server/ground/problem.ts'
import { framedBy } from '#server/services/intakes/open-links.ts'
import { mountApi } from './mount.ts'
import { openApi } from './openapi.ts'

/** The whole HTTP side: API, its description, and the built interface. */
export function httpApp(app: App): Express {
  const server = express()
  server.disable('x-powered-by')
  // Addresses stand in trails: they are taken from nobody but a proxy on this machine.
  if (app.settings.proxies) server.set('trust proxy', [...app.settings.proxies])
  server.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          defaultSrc: ["'self'"],
          scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
          styleSrc: ["'self'", "'unsafe-inline'"],
          imgSrc: ["'self'", 'data:', 'blob:'],
          mediaSrc: ["'self'", 'blob:'],
          fontSrc: ["'self'", 'data:', 'blob:'],
          workerSrc: ["'self'", 'blob:'],
          frameSrc: ["'self'"],
          upgradeInsecureRequests: null,
        },
      },
      strictTransportSecurity: app.settings.publicUrl.startsWith('https:'),
      referrerPolicy: { policy: 'no-referrer' },
    }),
  )
  server.use(knownHost(app))
  // A proof is a PDF, compressed already; events must not wait for a full buffer.
  server.use(
    compression({
      filter: (request, response) =>
        !/\/(events|proofs)$/.test(request.path) && compression.filter(request, response),
    }),
  )
  const { publicUrl } = app.settings
  server.get(
    '/api/openapi.json',
    (_, response) => void response.json(openApi(publicUrl, { programs: false })),
  )
  server.get(
    '/api/v1/openapi.json',
    (_, response) => void response.json(openApi(publicUrl, { programs: true })),
  )
  server.use('/api', mountApi(app))
  server.use('/api', () => {
    throw new Refusal(404, 'Not found', 'There is nothing at this address.')
  })
  const built = roomFile('dist/web')
  if (existsSync(built)) {
    server.use(
      // Served as the build compressed them.
      compressedFiles(built, {
        enableBrotli: true,
        orderPreference: ['br', 'gz'],
        index: false,
        serveStatic: {
          setHeaders: (response, path) =>
            response.setHeader(
              'Cache-Control',
              path.includes('/assets/') ? 'public, max-age=31536000, immutable' : 'no-cache',
            ),
        },
      }),
    )
    const signing = readFileSync(`${built}/sign.html`, 'utf8')
    server.get(
      '/sign/:token',
      (request, response) =>
        void response
          .type('html')
          .setHeader('Cache-Control', 'no-cache')
          .send(withQuestion(signing, request.params.token)),
    )
    server.get('/form/:token', async (request, response) => {
      const origins = await framedBy(app, request.params.token)
      // Other pages may show it only where its link names them; the older header knows no names.
      response.removeHeader('X-Frame-Options')
      const policy = String(response.getHeader('Content-Security-Policy'))
      response.setHeader(
        'Content-Security-Policy',
        policy.replace(
          /frame-ancestors [^;]*/,
          () => `frame-ancestors ${["'self'", ...origins.filter(isOneOrigin)].join(' ')}`,
        ),
      )
      response.setHeader('Cache-Control', 'no-cache')
      response.sendFile(`${built}/form.html`, { cacheControl: false })
    })
    server.get('/{*page}', (_request, response) => response.sendFile(`${built}/index.html`))
  }
  server.use(problems(app))
  return server
}

/** The signing page’s document with what it asks first: the answer comes while its scripts do. */
const withQuestion = (document: string, token: string): string =>
  /^[\w-]{43}$/.test(token)
    ? document.replace(
        '</title>',
        `</title><link rel="preload" as="fetch" crossorigin href="/api/signing/${token}">`,
      )
    : document

/**
 * Only under its own name, or on this machine: a page elsewhere whose name leads here would be taken for one of the app's
 * own otherwise (DNS rebinding).
 */
const knownHost =
  (app: App): RequestHandler =>
  (request, _response, next) => {
    const own = new URL(app.settings.publicUrl).host
    const { port } = app.settings
    const known = [own, `127.0.0.1:${port}`, `localhost:${port}`, `[::1]:${port}`]
    if (!known.includes(request.headers.host ?? ''))
      throw new Refusal(421, 'Not this server', `This server answers as ${own}.`)
    next()
  }

/** Every failure as RFC 9457; what is not a refusal is logged whole and told in general words. */
const problems =
  (app: App): ErrorRequestHandler =>
  (error: unknown, request, response, _next) => {
    const refusal = asRefusal(error)
    if (!refusal) app.log.error({ err: error, path: request.path }, 'request failed')
    if (response.headersSent) return void response.destroy()
    const problem: Problem = {
      type: 'about:blank',
      title: refusal?.title ?? 'Something went wrong here',
      status: refusal?.status ?? 500,
      detail:
        refusal?.message ?? 'The server met a fault of its own. Nothing you entered is lost; try again.',
      ...(refusal?.faults ? { faults: refusal.faults } : {}),
    }
    response.status(problem.status).type('application/problem+json').send(JSON.stringify(problem))
  }

function asRefusal(error: unknown): Refusal | null {
  if (error instanceof Refusal) return error
  const { type = null, limit = 0 } =
    error !== null && typeof error === 'object' ? (error as { type?: unknown; limit?: number }) : {}
  if (type === 'entity.too.large')
    return new Refusal(
      413,
      'Too large',
      `What was sent is larger than ${Math.floor(limit / 1_048_576)} MB, the most that is taken here. Send it in parts, or leave out what is not needed.`,
    )
  if (type === 'entity.parse.failed') return new Refusal(400, 'Not readable', 'What was sent is not JSON.')
  if (error instanceof WorkEnded) return new Refusal(422, 'Too much', error.message)
  if (error instanceof NoConnection || (error instanceof Error && error.cause instanceof NoConnection))
    return new Refusal(
      503,
      'Busy',
      'The server is busy just now. Nothing you entered is lost; try again in a moment.',
    )
  if (error instanceof BudgetSpent) return new Refusal(422, 'Too much', error.message)
  if (error instanceof URIError) return new Refusal(400, 'Not readable', 'The address is not well formed.')
  return null
}
