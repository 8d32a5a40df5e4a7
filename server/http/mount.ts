import { randomUUID } from 'node:crypto'
import express, { type NextFunction, type Request, type Response, type Router } from 'express'
import * as v from 'valibot'
import { api, type RouteName } from '#contract/api.ts'
import type { Person } from '#contract/person.ts'
import { type Access, answersFile, NOTHING, onlyAsks, type Route, scopeOf } from '#contract/route.ts'
import { keysOf } from '#core/keys-of.ts'
import { cut } from '#core/text/cut.ts'
import { hashOf, type TrailAct } from '#core/trail/trail.ts'
import { SHEET_LIMITS } from '#server/convert/sheet/sheet-limits.ts'
import type { App } from '#server/app/app.ts'
import { type Caller, callerOf } from '#server/services/api/keys.ts'
import { CALLS_A_MINUTE, countCall } from '#server/services/api/call-limits.ts'
import { transaction } from '#server/app/transaction.ts'
import { forbidden, invalid, Refusal } from '#server/ground/problem.ts'
import { asAct } from '#server/app/installation-trail.ts'
import { personOfSession } from '#server/services/installation/people.ts'
import { agreementHandlers } from './handle-agreements.ts'
import { organisationHandlers } from './handle-organisation.ts'
import { peopleHandlers } from './handle-people.ts'
import { signingHandlers } from './handle-signing.ts'
import { sheetHandlers } from './handle-sheets.ts'
import { recordHandlers } from './handle-records.ts'
import { ruleHandlers } from './handle-rules.ts'
import { runHandlers } from './handle-runs.ts'
import { programHandlers } from './handle-programs.ts'
import { aftermathHandlers } from './handle-next-steps.ts'
import { connectionHandlers } from './handle-connections.ts'
import { intakeHandlers } from './handle-intakes.ts'
import { pageHandlers } from './handle-pages.ts'
import { templateHandlers } from './handle-templates.ts'
import type { Call, Handlers } from './handlers.ts'
import { readCookie } from './session.ts'
import { guardShelf } from './shelf-guard.ts'

/** What each route does, behind whatever guards it. */
export const handlers: Handlers = {
  ...organisationHandlers,
  ...peopleHandlers,
  ...templateHandlers,
  ...pageHandlers,
  ...sheetHandlers,
  ...recordHandlers,
  ...runHandlers,
  ...ruleHandlers,
  ...agreementHandlers,
  ...signingHandlers,
  ...programHandlers,
  ...intakeHandlers,
  ...aftermathHandlers,
  ...connectionHandlers,
}

const JSON_LIMIT = '2mb'

/** All routes of the contract, each behind the check of who may and the parsing of what was sent. */
export function mountApi(app: App): Router {
  const router = express.Router()
  const json = express.json({ limit: JSON_LIMIT })
  const upload = express.raw({ type: () => true, limit: SHEET_LIMITS.bytes })
  const own = sameOrigin(app)
  for (const name of keysOf(api)) {
    const route: Route = api[name] as Route
    const read = route.upload
      ? route.limit
        ? express.raw({ type: () => true, limit: route.limit })
        : upload
      : route.body
        ? json
        : (_: Request, __: Response, next: NextFunction) => next()
    const method = route.method.toLowerCase() as 'get' | 'post' | 'put' | 'delete'
    router[method](route.path, own, guard(app, route.access), read, (request: Request, response: Response) =>
      answer(app, name, route, request, response),
    )
  }
  return router
}

/**
 * A page elsewhere cannot act for someone signed in here: browsers say where a writing request comes from. The whole origin counts
 * (RFC 6454), its scheme too: what somebody in between serves under the same name over http is another site.
 */
function sameOrigin({ settings }: App) {
  const own = ownOrigins(settings)
  return (request: Request, _response: Response, next: NextFunction): void => {
    const from = request.headers.origin
    if (request.method !== 'GET' && from && !own.includes(from))
      throw forbidden('This request comes from another site.')
    next()
  }
}

/** Where pages of this server come from: its public address, and this machine. */
const ownOrigins = ({ publicUrl, port }: App['settings']): readonly string[] => [
  new URL(publicUrl).origin,
  ...['127.0.0.1', 'localhost', '[::1]'].map((host) => `http://${host}:${port}`),
]

/** Before the body is read: who has no right is not made to upload first. */
const guard =
  (app: App, access: Access) => async (request: Request, response: Response, next: NextFunction) => {
    const scope = scopeOf(access)
    if (scope) {
      // Of refusals (RFC 9110, 11.6.1).
      response.setHeader('WWW-Authenticate', 'Bearer')
      const caller = await callerOf(app, request.headers.authorization, scope)
      response.removeHeader('WWW-Authenticate')
      await withinLimit(app, caller, response)
      response.locals['caller'] = caller
      response.locals['person'] = caller.person
      return next()
    }
    const token = access === 'signing link' ? null : readCookie(request)
    const person = token ? await personOfSession(app, token) : null
    if (access !== 'anyone' && access !== 'signing link') {
      if (!person) throw new Refusal(401, 'Not signed in', 'Sign in first.')
      if (typeof access === 'object' && 'right' in access && !person.rights.includes(access.right))
        throw forbidden(`Your rights do not include “${access.right}”.`)
    }
    response.locals['person'] = person
    next()
  }

