import type * as v from 'valibot'
import type { Right } from './person.ts'
import type { Scope } from './scope.ts'

/** Who may call: nobody signed in, anyone signed in, a holder of a right, a bearer of a signing link, or a program by its key. */
export type Access =
  'anyone' | 'person' | 'signing link' | { readonly right: Right } | { readonly scope: Scope }

/** `Content-Type`s answered instead of JSON. */
export type BinaryType =
  | 'application/pdf'
  | 'application/zip'
  | 'application/vnd.openxmlformats-officedocument.wordprocessingml.document'
  | 'text/event-stream'
  | 'application/octet-stream'
  | 'application/timestamp-reply'

/** The scope that a key has to have; null: the route is not for programs. */
export const scopeOf = (access: Access): Scope | null =>
  typeof access === 'object' && 'scope' in access ? access.scope : null

type Schema = v.GenericSchema

/** Of a route that has nothing to answer: 204, without a body. */
export const NOTHING = null

/** One route of the API: how it is called, who may, what goes in and comes out. */
export interface Route {
  readonly method: 'GET' | 'POST' | 'PUT' | 'DELETE'
  /** Below /api, with `:name` parameters. */
  readonly path: string
  readonly summary: string
  readonly access: Access
  readonly params?: Schema
  readonly query?: Schema
  readonly body?: Schema
  /** The body is the file itself, not JSON. */
  readonly upload?: true
  /** Bytes that an upload may have; none: as many as a sheet. */
  readonly limit?: number
  /**
   * Of a route that writes: whose answers may say something else afterwards, by their names. Whoever calls it reads
   * those anew; a question asked by POST renews nothing.
   */
  readonly renews?: 'everything' | readonly string[]
  /** Which trail an act by it is written to, if not the system's: its agreement's own (by the use case), or none. */
  readonly trail?: 'agreement' | 'none'
  readonly answer: Schema | BinaryType | typeof NOTHING
  /** What it is answered with where that is not 200. */
  readonly status?: 202
  /** Takes an `Idempotency-Key`: the same one again does nothing more and has the same answer. */
  readonly idempotent?: true
  /** For whoever reads the description. */
  readonly example?: { readonly body?: unknown; readonly answer?: unknown }
}

/** Keeps the types of each route's parts, for callers and handlers. */
export const route = <const R extends Route>(made: R): R => made

/** Routes put together; each names only routes among them as what it renews. */
export const table = <T extends { readonly [N in keyof T]: Route & { readonly renews?: Renews<keyof T> } }>(
  routes: T,
): T => routes

type Renews<Name> = 'everything' | readonly Name[]

type Output<S> = S extends Schema ? v.InferOutput<S> : undefined
type Input<S> = S extends Schema ? v.InferInput<S> : undefined
type Part<R, K extends string> = R extends { readonly [P in K]: infer S } ? S : undefined

/** What the parts of a route need and give, by the route. */
export type Params<R> = Output<Part<R, 'params'>>
export type Query<R> = Output<Part<R, 'query'>>
export type QueryInput<R> = Input<Part<R, 'query'>>
export type Body<R> = Output<Part<R, 'body'>>
/** What it answers; a Blob where it is no JSON, and nothing where it has nothing to say. */
export type Answer<R> =
  Part<R, 'answer'> extends infer A
    ? A extends Schema
      ? v.InferOutput<A>
      : A extends null
        ? void
        : Blob
    : never

/** Whether nobody reaches a route without being known, by a session or a key. */
export type NeedsPerson<R> = Part<R, 'access'> extends 'anyone' | 'signing link' ? false : true
/** Whether only programs reach a route, by their keys. */
export type NeedsKey<R> = Part<R, 'access'> extends { readonly scope: Scope } ? true : false

/** Whether a route only asks: by GET, or by POST where what is asked is long. */
export const onlyAsks = ({ method, renews, upload }: Route): boolean =>
  method === 'GET' || (upload === undefined && Array.isArray(renews) && renews.length === 0)

/** Whether a route answers a file, not JSON. */
export const answersFile = ({ answer }: Route): boolean => typeof answer === 'string'
