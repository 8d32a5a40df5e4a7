import type { Request, Response } from 'express'
import type { Api, RouteName } from '#contract/api.ts'
import type { Person } from '#contract/person.ts'
import type { Answer, Body, Params, Query } from '#contract/route.ts'
import type { App } from '#server/app/app.ts'
import type { Caller } from '#server/services/programs/keys.ts'

/** What a handler is given: the parsed parts of the request, and who calls (null where anyone may). */
export interface Call<N extends RouteName> {
  readonly app: App
  readonly params: Params<Api[N]>
  readonly query: Query<Api[N]>
  readonly body: Body<Api[N]>
  readonly person: Person | null
  /** The program that calls, of a route that only programs reach. */
  readonly caller: Caller | null
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

export type Handlers = { readonly [N in RouteName]: Handler<N> }

/** The person of a route that nobody reaches without being signed in. */
export function signedIn(call: { readonly person: Person | null }): Person {
  if (!call.person) throw new Error('A route that needs a person was mounted for anyone.')
  return call.person
}

/** The program of a route that nobody reaches without a key. */
export function calledBy(call: { readonly caller: Caller | null }): Caller {
  if (!call.caller) throw new Error('A route that needs a key was mounted for anyone.')
  return call.caller
}

export const done = { done: true } as const