/** Counts a call of a key and tells how it stands (draft-ietf-httpapi-ratelimit-headers-10); refused are those beyond. */
async function withinLimit(app: App, { key }: Caller, response: Response): Promise<void> {
  const { ok, left, seconds } = await countCall(app, key.id)
  response.setHeader('RateLimit-Policy', `"key";q=${CALLS_A_MINUTE};w=60`)
  response.setHeader('RateLimit', `"key";r=${left};t=${seconds}`)
  if (ok) return
  response.setHeader('Retry-After', String(seconds))
  throw new Refusal(
    429,
    'Too many calls',
    `This key has had its calls of this minute. Go on in ${seconds} seconds.`,
  )
}

/** What a call names itself by, so that it can be made again without being done again. */
function referenceOf(request: Request): string {
  const said = request.headers['idempotency-key']
  if (said === undefined) return randomUUID()
  // The header is a string of structured fields (RFC 8941), so it may stand in quotes.
  const bare = String(said).replace(/^"(.*)"$/, '$1')
  if (!/^[\x21-\x7e]{1,200}$/.test(bare))
    throw invalid('The idempotency key has 1 to 200 letters, digits and signs, and no spaces.')
  return bare
}

async function answer(
  app: App,
  name: RouteName,
  route: Route,
  request: Request,
  response: Response,
): Promise<void> {
  const call = {
    app,
    params: route.params && parse(route.params, request.params, 404),
    query: route.query && parse(route.query, request.query, 422),
    body: route.body && parse(route.body, request.body ?? {}, 422),
    person: response.locals['person'] as Person | null,
    caller: (response.locals['caller'] as Caller | undefined) ?? null,
    reference: route.idempotent ? referenceOf(request) : '',
    address: request.ip ?? '',
    request,
    response,
  }
  await guardShelf(app, name, route, call.person, call.params)
  const handler = handlers[name] as (given: unknown) => Promise<unknown>
  const work = () => handler(call satisfies Record<keyof Call<RouteName>, unknown>)
  const result = isTold(route, call.person)
    ? await asAct(
        () => actOf(app, route, call),
        work,
        (write) => transaction(app, ({ db }) => write(db)),
      )
    : await work()
  if (response.headersSent || answersFile(route)) return
  if (route.answer === NOTHING) response.status(204).setHeader('Cache-Control', 'no-store').end()
  else
    response
      .status(route.status ?? 200)
      .setHeader('Cache-Control', 'no-store')
      .json(result)
}

/** Whether an act goes into the installation's trail. */
const isTold = (route: Route, person: Person | null): boolean =>
  person !== null && !onlyAsks(route) && route.trail === undefined

/** What opens something stands in no trail. */
const unsaid = (name: string, value: unknown): unknown =>
  /^(secret|password)$/.test(name) && typeof value === 'string' ? '…' : value

/** Characters of what was sent that the trail keeps; of more, a hash stands for the whole. */
const TOLD = 4000

function actOf(
  app: App,
  route: Route,
  { person, params, query, body }: { person: Person | null; params: unknown; query: unknown; body: unknown },
): TrailAct {
  const said = body === undefined || Buffer.isBuffer(body) ? '' : JSON.stringify(body, unsaid)
  return {
    at: app.now().toISOString(),
    actor: person?.name ?? '',
    act: route.summary,
    detail: {
      ...(params as Record<string, string> | undefined),
      ...(query as Record<string, string> | undefined),
      ...(said ? { sent: cut(said, TOLD) } : {}),
      ...(said.length > TOLD ? { sha256: hashOf(said) } : {}),
    },
  }
}

/** Levels of JSON in one another; no document of ours comes near. Schemas and all that comes after go down level by level. */
const MOST_LEVELS = 200

/** What nothing here can take, whatever it is for. */
function unfit(value: unknown): string | null {
  let level: unknown[] = [value]
  for (let depth = 0; level.length > 0; depth++) {
    if (depth > MOST_LEVELS) return `What was sent is nested deeper than ${MOST_LEVELS} levels.`
    // PostgreSQL keeps no text with this character in it.
    if (level.some((each) => typeof each === 'string' && each.includes('\0')))
      return 'What was sent has a character without meaning (U+0000) in it.'
    // Half of a sign that UTF-16 writes as two: neither UTF-8 nor PostgreSQL knows it.
    if (level.some((each) => typeof each === 'string' && !each.isWellFormed()))
      return 'What was sent has half of a character in it (a lone surrogate).'
    level = level.flatMap((each) =>
      typeof each === 'object' && each !== null && !ArrayBuffer.isView(each)
        ? Object.entries(each).flat()
        : [],
    )
  }
  return null
}

function parse(schema: v.GenericSchema, value: unknown, status: 404 | 422): unknown {
  const problem = unfit(value)
  if (problem) throw invalid(problem)
  const read = v.safeParse(schema, value, { abortPipeEarly: true })
  if (read.success) return read.output
  if (status === 404) throw new Refusal(404, 'Not found', 'There is nothing at this address.')
  const faults = read.issues.slice(0, 20).map((issue) => ({
    pointer: `/${(v.getDotPath(issue) ?? '').replaceAll('.', '/')}`,
    detail: issue.message,
  }))
  throw invalid(
    faults[0] ? `${faults[0].detail} (${faults[0].pointer})` : 'What was sent is not valid.',
    faults,
  )
}
