import type { Request, Response } from 'express'
import type { Api, RouteName } from '#contract/api.ts'
import type { Person } from '#contract/person.ts'
import type { Answer, Body, NeedsKey, NeedsPerson, Params, Query } from '#contract/route.ts'
import type { App } from '#server/app/app.ts'
import type { Caller } from '#server/services/api/keys.ts'

/** What a handler is given: the parsed parts of the request, and who calls, as its route's access promises. */
export interface Call<N extends RouteName> {
  readonly app: App
  readonly params: Params<Api[N]>
  readonly query: Query<Api[N]>
  readonly body: Body<Api[N]>
  /** Null only where a route lets anyone in, or the bearer of a signing link. */
  readonly person: NeedsPerson<Api[N]> extends true ? Person : Person | null
  /** The program that calls, of a route that only programs reach. */
  readonly caller: NeedsKey<Api[N]> extends true ? Caller : null
  /** Of a route that takes one: the idempotency key, or a new one. */
  readonly reference: string
  /** The caller's network address. */
  readonly address: string
  readonly request: Request
  readonly response: Response
}

/** Gives the answer, which is sent as JSON; or, of a route whose answer is no JSON, writes the response itself. */
export type Handler<N extends RouteName> = (
  call: Call<N>,
) => Promise<Answer<Api[N]> extends Blob ? void : Answer<Api[N]>>

/** A handler for every route. */
export type Handlers = { readonly [N in RouteName]: Handler<N> }
